import type { components } from "./schema";

type Schemas = components["schemas"];
export type DraftView = Schemas["DraftView"];
export type Effect = Schemas["Effect"];
export type Lane = Schemas["Lane-Output"];
export type Step = Schemas["Step-Output"];
export type Input = Schemas["Input"];
export type Control = Schemas["Control"];
export type StepKind = Schemas["StepKindView"];
export type ValueKind = Schemas["ValueKind"];
export type MacroCard = Schemas["MacroCard"];
export type Material = Schemas["MaterialView"];
export type ReelView = Schemas["ReelView"];
export type JoinView = Schemas["JoinView"];
export type Shot = Schemas["ShotView"];
export type RenderView = Schemas["RenderView"];
export type Curve = Schemas["Curve"];
export type Change = Schemas["ChangeBody"]["change"];
/** A change that is not several. */
export type One = Exclude<Change, { do: "several" }>;
export type Probe = Schemas["Probe"];
export type PartView = Schemas["PartView"];
export type Part = Schemas["Part-Output"];
export type Arrival = Schemas["Arrival"];
export type ReelChange = Schemas["ReelChangeBody"]["change"];

/** What the server says could not be done, in its own sentence. */
export class Problem extends Error {
  constructor(
    readonly status: number,
    sentence: string,
    readonly where?: string | null,
  ) {
    super(sentence);
  }
}

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

declare global {
  interface Window {
    /** Answers that public/early.js has asked for, by address; each is used once. */
    early?: Map<string, Promise<Response | undefined>>;
  }
}

/** Asks for what is at an address, or takes the answer that has been asked for early. */
export async function get(address: string, init?: RequestInit): Promise<Response> {
  const found = window.early?.get(address);
  window.early?.delete(address);
  return (await found) ?? (await fetch(address, init));
}

async function call<T>(method: string, path: string, body?: unknown): Promise<T> {
  const init: RequestInit = { method };
  if (body instanceof FormData) init.body = body;
  else if (body !== undefined) {
    init.body = JSON.stringify(body);
    init.headers = { "Content-Type": "application/json" };
  }
  let answer: Response;
  try {
    answer = await (method === "GET" ? get : fetch)(`/api${path}`, init);
  } catch {
    throw new Problem(0, GONE);
  }
  if (!answer.ok) throw await problemOf(answer);
  return (await answer.json()) as T;
}

function file(picked: File, about?: unknown): FormData {
  const form = new FormData();
  form.append("file", picked);
  if (about) form.append("about", JSON.stringify(about));
  return form;
}

