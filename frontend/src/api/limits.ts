import limits from "../../limits.json";

type Limits = typeof limits;

/** The largest lengths of text fields in requests, from the API's description. */
export function mostOf<M extends keyof Limits>(model: M, field: keyof Limits[M]): number {
  return limits[model][field] as number;
}
