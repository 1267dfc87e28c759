import { Button, Select } from "antd";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { asked } from "../../api/asked";
import type { Curve, DraftView, Change } from "../../api/client";
import { isFormula, isKeys, plain, type Key, type Keys } from "../../api/values";
import { ArrangeKeys } from "./ArrangeKeys";
import { findStep } from "../graph";
import { rateOf } from "../../player/timecode";
import { anchored, keyAt, movedKeys, playsBackwards, shareAt } from "./keys";
import { KeyTable } from "./KeyTable";
import { MovesPlot, type Grip } from "./MovesPlot";
import { bandWords, runAt, strokeOf } from "./plot";
import { samePlace, useBench } from "../store";
import type { ChangeDraft } from "../useDraft";
import { nameOf, pickOf, valueName } from "./names";
import styles from "./Moves.module.css";

interface Props {
  draft: DraftView;
  frame: number;
  length: number;
  change: ChangeDraft;
}

const ALL = "all";

/** Curves of all moving values; keys can be dragged, typed, anchored and eased. */
export function Moves({ draft, frame, length, change }: Props) {
  const [picked, setPicked] = useState<string>();
  const [picks, setPicks] = useState<ReadonlySet<string>>(new Set());
  const [lit, setLit] = useState<string>();
  const selected = useBench((state) => state.selected);
  const attempt = useBench((state) => state.attempt);
  const found = useQuery({ ...asked.curves(draft, length), placeholderData: (before) => before });
  const curves = found.data?.curves ?? [];
  // The value picked here; else a moving value of the selected step; else the first moving value.
  const curve =
    curves.find((one) => nameOf(one) === picked) ??
    curves.find((one) => samePlace(selected, one.lane, one.step)) ??
    curves[0];
  if (!found.data) return null;
  if (!curve)
    return (
      <p className={`soft ${styles.drawerEmpty}`}>
        Nothing moves yet. Set the playhead, then choose “Key here” in a value’s menu.
      </p>
    );
  const together = picked === ALL && curves.length > 1;
  const shown = together ? curves : [curve];
  const share = shareAt(playsBackwards(draft.effect), frame, length);
  const rate = rateOf(draft.effect.rate);
  const value = valueIn(draft, curve);
  const own = [...picks].flatMap((pick) => {
    const [name, at] = pick.split("#");
    return name === valueName(curve) ? [Number(at)] : [];
  });

  /** The change that replaces keys of the values with picked keys. */
  const changed = (
    arrange: (keys: Keys, which: Set<number>, of: Curve) => Keys,
    said: string,
    which = picks,
  ): Change | null => {
    const changes = byValue(curves).flatMap((one) => {
      const keys = valueIn(draft, one);
      const mine = new Set(
        [...which].flatMap((pick) => {
          const [name, at] = pick.split("#");
          return name === valueName(one) ? [Number(at)] : [];
        }),
      );
      if (!isKeys(keys) || !mine.size) return [];
      return [
        {
          do: "set-value" as const,
          lane: one.lane,
          step: one.step,
          value_name: one.value,
          value: arrange(keys, mine, one),
        },
      ];
    });
    if (!changes.length) return null;
    return changes.length === 1 ? changes[0]! : { do: "several", changes, said };
  };
  const drop = (next: Change | null) => {
    if (next) void change(next);
    setPicks(new Set());
  };
  const shift = (grip: Grip, which = picks) =>
    changed(
      (keys, mine, of) => movedKeys(keys, mine, grip.share, risen(of, grip), length, rate),
      `${which.size} key${which.size > 1 ? "s" : ""} moved`,
      which,
    );
  const remove = () =>
    drop(
      changed((keys, mine) => {
        const left = keys.keys.filter((_, at) => !mine.has(at));
        return { keys: left.length ? left : keys.keys.slice(0, 1) };
      }, `${picks.size} keys removed`),
    );
  const anchor = (to: Key["anchor"]) => {
    const next = changed(
      (keys, mine) => ({
        keys: keys.keys.map((key, at) => (mine.has(at) ? anchored(key, to, length, rate) : key)),
      }),
      `${picks.size} keys anchored`,
    );
    if (next) void change(next);
  };
  return (
    <div className={styles.moves}>
      <div className={styles.moveNames} role="listbox" aria-label="What moves">
        {curves.length > 1 && (
          <button
            role="option"
            aria-selected={together}
            className="bare"
            onClick={() => setPicked(ALL)}
          >
            <span>All together</span>
          </button>
        )}
        {curves.map((one, k) => (
          <button
            key={nameOf(one)}
            role="option"
            aria-selected={!together && one === curve}
            className="bare"
            onPointerEnter={() => setLit(nameOf(one))}
            onPointerLeave={() => setLit(undefined)}
            onClick={() => {
              setPicked(nameOf(one));
              setPicks(new Set());
            }}
          >
            {together && one.part !== "band" && (
              <svg className={styles.curveSample} viewBox="0 0 26 8" aria-hidden>
                <line className={styles.curve} {...strokeOf(k)} x1={0} x2={26} y1={4} y2={4} />
              </svg>
            )}
            <span>{one.label}</span>
            <span className="mono">
              {one.part === "band"
                ? bandWords(runAt(one, share))
                : plain(one.samples[Math.round(share * 100)])}
            </span>
          </button>
        ))}
      </div>
      <div className={styles.moveCurve}>
        <MovesPlot
          curves={shown}
          others={
            together || curve.part === "band"
              ? []
              : curves.filter((one) => one !== curve && one.part !== "band")
          }
          share={share}
          length={length}
          lit={together ? lit : undefined}
          picks={picks}
          movable={(one) => !found.isPlaceholderData && isKeys(valueIn(draft, one))}
          onPick={setPicks}
          onTry={(grip, which) => {
            const next = shift(grip, which);
            if (next) attempt(next);
          }}
          onMove={(grip, which) => drop(shift(grip, which))}
          onRemove={remove}
        />
        {curve.squeezed && !together && (
          <p className="note">At this length its keys would cross; they are squeezed in order.</p>
        )}
        {picks.size > 0 && (
          <div className={styles.pickedKeys} role="toolbar" aria-label="Picked keys">
            <b>{picks.size} picked</b>
            <Select
              size="small"
              aria-label="Anchor the picked keys"
              placeholder="anchor to…"
              value={null}
              popupMatchSelectWidth={false}
              options={[
                { value: "share", label: "a share of the length" },
                { value: "start", label: "the start" },
                { value: "end", label: "the end" },
              ]}
              onChange={(to) => anchor(to as unknown as Key["anchor"])}
            />
            <Button size="small" onClick={remove}>
              Remove
            </Button>
            <Button size="small" type="text" onClick={() => setPicks(new Set())}>
              Pick none
            </Button>
          </div>
        )}
        {!together && isKeys(value) && (
          <ArrangeKeys
            count={value.keys.length}
            each={1 / rate}
            picks={own}
            onPick={(at) => setPicks(new Set(at.map((one) => pickOf(curve, one))))}
            onKey={() =>
              void change({
                do: "set-value",
                lane: curve.lane,
                step: curve.step,
                value_name: curve.value,
                value: keyAt(value, here(curves, curve, share), share, length, rate),
              })
            }
            onArrange={(how, by) =>
              void change({
                do: "arrange-keys",
                lane: curve.lane,
                step: curve.step,
                value_name: curve.value,
                how,
                by: how === "copy" ? (share * (length - 1)) / rate : by,
                keys: own.length ? own : null,
                frames: length,
                rate: draft.effect.rate,
              })
            }
          />
        )}
        {!together &&
          (isKeys(value) ? (
            <KeyTable
              picks={own}
              onPick={(at) => setPicks(new Set(at.map((one) => pickOf(curve, one))))}
              keys={value}
              part={curve.part}
              length={length}
              rate={rate}
              onKeys={(keys) =>
                void change({
                  do: "set-value",
                  lane: curve.lane,
                  step: curve.step,
                  value_name: curve.value,
                  value: keys,
                })
              }
            />
          ) : (
            <p className="soft">
              {isFormula(value)
                ? "It follows a formula; change that on its card."
                : "It follows a control’s curve; change that on the Faceplate."}
            </p>
          ))}
        {together && (
          <p className="soft">
            Every curve from its own lowest to its own highest. Drag over keys to pick them; picked
            keys of several values move together.
          </p>
        )}
      </div>
    </div>
  );
}

