/** Queries of the places; each has one key, shared by all callers. */

import { $api } from "./client";

const of = (number: number) => ({ params: { path: { number } } });

const STAYS = { staleTime: Infinity };

/** Queries that a place opens with: sent before it is drawn, and not again while a slow machine
 * draws. */
const OPENS = { staleTime: 10_000 };

/** Queries about a draft at its current revision; the revision is a part of their keys. */
interface Drafted {
  id: number;
  revision: number;
}

const at = (draft: Drafted) => ({ number: draft.id, revision: draft.revision });

export const asked = {
  steps: () => $api.queryOptions("get", "/api/steps", {}, STAYS),
  macroSteps: () => $api.queryOptions("get", "/api/steps/macros"),
  eases: () => $api.queryOptions("get", "/api/eases", {}, STAYS),
  drafts: () => $api.queryOptions("get", "/api/effects"),
  draft: (id: number) => $api.queryOptions("get", "/api/effects/{number}", of(id), OPENS),
  history: (id: number) => $api.queryOptions("get", "/api/effects/{number}/history", of(id)),
  curves: (draft: Drafted, length: number) =>
    $api.queryOptions("get", "/api/effects/{number}/{revision}/curves", {
      params: { path: at(draft), query: { length, points: 101 } },
    }),
  coverage: (draft: Drafted, length: number) =>
    $api.queryOptions("get", "/api/effects/{number}/{revision}/coverage", {
      params: { path: at(draft), query: { length } },
    }),
  parts: () => $api.queryOptions("get", "/api/parts"),
  macros: () => $api.queryOptions("get", "/api/macros"),
  macro: (slug: string) =>
    $api.queryOptions("get", "/api/macros/{slug}", { params: { path: { slug } } }),
  keptSettings: (slug: string) =>
    $api.queryOptions("get", "/api/macros/{slug}/settings", { params: { path: { slug } } }),
  materials: () => $api.queryOptions("get", "/api/materials"),
  screenCopies: () => $api.queryOptions("get", "/api/screen-copies"),
  waiting: () => $api.queryOptions("get", "/api/waiting"),
  reels: () => $api.queryOptions("get", "/api/reels"),
  reel: (id: number) => $api.queryOptions("get", "/api/reels/{number}", of(id), OPENS),
  formats: () => $api.queryOptions("get", "/api/formats", {}, { staleTime: Infinity }),
  handingOn: (id: number) => $api.queryOptions("get", "/api/reels/{number}/handing-on", of(id)),
  expected: (reel: Drafted, form: string, first: number, frames: number) =>
    $api.queryOptions(
      "get",
      "/api/reels/{number}/{revision}/expected",
      { params: { path: at(reel), query: { form, first, frames } } },
      STAYS,
    ),
  preflight: (id: number, form: string) =>
    $api.queryOptions("get", "/api/reels/{number}/preflight", {
      params: { path: { number: id }, query: { form } },
    }),
  renders: () => $api.queryOptions("get", "/api/renders"),
  cluster: () => $api.queryOptions("get", "/api/cluster"),
};
