/** The colours of both themes. Styles read them as --paper, --on-petrol and so on. */
export const PALETTES = {
  pale: {
    /** The page. */
    paper: "#ecebe6",
    /** Cards, fields and menus. */
    sheet: "#f7f6f2",
    /** The output's lane. */
    out: "#e4e3dd",
    /** Lines between things. */
    rule: "#cfcdc4",
    /** Tracks of sliders. */
    track: "#b9b7ad",
    /** Text. */
    ink: "#1d2321",
    /** Text beside text. */
    soft: "#59605c",
    /** Things to press, and the selection. */
    petrol: "#17596a",
    /** Text on petrol. */
    onPetrol: "#ffffff",
    /** Things that are exposed to the editor. */
    plum: "#7b3a63",
    /** What is well. */
    moss: "#3e6b45",
    /** What to look at. */
    amber: "#8a5a00",
    /** The ground of notes. */
    amberGround: "#f3ecdd",
    /** The playhead, and faults. */
    brick: "#a4372b",
    /** Around pictures: a middle grey. */
    surround: "#7d7d7d",
    /** Shade over a picture. */
    shade: "#17596a29",
    /** Text that stands in an empty field. */
    placeholder: "#666D69",
  },
  dim: {
    paper: "#232625",
    sheet: "#2c302f",
    out: "#282c2b",
    rule: "#434846",
    track: "#5c625f",
    ink: "#e9e8e2",
    soft: "#a5aba7",
    petrol: "#6fb3c4",
    onPetrol: "#14211f",
    plum: "#cf8fb6",
    moss: "#8fbf97",
    amber: "#dcae5a",
    amberGround: "#3a3425",
    brick: "#e58c80",
    surround: "#5a5a5a",
    shade: "#6fb3c429",
    placeholder: "#9BA19D",
  },
} as const;

export type ThemeName = keyof typeof PALETTES;
export const THEMES: readonly ThemeName[] = ["pale", "dim"];

/** The palettes as custom properties of a style sheet. */
export function paletteSheet(): string {
  const spelled = (name: string) => name.replace(/[A-Z]/g, (big) => `-${big.toLowerCase()}`);
  return THEMES.map((theme) => {
    const at = theme === "pale" ? ":root" : `:root[data-theme="${theme}"]`;
    const lines = Object.entries(PALETTES[theme]).map(([name, of]) => `--${spelled(name)}:${of}`);
    return `${at}{${lines.join(";")}}`;
  }).join("\n");
}
