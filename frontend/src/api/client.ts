import createClient from "openapi-fetch";
import createQueries from "openapi-react-query";
import { get } from "./get";
import { inLine } from "./queue";
import type { components, paths } from "./schema";

type Schemas = components["schemas"];
export type DraftView = Schemas["DraftView"];
export type Effect = Schemas["Effect-Output"];
export type Lane = Schemas["Lane-Output"];
export type Step = Schemas["Step-Output"];
export type Input = Schemas["Input"];
export type Control = Schemas["Control"];
export type StepKind = Schemas["StepKindView"];
export type Held = Schemas["HeldKindView"];
export type ValueKind = Schemas["ValueKind"];
export type MacroCard = Schemas["MacroCard"];
export type Material = Schemas["MaterialView"];
export type CopyView = Schemas["CopyView"];
export type ScreenCopies = Schemas["ScreenCopies"];
export type MaterialList = Schemas["MaterialList"];
export type RenderList = Schemas["RenderList"];
export type PartList = Schemas["PartList"];
export type DraftCards = Schemas["DraftCards"];
export type NewDraft = Schemas["NewDraft"];
export type ReelView = Schemas["ReelView"];
export type JoinView = Schemas["JoinView"];
export type Shot = Schemas["ShotView"];
export type Item = Schemas["ItemView"];
export type Source = Schemas["SourceView"];
export type Look = Schemas["LookView"];
export type Use = Schemas["UseView"];
export type Pinned = Schemas["PinnedView"];
export type Handles = Schemas["HandlesView"];
export type Mismatch = Schemas["MismatchView"];
export type RenderView = Schemas["RenderView"];
export type Expected = Schemas["ExpectedView"];
export type FormatView = Schemas["FormatView"];
export type ClusterView = Schemas["ClusterView"];
export type ClusterWorker = Schemas["ClusterWorker"];
export type Curve = Schemas["Curve"];
export type Change = Schemas["ChangeBody"]["change"];
/** A change that is not several. */
export type One = Exclude<Change, { do: "several" }>;
export type Probe = Schemas["Probe"];
export type PartView = Schemas["PartView"];
export type Part = Schemas["Part-Output"];
export type Arrival = Schemas["Arrival"];
export type ReelChange = Schemas["ReelChangeBody"]["change"];

/** A fault from the server, with its sentence. */
export class Problem extends Error {
  readonly title = "Not done";
  constructor(
    readonly status: number,
    readonly detail: string,
    readonly where: string | null = null,
  ) {
    super(detail);
  }
}

/** The server does not answer or is busy; another attempt may succeed. */
export const passes = (problem: Problem | null) => problem?.status === 0 || problem?.status === 503;

const GONE =
  "Pale Static does not answer. Start it again where it ran; what was accepted before is saved.";

export async function problemOf(answer: Response): Promise<Problem> {
  try {
    const told = (await answer.json()) as Schemas["Problem"];
    return new Problem(answer.status, told.detail, told.where);
  } catch {
    return new Problem(answer.status, GONE);
  }
}

/** Figures about a draft, which the page asks for together with its small pictures. */
const FIGURES = /\/(coverage|curves)$/;

/** The API's operations, typed by its description. */
export const http = createClient<paths>({
  fetch: (request) => {
    const { pathname, search } = new URL(request.url);
    if (request.method !== "GET") return fetch(request);
    const address = pathname + search;
    return FIGURES.test(pathname)
      ? inLine("figures", request.signal, address)
      : get(address, request);
  },
});
http.use({
  async onResponse({ response }) {
    if (!response.ok) throw await problemOf(response);
  },
  onError: ({ error }) =>
    (error as Error).name === "AbortError" ? undefined : new Problem(0, GONE),
});

/** The API's operations as queries and mutations. */
export const $api = createQueries(http);

/** The data of a call's answer. */
export const answered = async <T>(call: Promise<{ data?: T }>): Promise<T> =>
  (await call).data as T;

/** The body of a request that carries a file. */
export function carrying(picked: File | readonly File[], about?: unknown): never {
  const form = new FormData();
  for (const one of [picked].flat() as File[]) form.append("file", one);
  if (about) form.append("about", JSON.stringify(about));
  return form as never;
}

/** Brings a file in as a material. */
export const bringIn = (file: File) =>
  answered(http.POST("/api/materials", { body: carrying(file) }));

/** A name for this window, unique among all windows of all people. */
const WINDOW = Math.random().toString(36).slice(2);

/** The name of a stream of pictures, of which only the newest is computed: each window has its own. */
export const streamOf = (name: string) => `${name}.${WINDOW}`;

/** What a picture cost: milliseconds now; and of each step, with the bytes of its result. */
export interface PictureCost {
  ms: number;
  steps: readonly (readonly [place: string, ms: number, bytes: number])[];
}

/** What the picture of an answer cost. */
export function costOf(answer: Response): PictureCost | null {
  const told = answer.headers.get("X-Cost");
  return told ? (JSON.parse(told) as PictureCost) : null;
}

/** The picture that answers a POST; null if a newer request has replaced it. */
export async function livePicture(
  path: string,
  body: unknown,
  signal?: AbortSignal,
): Promise<Response | null> {
  const answer = await fetch(`/api${path}`, {
    method: "POST",
    body: JSON.stringify(body),
    headers: { "Content-Type": "application/json" },
    signal,
  });
  if (answer.status === 204) return null;
  if (!answer.ok) throw await problemOf(answer);
  return answer;
}

/** A query string from the values that are set. */
export function query(values: Record<string, string | number | undefined>): string {
  const found = new URLSearchParams();
  for (const [name, value] of Object.entries(values))
    if (value !== undefined && value !== "") found.set(name, String(value));
  return found.toString();
}
