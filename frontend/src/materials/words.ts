import type { Material } from "../api/client";
import { isPicture } from "../api/kinds";

/** The kind and the coding of a file. */
export function coding({ facts }: Material): string {
  const parts: string[] = [facts.kind, facts.coding ?? ""];
  if (facts.kind === "font") parts.push(`${facts.glyphs} glyphs`);
  if (facts.pictures) parts.push(`${facts.pictures} pictures`);
  if (facts.kind !== "font" && facts.kind !== "table") parts.push(`${facts.bits} bits`);
  if (facts.colour?.chroma) parts.push(facts.colour.chroma);
  if (facts.layers?.length) parts.push(`layers ${facts.layers.join(", ")}`);
  return parts.filter(Boolean).join(" · ");
}

/** How its codes are read as colour: by the file's tags, or by a person's choice. */
export function colour(material: Material): string {
  const { facts, reading } = material;
  if (!isPicture(material)) return "";
  const told = facts.colour;
  const parts: string[] = [];
  if (told && told.chroma !== "RGB") {
    const matrix = reading.matrix ?? told.matrix;
    const guess = (facts.height ?? 0) >= 720 ? "Rec. 709" : "Rec. 601";
    parts.push(matrix || `${guess} (the file does not say)`);
    parts.push(`${(reading.range ?? told.range) || "video"} range`);
  }
  const curve = reading.transfer ?? told?.transfer;
  if (curve === "PQ" || curve === "HLG") parts.push(curve);
  if (facts.alpha)
    parts.push(`${reading.alpha ?? (facts.premultiplied ? "premultiplied" : "straight")} alpha`);
  if (facts.interlaced) parts.push(reading.field ? `${reading.field} field` : "interlaced");
  if (reading.layer) parts.push(`layer ${reading.layer}`);
  if (reading.table) parts.push("through a lookup table");
  const own = material.mark !== "";
  return parts.length ? `${parts.join(" · ")}${own ? " · set here" : ""}` : "";
}
