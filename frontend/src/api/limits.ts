import limits from "../../limits.json";

type Limits = typeof limits;

/** Characters that a text field of a request may have, as the API's description says. */
export function mostOf<M extends keyof Limits>(model: M, field: keyof Limits[M]): number {
  return limits[model][field] as number;
}
