import type { Material } from "./client";

/** Whether a material is visible: a clip or a still, not a font or a lookup table. */
export const isPicture = (one: Material) => ["video", "still"].includes(one.facts.kind);
