import { useQuery } from "@tanstack/react-query";
import { asked } from "../../api/asked";
import type { DraftView, One, ValueKind } from "../../api/client";
import { isFormula, isKeys, isLink, shownValue } from "../../api/values";
import { rateOf } from "../../player/timecode";
import { keyAt, playsBackwards, shareAt } from "../moves/keys";
import { benchStore, useBench, type Place } from "../store";
import type { ChangeDraft } from "../useDraft";

interface Asked {
  draft: DraftView;
  place: Place;
  kind: ValueKind;
  /** The source of its setting: a constant, keys, a formula, a control. */
  value: unknown;
  length: number;
  change: ChangeDraft;
}

/** The change that sets a value at the playhead, for any source of its setting. */
export function settingOf(
  place: Place,
  kind: ValueKind,
  /** The source of its present setting. */
  value: unknown,
  next: unknown,
  share: number,
  length: number,
  rate: number,
): One {
  if (isKeys(value)) next = keyAt(value, next, share, length, rate);
  if (isLink(value) && !value.range && !value.table)
    return { do: "set-control", slug: value.control, default: next };
  return { do: "set-value", ...place, value_name: kind.name, value: next };
}

/**
 * A value at the playhead: its number, and the change that sets it.
 *
 * A moving value gets a key at the playhead. For a value that a control drives directly, the
 * control is set. Other values are set themselves. The result of a formula or a range cannot be
 * set.
 */
export function useSetting({ draft, place, kind, value, length, change }: Asked) {
  const attempt = useBench((state) => state.attempt);
  const keyed = isKeys(value);
  const linked = isLink(value);
  const formula = isFormula(value);
  const control = linked
    ? (draft.effect.controls ?? []).find((one) => one.slug === value.control)
    : undefined;
  const curves = useQuery({
    ...asked.curves(draft, length),
    enabled: (keyed || formula) && (kind.type === "number" || kind.type === "point"),
  });
  const backwards = playsBackwards(draft.effect);
  // Only moving values are drawn again when the playhead moves.
  const frame = useBench((state) => (keyed || formula ? Math.min(state.frame, length - 1) : 0));
  const share = shareAt(backwards, frame, length);
  const shareNow = () =>
    shareAt(backwards, Math.min(benchStore.getState().frame, length - 1), length);
  const rate = rateOf(draft.effect.rate);
  const samples = (curves.data?.curves ?? [])
    .filter(
      (one) =>
        one.lane === place.lane &&
        one.step === place.step &&
        one.value === kind.name &&
        one.part !== "band",
    )
    .map((one) => one.samples[Math.round(share * (one.samples.length - 1))] ?? 0);
  const sample = kind.type === "number" ? samples[0] : undefined;
  const point = kind.type === "point" && samples.length === 2 ? samples : undefined;
  const shown = sample ?? point ?? shownValue(draft.effect, value, kind);
  const setting = (next: unknown) => settingOf(place, kind, value, next, shareNow(), length, rate);
  const put = (next: unknown) =>
    void change({ do: "set-value", ...place, value_name: kind.name, value: next });
  return {
    keyed,
    linked,
    formula,
    control,
    sample,
    shown,
    frame,
    keyHere: () => put(keyAt(isKeys(value) ? value : null, shown, shareNow(), length, rate)),
    setting,
    settable: !formula && !(isLink(value) && Boolean(value.range ?? value.table)),
    trying: (next: unknown) => attempt(setting(next)),
    commit: (next: unknown) => change(setting(next)),
    put,
  };
}
