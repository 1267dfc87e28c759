import { extractStyle } from "@ant-design/static-style-extract";
import { ConfigProvider } from "antd";
import { themeConfig } from "./src/theme/antd.ts";
import { paletteSheet, THEMES } from "./src/theme/palette.ts";

/** Components that are used, and those that they contain. */
const USED = [
  "App",
  "AutoComplete",
  "Button",
  "Checkbox",
  "ColorPicker",
  "Drawer",
  "Dropdown",
  "Empty",
  "Input",
  "InputNumber",
  "Menu",
  "message",
  "Modal",
  "Popover",
  "Progress",
  "Radio",
  "Segmented",
  "Select",
  "Slider",
  "Switch",
  "Tabs",
  "Tooltip",
];

/** The complete rules of a sheet. */
function rulesOf(sheet: string): string[] {
  const rules = [];
  let [depth, begins] = [0, 0];
  for (let at = 0; at < sheet.length; at++) {
    if (sheet[at] === "{") depth++;
    else if (sheet[at] === "}" && --depth === 0) {
      rules.push(sheet.slice(begins, at + 1));
      begins = at + 1;
    }
  }
  return rules;
}

/** Themes that components create when they are drawn alone, and the cache's notes. */
const SELF_MADE = /^\s*\.(css-var-|data-ant-cssinjs)/;

/** The palettes, and the styles of all components that are used, for all themes. */
export function sheet(): string {
  const found: string[] = [];
  for (const name of THEMES) {
    const theme = { ...themeConfig(name), zeroRuntime: false };
    const text = extractStyle({
      includes: USED,
      customTheme: (node) => <ConfigProvider theme={theme}>{node}</ConfigProvider>,
    });
    // From a further theme only rules that the others lack, because the order of rules decides
    // between them.
    const known = new Set(found);
    const rules = rulesOf(text);
    found.push(...rules.filter((rule) => !SELF_MADE.test(rule) && !known.has(rule)));
  }
  return [paletteSheet(), ...found].join("\n");
}