/** One curve for every value: a point has two. */
function byValue(curves: readonly Curve[]): Curve[] {
  const seen = new Set<string>();
  return curves.filter((one) => {
    const name = valueName(one);
    return seen.has(name) ? false : Boolean(seen.add(name));
  });
}

function valueIn(draft: DraftView, curve: Curve): unknown {
  const step = findStep(draft.effect, { lane: curve.lane, step: curve.step })?.step;
  return curve.value === "mix" ? step?.mix : step?.values?.[curve.value];
}

/** A key's value after dragging its curve; only keys of the dragged curve change. */
function risen(of: Curve, grip: Grip): (value: unknown) => unknown {
  if (!grip.value || !grip.of || valueName(grip.of) !== valueName(of)) return (value) => value;
  const by = grip.value;
  const round = (value: number) => Number(value.toFixed(4));
  return (value) => {
    if (typeof value === "number") return round(value + by);
    if (Array.isArray(value) && grip.of?.part)
      return value.map((one: number, k) =>
        k === (grip.of?.part === "x" ? 0 : 1) ? round(one + by) : one,
      );
    return value;
  };
}

/** The complete value at the playhead. */
function here(curves: readonly Curve[], curve: Curve, share: number): unknown {
  const at = Math.round(share * 100);
  const parts = curves.filter((one) => valueName(one) === valueName(curve));
  if (curve.part === "x" || curve.part === "y") return parts.map((one) => one.samples[at] ?? 0);
  if (curve.part === "band") return runAt(curve, share);
  return curve.samples[at] ?? 0;
}
