import { readFileSync } from "node:fs";
import { expect, test } from "vitest";
import type { ValueKind } from "../../api/client";
import { choiceIn, finder, stem, type Findable } from "./search";

/** The declared steps, and the demo's macros; written by "make api". */
const catalogue = JSON.parse(
  readFileSync(new URL("../../../catalogue.json", import.meta.url), "utf-8"),
) as Findable[];
const find = finder(catalogue);

/** Wishes of people (common practice), and steps that fulfil them. */
const WISHES: Record<string, string> = {
  // Words that are only choices.
  diamond: "ramp",
  "hard mix": "blend",
  "soft light": "blend",
  angular: "ramp",
  "blue noise": "dither",
  ridge: "noise",
  glow: "glow bloom",
  neon: "glow distance-colours",
  "neon sign": "glow distance-colours",
  "light sweep": "light-sweep",
  "logo shine": "light-sweep",
  glint: "light-sweep",
  sparkle: "glow flare",
  "lens flare": "flare",
  "sun rays": "zoom-blur flare",
  bloom: "bloom",
  haze: "bloom noise",
  smoke: "noise",
  fog: "noise",
  clouds: "noise",
  fire: "noise tint",
  marble: "noise",
  cartoon: "edges posterise",
  sketch: "edges",
  outline: "edges distance-colours rim",
  "outline text": "distance-colours title rim",
  emboss: "relief",
  foil: "relief",
  metal: "relief",
  plastic: "relief",
  "3d text": "relief shadow",
  bevel: "relief distance-colours",
  glass: "glass-pane",
  "frosted glass": "glass-pane",
  magnifier: "glass-pane lens-bend",
  "wet window": "beads",
  rain: "beads",
  drops: "beads",
  water: "caustic ripple displace",
  underwater: "caustic",
  pool: "caustic",
  dust: "dirt",
  scratches: "dirt",
  hair: "dirt",
  "old film": "dirt grain",
  "film grain": "grain",
  "old tv": "raster-lines",
  "old tape": "tape-wear",
  "scan lines": "raster-lines",
  glitch: "blocks displace slide-rows colour-split",
  "rgb split": "colour-split",
  "chromatic aberration": "colour-split",
  fisheye: "lens-bend",
  bokeh: "defocus",
  "out of focus": "defocus",
  "depth of field": "defocus mapped-blur",
  "tilt shift": "mapped-blur",
  "motion blur": "streak-blur",
  "soft edge": "feather",
  sharpen: "sharpen",
  "skin smoothing": "guided-blur",
  painting: "guided-blur",
  "slow motion": "speed",
  rewind: "reverse",
  freeze: "stutter hold-and-blend",
  "time lapse": "hold-and-blend speed",
  ghost: "trail echo",
  echo: "echo",
  tunnel: "echo trail polar zoom-blur",
  "slit scan": "time-slice",
  typewriter: "title",
  subtitle: "title",
  letters: "title",
  shake: "transform",
  zoom: "transform zoom-blur",
  flip: "transform",
  rotate: "transform rotary-blur",
  vignette: "vignette",
  "drop shadow": "shadow",
  "long shadow": "shadow",
  "black and white": "saturation threshold",
  sepia: "tint",
  "two tone": "tint",
  negative: "invert",
  "green screen": "key",
  "colour grade": "balance",
  brighten: "levels",
  contrast: "levels",
  comic: "halftone",
  newspaper: "halftone",
  mosaic: "pixelate",
  censor: "pixelate",
  "8 bit": "pixelate dither",
  kaleidoscope: "mirror-tiles",
  swirl: "twirl",
  "small planet": "polar",
  "cross fade": "dissolve",
  wipe: "luma-wipe",
  circle: "shape",
  iris: "shape",
  mask: "shape matte-to-alpha",
  "cut out": "matte-to-alpha shadow",
  gradient: "ramp",
  heat: "displace",
  perspective: "corner-pull",
  crowd: "echo",
  colourise: "tint hue-turn",
  darken: "levels vignette",
  dim: "levels",
  exposure: "levels balance",
  "make edges glow": "glow edges",
  multiply: "blend",
  add: "blend",
  "blend mode": "blend",
  overlay: "blend",
  silhouette: "threshold matte-to-alpha",
  "luminance matte": "channel",
  "alpha channel": "channel matte-to-alpha",
  loop: "repeat",
  "reaction diffusion": "repeat sharpen",
  stripes: "stripes",
  "polka dots": "dots",
  "checker board": "checks",
  "camera shake": "transform",
  flicker: "raster-lines levels",
  "fade out": "dissolve",
  "colour wash": "blur tint",
  "dreamy look": "bloom glow",
  "teal and orange": "balance tint",
  "lookup table": "lookup-table",
  "ink bleed": "feather grow misregister",
  "torn edge": "displace",
  "grow text": "grow",
  thicker: "grow",
  "focus pull": "defocus mapped-blur",
  "light leak": "flare ramp",
  "radial blur": "zoom-blur rotary-blur",
  slats: "stripes",
  curtain: "stripes",
  "clock wipe": "ramp",
  sunrise: "ramp",
  spin: "transform twirl",
  squeeze: "transform",
  bounce: "transform",
  sway: "transform",
  shockwave: "ripple displace",
  "heat haze": "displace",
  "x-ray": "invert",
  "night vision": "tint",
  strobe: "levels",
  "fade to black": "dissolve levels",
  snow: "dirt",
  lightning: "noise",
  "oil paint": "guided-blur",
  "round corners": "shape",
};

