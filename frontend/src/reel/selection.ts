/** The selection on the strip, and the parts of the edit that it means. */

import type { Item, JoinView, Look, Pinned, ReelView, Shot, Use } from "../api/client";

/** The place of a join: between two neighbours, or at a free end. */
export interface Cut {
  left: string | null;
  right: string | null;
}

export type Selection =
  | { kind: "cuts"; cuts: Cut[] }
  | { kind: "placed"; names: string[] }
  | { kind: "look"; look: string }
  | null;

/** A shot or an item with the frames it lies on. */
export type Placed = Shot | Item;

export const isShot = (one: Placed): one is Shot => "gap" in one;

export const sameCut = (a: Cut, b: Cut) => a.left === b.left && a.right === b.right;

/** Everything of an edit by its name, found once for each view: an edit may have 5,000 shots. */
interface Index {
  placed: Placed[];
  byName: ReadonlyMap<string, Placed>;
  joins: ReadonlyMap<string, JoinView>;
  cuts: Cut[];
}

const indices = new WeakMap<ReelView, Index>();

const nameOf = (cut: Cut) => `${cut.left ?? ""}|${cut.right ?? ""}`;

function indexOf(view: ReelView): Index {
  const known = indices.get(view);
  if (known) return known;
  const placed = [...view.shots, ...view.items];
  const found = {
    placed,
    byName: new Map(placed.map((one) => [one.id, one])),
    joins: new Map(view.joins.map((join) => [nameOf(join), join])),
    cuts: cutsBetween(view.shots),
  };
  indices.set(view, found);
  return found;
}

export const placedOf = (view: ReelView): readonly Placed[] => indexOf(view).placed;

export const named = (view: ReelView, name: string | null | undefined) =>
  name ? indexOf(view).byName.get(name) : undefined;

export const endOf = (one: { begins: number; length: number }) => one.begins + one.length;

/** The join that lies on a cut. */
export const joinOn = (view: ReelView, cut: Cut): JoinView | undefined =>
  indexOf(view).joins.get(nameOf(cut));

/** The frame of a cut. */
export function cutFrame(view: ReelView, cut: Cut): number {
  const right = named(view, cut.right);
  if (right) return right.begins;
  const left = named(view, cut.left);
  return left ? endOf(left) : 0;
}

/** Every place for a join on the base row, in order: cuts, and ends beside a gap. */
export const cutsOf = (view: ReelView): readonly Cut[] => indexOf(view).cuts;

/** The entries of an ordered list in a stretch of frames, found by bisection. */
export function between<T>(
  all: readonly T[],
  spanOfOne: (one: T) => readonly [number, number],
  first: number,
  end: number,
): readonly T[] {
  let low = 0;
  let high = all.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (spanOfOne(all[middle]!)[1] < first) low = middle + 1;
    else high = middle;
  }
  let last = low;
  while (last < all.length && spanOfOne(all[last]!)[0] <= end) last += 1;
  return all.slice(low, last);
}

function cutsBetween(shots: readonly Shot[]): Cut[] {
  const cuts: Cut[] = [];
  shots.forEach((shot, k) => {
    const before = shots[k - 1];
    const after = shots[k + 1];
    if (!before || shot.gap > 0) cuts.push({ left: null, right: shot.id });
    if (!after || after.gap > 0) cuts.push({ left: shot.id, right: null });
    else cuts.push({ left: shot.id, right: after.id });
  });
  return cuts;
}

/** A look, and the shot or item it is on. */
export function lookOf(view: ReelView, name: string): { look: Look; on: Placed } | undefined {
  for (const on of placedOf(view)) {
    const look = on.looks.find((one) => one.id === name);
    if (look) return { look, on };
  }
  return undefined;
}

/** The version of a macro that a use is pinned to, with its faceplate. */
export const pinnedOf = (view: ReelView, use: { macro: string; version: number }) =>
  view.macros.find((one) => one.macro === use.macro && one.version === use.version);

/** Every use of a macro. */
export function usesOf(view: ReelView): Use[] {
  const on = placedOf(view);
  return [
    ...view.joins,
    ...on.flatMap((one) => one.looks),
    ...view.items.flatMap((item) => (item.use ? [item.use] : [])),
  ];
}

/** The name of a use's macro. */
export const titleOf = (view: ReelView, use: { macro: string; version: number }) =>
  pinnedOf(view, use)?.name ?? use.macro;

/** The name of a selection, for a heading. */
export function cutWords(view: ReelView, cut: Cut): string {
  const left = named(view, cut.left)?.name;
  const right = named(view, cut.right)?.name;
  if (left && right) return `${left} → ${right}`;
  return left ? `${left}, at its end` : `${right ?? ""}, at its beginning`;
}

/** Whether a selection still exists in the edit. */
export function stillThere(view: ReelView, selected: Selection): Selection {
  if (selected?.kind === "placed") {
    const names = selected.names.filter((name) => named(view, name));
    return names.length
      ? names.length < selected.names.length
        ? { ...selected, names }
        : selected
      : null;
  }
  if (selected?.kind === "look") return lookOf(view, selected.look) ? selected : null;
  if (selected?.kind === "cuts") {
    const there = (cut: Cut) =>
      (!cut.left || named(view, cut.left)) && (!cut.right || named(view, cut.right));
    const cuts = selected.cuts.filter(there);
    return cuts.length
      ? cuts.length < selected.cuts.length
        ? { ...selected, cuts }
        : selected
      : null;
  }
  return selected;
}

/** The frames that show the selection. */
export function spanOf(view: ReelView, selected: Selection): { first: number; end: number } | null {
  if (selected?.kind === "cuts") {
    const cut = selected.cuts[0]!;
    const join = joinOn(view, cut);
    if (join) return { first: join.first, end: join.end };
    const at = cutFrame(view, cut);
    return { first: Math.max(0, at - 12), end: Math.min(view.length, at + 12) };
  }
  if (selected?.kind === "look") {
    const found = lookOf(view, selected.look);
    return found ? { first: Math.max(0, found.look.first), end: found.look.end } : null;
  }
  const one = selected && named(view, selected.names[0]);
  return one ? { first: one.begins, end: endOf(one) } : null;
}

/** The uses of macros in the selection: "before" shows the edit without them. */
export function selectedUses(view: ReelView, selected: Selection): string[] {
  if (selected?.kind === "look") return [selected.look];
  if (selected?.kind === "cuts") return selected.cuts.flatMap((cut) => joinOn(view, cut)?.id ?? []);
  if (!selected) return [];
  return selected.names.flatMap((name) => {
    const one = named(view, name);
    if (!one) return [];
    const item = view.items.find((other) => other.id === name);
    return [...one.looks.map((look) => look.id), ...(item ? [item.id] : [])];
  });
}

export const kindWords: Record<Pinned["kind"], string> = {
  transition: "transition",
  look: "look",
  title: "title",
  texture: "texture",
};
