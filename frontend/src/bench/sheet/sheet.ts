import type { KindOf } from "../useDraft";
import { create, type StoreApi } from "zustand";
import type { DraftView, Change, Step, ValueKind } from "../../api/client";
import { plain, valueOf } from "../../api/values";
import { rateOf } from "../../player/timecode";
import { triedUrl, type Size } from "../frames";
import { everyStep, findStep } from "../graph";
import { playsBackwards, shareAt } from "../moves/keys";
import { settingOf } from "../values/setting";
import { benchStore, type Place } from "../store";

export const MOST = 7;

/** One varied value: over a range of numbers, or over choices. */
export interface Axis {
  place: Place;
  name: string;
  from: number;
  to: number;
  count: number;
  choices: unknown[];
}

export interface Cell {
  /** The full settings of a cell, and the short label that distinguishes it in its sheet. */
  label: string;
  short: string;
  change: Change;
  /** The address of its picture. */
  url: string;
}

/** A sheet kept for comparing: its pictures and their settings. */
export interface Pinned {
  id: number;
  title: string;
  columns: number;
  cells: Cell[];
}

interface Sheets {
  axes: [Axis | null, Axis | null];
  pinned: Pinned[];
  setAxis: (at: 0 | 1, axis: Axis | null) => void;
  pin: (sheet: Omit<Pinned, "id">) => void;
  unpin: (id: number) => void;
  clear: () => void;
}

let next = 1;

export const useSheets = create<Sheets>((set) => ({
  axes: [null, null],
  pinned: [],
  setAxis: (at, axis) =>
    set(({ axes }) => ({ axes: at === 0 ? [axis, axes[1]] : [axes[0], axis] })),
  pin: (sheet) => set(({ pinned }) => ({ pinned: [{ ...sheet, id: next++ }, ...pinned] })),
  unpin: (id) => set(({ pinned }) => ({ pinned: pinned.filter((one) => one.id !== id) })),
  clear: () => set({ axes: [null, null], pinned: [] }),
}));

/** The same store, for reading the present state without following changes. */
export const sheetStore: StoreApi<Sheets> = useSheets;

/** Types of values that a sheet can vary. */
export function varies(kind: ValueKind): boolean {
  return ["number", "choice", "toggle", "slot"].includes(kind.type);
}

/** An axis over a value's slider range, or over its first choices and the present one. */
export function axisOf(place: Place, kind: ValueKind, slots: readonly string[] = []): Axis {
  const [from, to] = kind.slider ?? [0, 1];
  const all =
    kind.type === "toggle" ? [false, true] : kind.type === "slot" ? slots : (kind.options ?? []);
  return { place, name: kind.name, from, to, count: 5, choices: all.slice(0, MOST) };
}

/** Vary a value: its axis comes first, and the sheet is shown. */
export function vary(place: Place, name: string): void {
  sheetStore.setState(({ axes }) => ({
    axes: [{ place, name, from: NaN, to: NaN, count: 5, choices: [] }, axes[1]],
  }));
  benchStore.getState().setTab("sheet");
}

/** The values along an axis. */
export function stepsOf(axis: Axis, kind: ValueKind): unknown[] {
  if (kind.type !== "number") return axis.choices.slice(0, MOST);
  const count = Math.min(MOST, Math.max(2, axis.count));
  const found = Array.from({ length: count }, (_, k) => {
    const value = axis.from + ((axis.to - axis.from) * k) / (count - 1);
    return kind.whole ? Math.round(value) : Number(value.toPrecision(6));
  });
  return [...new Set(found)];
}

export interface Varied {
  step: Step;
  kind: ValueKind;
  title: string;
}

/** The step and the declaration of an axis, if they still exist. */
export function variedBy(
  draft: DraftView,
  axis: Axis | null,
  kindOf: KindOf,
  mix: ValueKind | undefined,
): Varied | null {
  const held = axis && findStep(draft.effect, axis.place);
  if (!held) return null;
  const declared = kindOf(held.step);
  const kind = axis.name === "mix" ? mix : declared?.values.find((one) => one.name === axis.name);
  if (!declared || !kind) return null;
  return { step: held.step, kind, title: `${held.step.name || declared.label}: ${kind.label}` };
}

/** Every value of the effect that can be varied, by step. */
export function variable(
  draft: DraftView,
  kindOf: KindOf,
  mix: ValueKind | undefined,
): { label: string; options: { value: string; label: string }[] }[] {
  return draft.effect.lanes.flatMap((lane) =>
    everyStep(lane).flatMap(({ step }) => {
      const declared = kindOf(step);
      if (!declared) return [];
      const values = declared.main && mix ? [...declared.values, mix] : declared.values;
      const options = values
        .filter(varies)
        .map((one) => ({ value: `${lane.id}.${step.id}.${one.name}`, label: one.label }));
      return options.length
        ? [{ label: `${lane.name}, ${step.name || declared.label}`, options }]
        : [];
    }),
  );
}

/** The cells of a sheet, row by row: the first value across, the second down. */
export function cellsOf(
  draft: DraftView,
  axes: readonly { axis: Axis; varied: Varied }[],
  frame: number,
  length: number,
  size: Size,
): { columns: number; cells: Cell[] } {
  const share = shareAt(playsBackwards(draft.effect), frame, length);
  const rate = rateOf(draft.effect.rate);
  const [first, second] = axes;
  if (!first) return { columns: 0, cells: [] };
  const across = stepsOf(first.axis, first.varied.kind);
  const down = second ? stepsOf(second.axis, second.varied.kind) : [undefined];
  const cells = down.flatMap((low) =>
    across.map((value): Cell => {
      const set = [{ ...first, value }, ...(second ? [{ ...second, value: low }] : [])];
      const label = set.map((one) => `${one.varied.kind.label} ${plain(one.value)}`).join(", ");
      const change = {
        do: "several" as const,
        changes: set.map(({ axis, varied, value }) =>
          settingOf(
            axis.place,
            varied.kind,
            valueOf(varied.step, varied.kind),
            value,
            share,
            length,
            rate,
          ),
        ),
        said: `From the sheet: ${label}`,
      };
      return {
        label,
        short: set.map((one) => plain(one.value)).join(", "),
        change,
        url: triedUrl(draft, change, frame, length, size),
      };
    }),
  );
  return { columns: across.length, cells };
}