export const api = {
  steps: () => call<Schemas["StepKinds"]>("GET", "/steps"),
  drafts: () => call<Schemas["DraftCards"]>("GET", "/effects"),
  startDraft: (body: Partial<Schemas["NewDraft"]>) => call<DraftView>("POST", "/effects", body),
  draft: (id: number) => call<DraftView>("GET", `/effects/${id}`),
  removeDraft: (id: number) => call<Schemas["DraftCards"]>("DELETE", `/effects/${id}`),
  restoreDraft: (id: number) => call<Schemas["DraftCards"]>("POST", `/effects/${id}/restore`),
  change: (id: number, base: number, change: Change) =>
    call<DraftView>("POST", `/effects/${id}/changes`, { base, change }),
  refusal: (id: number, base: number, change: Change) =>
    call<Schemas["Refusal"]>("POST", `/effects/${id}/refusal`, { base, change }),
  undo: (id: number) => call<DraftView>("POST", `/effects/${id}/undo`),
  redo: (id: number) => call<DraftView>("POST", `/effects/${id}/redo`),
  goTo: (id: number, revision: number) =>
    call<DraftView>("POST", `/effects/${id}/go`, { revision }),
  history: (id: number) => call<Schemas["History"]>("GET", `/effects/${id}/history`),
  keepStage: (id: number, name: string) =>
    call<Schemas["History"]>("POST", `/effects/${id}/stages`, { name }),
  coverage: (id: number, revision: number, length: number) =>
    call<Schemas["Coverage"]>("GET", `/effects/${id}/${revision}/coverage?length=${length}`),
  curves: (id: number, revision: number, length: number) =>
    call<Schemas["Curves"]>("GET", `/effects/${id}/${revision}/curves?length=${length}&points=101`),
  costs: (id: number, revision: number, query: string) =>
    call<Schemas["Costs"]>("GET", `/effects/${id}/${revision}/costs?${query}`),
  probe: (id: number, revision: number, query: string) =>
    call<Probe>("GET", `/effects/${id}/${revision}/probe?${query}`),
  eases: () => call<Schemas["EaseShapes"]>("GET", "/eases"),
  copyDraft: (id: number, base: number, change: Change | null) =>
    call<DraftView>("POST", `/effects/${id}/copy`, { base, change }),
  setProject: (id: number, project: string) =>
    call<DraftView>("POST", `/effects/${id}/project`, { project }),
  parts: () => call<Schemas["PartList"]>("GET", "/parts"),
  keepPart: (body: Partial<Schemas["KeepPart"]>) => call<PartView>("POST", "/parts", body),
  describePart: (id: number, body: Schemas["AboutPart"]) =>
    call<Schemas["PartList"]>("POST", `/parts/${id}`, body),
  removePart: (id: number) => call<Schemas["PartList"]>("DELETE", `/parts/${id}`),
  restorePart: (id: number) => call<Schemas["PartList"]>("POST", `/parts/${id}/restore`),
  readParts: (picked: File) => call<Arrival>("POST", "/parts/read", file(picked)),
  takeInParts: (picked: File, about: Schemas["TakeIn"]) =>
    call<Schemas["TakenIn"]>("POST", "/parts/take-in", file(picked, about)),
  publish: (id: number, body: Schemas["PublishBody"]) =>
    call<Schemas["Published"]>("POST", `/effects/${id}/publish`, body),
  macros: () => call<Schemas["MacroCards"]>("GET", "/macros"),
  macro: (slug: string) => call<Schemas["MacroView"]>("GET", `/macros/${slug}`),
  bringMacro: (picked: File) => call<Schemas["BroughtIn"]>("POST", "/macros", file(picked)),
  readGrade: (picked: File) => call<Schemas["GradeView"]>("POST", "/grades", file(picked)),
  waiting: () => call<Schemas["Waiting"]>("GET", "/waiting"),
  materials: () => call<Schemas["MaterialList"]>("GET", "/materials"),
  bringMaterial: (picked: File) => call<Material>("POST", "/materials", file(picked)),
  removeMaterial: (id: string) => call<Schemas["MaterialList"]>("DELETE", `/materials/${id}`),
  restoreMaterial: (id: string) =>
    call<Schemas["MaterialList"]>("POST", `/materials/${id}/restore`),
  renameMaterial: (id: string, name: string) =>
    call<Schemas["MaterialList"]>("POST", `/materials/${id}/name`, { name }),
  reels: () => call<Schemas["ReelCards"]>("GET", "/reels"),
  startReel: (body: Partial<Schemas["NewReel"]>) => call<ReelView>("POST", "/reels", body),
  reel: (id: number) => call<ReelView>("GET", `/reels/${id}`),
  changeReel: (id: number, base: number, change: ReelChange) =>
    call<ReelView>("POST", `/reels/${id}/changes`, { base, change }),
  undoReel: (id: number) => call<ReelView>("POST", `/reels/${id}/undo`),
  redoReel: (id: number) => call<ReelView>("POST", `/reels/${id}/redo`),
  preflight: (id: number, form: string) =>
    call<Schemas["Preflight"]>("GET", `/reels/${id}/preflight?form=${form}`),
  renders: () => call<Schemas["RenderList"]>("GET", "/renders"),
  render: (body: Partial<Schemas["AskRender"]>) => call<RenderView>("POST", "/renders", body),
  cancelRender: (id: number) => call<Schemas["RenderList"]>("POST", `/renders/${id}/cancel`),
  againRender: (id: number) => call<Schemas["RenderList"]>("POST", `/renders/${id}/again`),
};

/** The picture that a POST answers with; null where a newer request has overtaken it. */
export async function livePicture(
  path: string,
  body: unknown,
  signal?: AbortSignal,
): Promise<Blob | null> {
  const answer = await fetch(`/api${path}`, {
    method: "POST",
    body: JSON.stringify(body),
    headers: { "Content-Type": "application/json" },
    signal,
  });
  if (answer.status === 204) return null;
  if (!answer.ok) throw await problemOf(answer);
  return answer.blob();
}

/** A query string from what is set. */
export function query(values: Record<string, string | number | undefined>): string {
  const found = new URLSearchParams();
  for (const [name, value] of Object.entries(values))
    if (value !== undefined && value !== "") found.set(name, String(value));
  return found.toString();
}
