import { createCache, extractStyle, StyleProvider } from "@ant-design/cssinjs";
import {
  App,
  AutoComplete,
  Button,
  Checkbox,
  ColorPicker,
  ConfigProvider,
  Drawer,
  Dropdown,
  Empty,
  Input,
  InputNumber,
  Menu,
  message,
  Modal,
  Popover,
  Progress,
  Radio,
  Segmented,
  Select,
  Slider,
  Switch,
  Tabs,
  Tooltip,
} from "antd";
import type { ReactNode } from "react";
import { renderToString } from "react-dom/server";
import { themeConfig } from "./src/theme/antd.ts";
import { paletteSheet, THEMES } from "./src/theme/palette.ts";

// What the library draws in place has such names there.
const { _InternalPanelDoNotUseOrYouWillBeFired: Message } = message;
const { _InternalPanelDoNotUseOrYouWillBeFired: Panel } = Modal;

/** Everything that is used, also what is inside of something that opens later. */
const USED: ReactNode = (
  <App>
    <AutoComplete />
    <Button />
    <Checkbox />
    <ColorPicker />
    <Drawer />
    <Dropdown menu={{ items: [] }}>
      <i />
    </Dropdown>
    <Empty />
    <Input />
    <Input.TextArea />
    <InputNumber />
    <Menu items={[]} />
    <Message />
    <Modal />
    <Panel />
    <Popover />
    <Progress />
    <Radio.Group options={[""]} />
    <Radio.Button />
    <Segmented options={[]} />
    <Select />
    <Slider />
    <Switch />
    <Tabs items={[{ key: "", label: "" }]} />
    <Tooltip />
  </App>
);

/** The rules of a sheet, each whole. */
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

/** Themes that components make up for themselves when they are drawn alone, and the cache's notes. */
const SELF_MADE = /^\s*\.(css-var-|data-ant-cssinjs)/;

/** The palettes, and the styles of all components that are used, for all themes. */
export function sheet(): string {
  const found: string[] = [];
  for (const name of THEMES) {
    const cache = createCache();
    renderToString(
      <StyleProvider cache={cache}>
        <ConfigProvider theme={{ ...themeConfig(name), zeroRuntime: false }}>{USED}</ConfigProvider>
      </StyleProvider>,
    );
    // Of a further theme only what the others have not: the order of rules decides between them.
    const known = new Set(found);
    const rules = rulesOf(extractStyle(cache, { plain: true }));
    found.push(...rules.filter((rule) => !SELF_MADE.test(rule) && !known.has(rule)));
  }
  return [paletteSheet(), ...found].join("\n");
}
