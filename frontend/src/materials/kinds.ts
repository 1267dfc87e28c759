import type { Material } from "../api/client";

/** Whether a material is seen: a clip or a still, and no font or lookup table. */
export const isPicture = (one: Material) => ["video", "still"].includes(one.facts.kind);
