import type { Control } from "../api/client";
import { plain } from "../api/values";

/** Types of controls that are numbers on a slider. */
export const NUMERIC = ["number", "whole", "angle", "seed"];

/** Whether an editor sees a control at these settings. */
export function isShown(control: Control, settings: Record<string, unknown>): boolean {
  if (control.hidden) return false;
  return Object.entries(control.when ?? {}).every(([slug, some]) =>
    some.includes(settings[slug] as boolean | string),
  );
}

export interface Group {
  name: string;
  controls: Control[];
}

/** Controls by their groups, in the order in which each group begins; those of no group come first. */
export function groupsOf(controls: readonly Control[]): Group[] {
  const groups = new Map<string, Control[]>([["", []]]);
  for (const one of controls) {
    const name = one.group ?? "";
    groups.set(name, [...(groups.get(name) ?? []), one]);
  }
  return [...groups].flatMap(([name, some]) => (some.length ? [{ name, controls: some }] : []));
}

/** Why a setting lies beyond what its maker recommends; null within it. */
export function adviceOn(control: Control, value: unknown): string | null {
  const { edge } = control;
  if (typeof value !== "number" || !edge) return null;
  const past = (edge.above ?? Infinity) < value || (edge.below ?? -Infinity) > value;
  return past ? edge.reason : null;
}

/** The good zone of a control in words; empty without one. */
export function goodWords(control: Control): string {
  const good = control.good;
  return good ? `Good from ${plain(good[0])} to ${plain(good[1])}.` : "";
}
