import { Button, Checkbox, Select } from "antd";
import { useQuery } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { api, type Curve, type DraftView } from "../api/client";
import { isFormula, isKeys, plain, type Ease, type Key, type Keys } from "../api/values";
import { EaseField } from "../controls/EaseField";
import { NumberField } from "../controls/NumberField";
import { ArrangeKeys } from "./ArrangeKeys";
import { keyAt, shareAt, shareOf, timeAt } from "./keys";
import { samePlace, useBench } from "./store";
import type { EditDraft } from "./useDraft";

interface Props {
  draft: DraftView;
  frame: number;
  length: number;
  edit: EditDraft;
}

const nameOf = (curve: Curve) => `${curve.lane}.${curve.step}.${curve.value}`;

/** Curves of everything that moves; keys dragged, typed, anchored and eased. */
export function Moves({ draft, frame, length, edit }: Props) {
  const [picked, setPicked] = useState<string>();
  const [picks, setPicks] = useState<number[]>([]);
  const selected = useBench((state) => state.selected);
  const found = useQuery({
    queryKey: ["curves", draft.id, draft.revision, length],
    queryFn: () => api.curves(draft.id, draft.revision, length),
    placeholderData: (before) => before,
  });
  const curves = found.data?.curves ?? [];
  // What was picked here; else what moves in the selected step; else whatever moves first.
  const curve =
    curves.find((one) => nameOf(one) === picked) ??
    curves.find((one) => samePlace(selected, one.lane, one.step)) ??
    curves[0];
  if (!found.data) return null;
  if (!curve)
    return (
      <p className="soft drawer-empty">
        Nothing moves yet. Set the playhead, then choose “Key here” in a value’s menu.
      </p>
    );
  const share = shareAt(draft.effect, frame, length);
  const value = valueIn(draft, curve);
  return (
    <div className="moves">
      <div className="move-names" role="listbox" aria-label="What moves">
        {curves.map((one) => (
          <button
            key={nameOf(one)}
            role="option"
            aria-selected={one === curve}
            className="bare"
            onClick={() => {
              setPicked(nameOf(one));
              setPicks([]);
            }}
          >
            <span>{one.label}</span>
            <span className="mono">{plain(one.samples[Math.round(share * 100)])}</span>
          </button>
        ))}
      </div>
      <div className="move-curve">
        <Plot
          key={nameOf(curve)}
          curve={curve}
          others={curves.filter((one) => one !== curve)}
          share={share}
          keys={isKeys(value) ? value : null}
          length={length}
          onKeys={(keys, kept) => {
            const change = {
              do: "set-value" as const,
              lane: curve.lane,
              step: curve.step,
              value_name: curve.value,
              value: keys,
            };
            if (kept) void edit(change);
            else useBench.getState().attempt(change);
          }}
        />
        {curve.squeezed && (
          <p className="note">At this length its keys would cross; they are squeezed in order.</p>
        )}
        {isKeys(value) && (
          <ArrangeKeys
            count={value.keys.length}
            picks={picks}
            onPick={setPicks}
            onKey={() =>
              void edit({
                do: "set-value",
                lane: curve.lane,
                step: curve.step,
                value_name: curve.value,
                value: keyAt(value, curve.samples[Math.round(share * 100)] ?? 0, share, length),
              })
            }
            onArrange={(how, by) =>
              void edit({
                do: "arrange-keys",
                lane: curve.lane,
                step: curve.step,
                value_name: curve.value,
                how,
                by: how === "copy" ? (share * (length - 1)) / 25 : by,
                keys: picks.length ? picks : null,
                frames: length,
              })
            }
          />
        )}
        {isKeys(value) ? (
          <KeyTable
            picks={picks}
            onPick={setPicks}
            keys={value}
            length={length}
            onKeys={(keys) =>
              void edit({
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
        )}
      </div>
    </div>
  );
}

function valueIn(draft: DraftView, curve: Curve): unknown {
  const lane = draft.effect.lanes.find((one) => one.id === curve.lane);
  const step = lane?.steps?.find((one) => one.id === curve.step);
  return curve.value === "mix" ? step?.mix : step?.values?.[curve.value];
}

interface PlotProps {
  curve: Curve;
  others: Curve[];
  share: number;
  keys: Keys | null;
  length: number;
  onKeys: (keys: Keys, kept: boolean) => void;
}

const WIDE = 400;
const HIGH = 130;
const PAD = 12;

function Plot({ curve, others, share, keys, length, onKeys }: PlotProps) {
  const area = useRef<SVGSVGElement>(null);
  const [dragged, setDragged] = useState<number | null>(null);
  const moved = useRef<Keys | null>(null);
  const numbers = [...curve.samples, ...curve.keys.map((key) => Number(key.value))];
  const low = Math.min(...numbers);
  const high = Math.max(...numbers, low + 1e-6);
  const x = (at: number) => PAD + at * (WIDE - 2 * PAD);
  const y = (value: number) => HIGH - PAD - ((value - low) / (high - low)) * (HIGH - 2 * PAD);
  const line = (one: Curve, least: number, most: number) =>
    one.samples
      .map((value, at) => {
        const part = (value - least) / Math.max(most - least, 1e-6);
        return `${x(at / (one.samples.length - 1))},${HIGH - PAD - part * (HIGH - 2 * PAD)}`;
      })
      .join(" ");

  const drag = (event: React.PointerEvent) => {
    if (dragged === null || !keys) return;
    const box = area.current!.getBoundingClientRect();
    const px = ((event.clientX - box.left) / box.width) * WIDE;
    const py = ((event.clientY - box.top) / box.height) * HIGH;
    const frames = Math.max(1, length - 1);
    const at =
      Math.round(Math.min(1, Math.max(0, (px - PAD) / (WIDE - 2 * PAD))) * frames) / frames;
    const value = low + ((HIGH - PAD - py) / (HIGH - 2 * PAD)) * (high - low);
    const held = Math.min(high, Math.max(low, value));
    const neighbours = keys.keys.map((key) => shareOf(key, length));
    const left = neighbours[dragged - 1] ?? 0;
    const right = neighbours[dragged + 1] ?? 1;
    const place = Math.min(right, Math.max(left, at));
    moved.current = {
      keys: keys.keys.map((key, index) =>
        index === dragged
          ? {
              ...key,
              time: timeAt(key.anchor, place, length),
              value: event.shiftKey ? key.value : Number(held.toFixed(4)),
            }
          : key,
      ),
    };
    onKeys(moved.current, false);
  };
  const drop = () => {
    if (moved.current) onKeys(moved.current, true);
    moved.current = null;
    setDragged(null);
  };
  return (
    <svg
      ref={area}
      className="plot"
      viewBox={`0 0 ${WIDE} ${HIGH}`}
      role="img"
      aria-label={`Curve of ${curve.label}`}
      onPointerMove={drag}
      onPointerUp={drop}
    >
      {[0, 0.25, 0.5, 0.75, 1].map((at) => (
        <line key={at} className="grid" x1={x(at)} x2={x(at)} y1={PAD} y2={HIGH - PAD} />
      ))}
      {[low, high].map((value) => (
        <line key={value} className="grid" x1={PAD} x2={WIDE - PAD} y1={y(value)} y2={y(value)} />
      ))}
      {others.map((one) => (
        <polyline
          key={nameOf(one)}
          className="other-curve"
          points={line(one, Math.min(...one.samples), Math.max(...one.samples))}
        />
      ))}
      <polyline className="curve" points={line(curve, low, high)} />
      <line className="now" x1={x(share)} x2={x(share)} y1={4} y2={HIGH - 4} />
      {curve.keys.map((key, index) => (
        <rect
          key={index}
          className="key"
          x={x(key.share) - 5}
          y={y(Number(key.value)) - 5}
          width={10}
          height={10}
          onPointerDown={(event) => {
            area.current!.setPointerCapture(event.pointerId);
            setDragged(index);
          }}
        >
          <title>{key.words}</title>
        </rect>
      ))}
      <text x={PAD + 10} y={HIGH - 1}>
        {plain(low)} at the bottom
      </text>
      <text x={WIDE - PAD - 10} y={9} textAnchor="end">
        {plain(high)} at the top
      </text>
    </svg>
  );
}

interface TableProps {
  picks: number[];
  onPick: (picks: number[]) => void;
  keys: Keys;
  length: number;
  onKeys: (keys: Keys) => void;
}

function KeyTable({ picks, onPick, keys, length, onKeys }: TableProps) {
  const put = (at: number, more: Partial<Key>) =>
    onKeys({ keys: keys.keys.map((key, index) => (index === at ? { ...key, ...more } : key)) });
  return (
    <table className="key-table">
      <thead>
        <tr>
          <th aria-label="picked" />
          <th>time</th>
          <th>anchored</th>
          <th>value</th>
          <th>then</th>
          <th aria-label="remove" />
        </tr>
      </thead>
      <tbody>
        {keys.keys.map((key, at) => (
          <tr key={at}>
            <td>
              <Checkbox
                aria-label={`Pick key ${at + 1}`}
                checked={picks.includes(at)}
                onChange={(event) =>
                  onPick(
                    event.target.checked
                      ? [...picks, at].sort((a, b) => a - b)
                      : picks.filter((one) => one !== at),
                  )
                }
              />
            </td>
            <td>
              <NumberField
                label={`Key ${at + 1}: time`}
                value={key.anchor && key.anchor !== "share" ? key.time : key.time * 100}
                onCommit={(time) =>
                  put(at, { time: key.anchor && key.anchor !== "share" ? time : time / 100 })
                }
              />
              <span className="mono soft">{(key.anchor ?? "share") === "share" ? "%" : "s"}</span>
            </td>
            <td>
              <Select
                size="small"
                variant="borderless"
                aria-label={`Key ${at + 1}: anchored to`}
                value={key.anchor ?? "share"}
                popupMatchSelectWidth={false}
                options={[
                  { value: "share", label: "of length" },
                  { value: "start", label: "after start" },
                  { value: "end", label: "before end" },
                ]}
                onChange={(anchor) =>
                  put(at, { anchor, time: timeAt(anchor, shareOf(key, length), length) })
                }
              />
            </td>
            <td>
              <NumberField
                label={`Key ${at + 1}: value`}
                value={Number(key.value)}
                onCommit={(value) => put(at, { value })}
              />
            </td>
            <td>
              {at < keys.keys.length - 1 && (
                <EaseField
                  label={`Key ${at + 1}`}
                  value={(key.ease ?? "linear") as Ease}
                  onCommit={(ease) => put(at, { ease })}
                />
              )}
            </td>
            <td>
              <Button
                size="small"
                type="text"
                disabled={keys.keys.length < 2}
                aria-label={`Remove key ${at + 1}`}
                onClick={() => onKeys({ keys: keys.keys.filter((_, index) => index !== at) })}
              >
                ×
              </Button>
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
