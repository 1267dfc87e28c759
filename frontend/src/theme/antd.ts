import { theme, type ThemeConfig } from "antd";

export type ThemeName = "pale" | "dim";
export const THEMES: readonly ThemeName[] = ["pale", "dim"];

/** The forms, menus, tables and messages in the colours of the application. */
export function themeConfig(name: ThemeName, motion = true): ThemeConfig {
  const pale = name === "pale";
  const ink = pale ? "#1D2321" : "#E9E8E2";
  const sheet = pale ? "#F7F6F2" : "#2C302F";
  return {
    // Styles are made when the application is built (sheet.tsx), and not when a page is opened.
    zeroRuntime: true,
    hashed: false,
    cssVar: { key: `antd-${name}` },
    algorithm: pale ? theme.defaultAlgorithm : theme.darkAlgorithm,
    token: {
      colorPrimary: pale ? "#17596A" : "#6FB3C4",
      colorInfo: pale ? "#17596A" : "#6FB3C4",
      colorTextLightSolid: pale ? "#FFFFFF" : "#14211F",
      colorLink: pale ? "#17596A" : "#6FB3C4",
      colorLinkHover: ink,
      colorText: ink,
      colorTextSecondary: pale ? "#59605C" : "#A5ABA7",
      colorTextDescription: pale ? "#59605C" : "#A5ABA7",
      colorTextPlaceholder: pale ? "#666D69" : "#9BA19D",
      colorBgBase: pale ? "#ECEBE6" : "#232625",
      colorBgContainer: sheet,
      colorBgElevated: sheet,
      colorBorder: pale ? "#CFCDC4" : "#434846",
      colorBorderSecondary: pale ? "#CFCDC4" : "#434846",
      colorError: pale ? "#A4372B" : "#E58C80",
      colorWarning: pale ? "#8A5A00" : "#DCAE5A",
      colorSuccess: pale ? "#3E6B45" : "#8FBF97",
      borderRadius: 2,
      borderRadiusLG: 2,
      borderRadiusSM: 2,
      fontFamily: "IBM Plex Sans, sans-serif",
      fontSize: 13,
      controlHeight: 28,
      controlHeightSM: 24,
      // Our own surfaces never animate; the components stop too where that is asked for.
      motion,
      motionDurationMid: "0.1s",
      motionDurationSlow: "0.15s",
      boxShadow: "0 2px 10px rgba(0,0,0,.18)",
      boxShadowSecondary: "0 2px 10px rgba(0,0,0,.18)",
    },
    components: {
      Button: { primaryShadow: "none", defaultShadow: "none", dangerShadow: "none" },
    },
  };
}