test.each(Object.entries(WISHES))("“%s” finds a step that does it", (wish, kinds) => {
  const first = find(wish)
    .rows.slice(0, 3)
    .map((one) => one.id);
  expect(
    kinds.split(" ").some((kind) => first.includes(kind)),
    first.join(", "),
  ).toBe(true);
});

test("there are wishes enough", () => expect(Object.keys(WISHES).length).toBeGreaterThan(79));

test("the name of a step finds it first", () => {
  for (const one of catalogue.filter((each) => !each.id.includes("@")))
    expect(find(one.label).rows[0]?.id, one.label).toBe(one.id);
});

test.each([
  ["clouds", "noise"],
  ["contrast", "levels"],
  ["luma wipe", "luma-wipe"],
  ["grade", "balance"],
  ["blend", "blend"],
  ["add", "blend"],
  ["multiply", "blend"],
  ["hard light", "blend"],
])("“%s” finds first what the guide says", (typed, kind) =>
  expect(find(typed).rows[0]?.id).toBe(kind),
);

test.each([
  ["gloww", "glow"],
  ["halftoen", "halftone"],
  ["vingette", "vignette"],
  ["embossing", "relief"],
  ["blurred", "blur"],
  ["kaleidoskope", "mirror-tiles"],
  ["defocussed", "defocus"],
])("“%s” forgives", (typed, kind) => {
  expect(
    find(typed)
      .rows.slice(0, 3)
      .map((one) => one.id),
  ).toContain(kind);
});

test("nothing stays empty that comes near something", () => {
  expect(find("xqzzw")).toEqual({ rows: [], near: false });
  expect(find("glimmer").rows.length).toBeGreaterThan(0);
  expect(find("glimmer").near).toBe(true);
  expect(find("vingette").near).toBe(true);
});

test("what only looks like a word gives way to what has it", () => {
  expect(find("glow").rows.map((one) => one.id)).not.toContain("speed");
  expect(find("glow").near).toBe(false);
});

test("words lose what only grammar adds", () => {
  expect(["blurs", "blurred", "blurring", "blur"].map(stem)).toEqual(Array(4).fill("blur"));
  expect([stem("glass"), stem("rays"), stem("grainy")]).toEqual(["glas", "ray", "grain"]);
});

const choice = (name: string, ...options: string[]) =>
  ({ name, type: "choice", options, default: options[0] }) as unknown as ValueKind;
const VALUES = [
  choice("shape", "ellipse", "polygon", "star"),
  choice("mode", "normal", "multiply", "soft light", "light"),
  choice("outside", "clear", "mirror"),
];

test.each([
  ["polygon", ["shape", "polygon"]],
  ["a star that turns", ["shape", "star"]],
  ["Multiply", ["mode", "multiply"]],
  ["soft light", ["mode", "soft light"]], // the longest
  ["starry", null],
  ["normal", null], // its setting already
  ["mirror", null], // the area outside the frame is not the goal of the search
])("“%s” chooses %s", (text, chosen) => expect(choiceIn(VALUES, text)).toEqual(chosen));
