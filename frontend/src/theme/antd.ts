import { theme, type ThemeConfig } from "antd";
import { PALETTES, type ThemeName } from "./palette.ts";

/** Forms, menus, tables and messages in the application's colours. */
export function themeConfig(name: ThemeName, motion = true): ThemeConfig {
  const colours = PALETTES[name];
  return {
    // Styles are made when the application is built (sheet.tsx), not when a page opens.
    zeroRuntime: true,
    hashed: false,
    cssVar: { key: `antd-${name}` },
    algorithm: name === "pale" ? theme.defaultAlgorithm : theme.darkAlgorithm,
    token: {
      colorPrimary: colours.petrol,
      colorInfo: colours.petrol,
      colorTextLightSolid: colours.onPetrol,
      colorLink: colours.petrol,
      colorLinkHover: colours.ink,
      colorText: colours.ink,
      colorTextSecondary: colours.soft,
      colorTextDescription: colours.soft,
      colorTextPlaceholder: colours.placeholder,
      colorBgBase: colours.paper,
      colorBgContainer: colours.sheet,
      colorBgElevated: colours.sheet,
      colorBorder: colours.rule,
      colorBorderSecondary: colours.rule,
      colorError: colours.brick,
      colorWarning: colours.amber,
      colorSuccess: colours.moss,
      borderRadius: 2,
      borderRadiusLG: 2,
      borderRadiusSM: 2,
      fontFamily: "IBM Plex Sans, sans-serif",
      fontSize: 13,
      controlHeight: 28,
      controlHeightSM: 24,
      // Our own surfaces never animate; the components stop animating too on request.
      motion,
      motionDurationMid: "0.1s",
      motionDurationSlow: "0.15s",
      boxShadow: "0 2px 10px rgba(0,0,0,.18)",
      boxShadowSecondary: "0 2px 10px rgba(0,0,0,.18)",
    },
    components: {
      Button: { primaryShadow: "none", defaultShadow: "none", dangerShadow: "none" },
      Tooltip: { colorBgSpotlight: colours.ink, colorTextLightSolid: colours.paper },
    },
  };
}
