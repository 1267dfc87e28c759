import { Button, InputNumber, Select } from "antd";
import { useEffect, useState } from "react";
import type { DraftView } from "../../api/client";
import { plain } from "../../api/values";
import { NumberField } from "../../controls/NumberField";
import { Picture } from "../../player/Picture";
import { cardOf } from "../frames";
import { useBenchOf, useSettledFrame } from "../store";
import { useKinds, type ChangeDraft } from "../useDraft";
import {
  axisOf,
  cellsOf,
  MOST,
  useSheets,
  variable,
  variedBy,
  type Axis,
  type Cell,
  type Varied,
} from "./sheet";
import styles from "./Sheet.module.css";

interface Props {
  draft: DraftView;
  length: number;
  change: ChangeDraft;
}

/** Pictures over one value or two; a click adopts a picture's values. */
export function Sheet({ draft, length, change }: Props) {
  const frame = useSettledFrame(length, 120);
  const { axes, pinned, setAxis, pin, unpin } = useSheets();
  const { kindOf, mix } = useKinds();
  const { shape, attempt } = useBenchOf("shape", "attempt");
  const slots = (draft.effect.slots ?? []).map((one) => one.id);
  // A new axis takes its range from the declaration.
  useEffect(() => {
    axes.forEach((axis, at) => {
      const varied = variedBy(draft, axis, kindOf, mix);
      if (axis && varied && Number.isNaN(axis.from))
        setAxis(at as 0 | 1, axisOf(axis.place, varied.kind, slots));
    });
  }, [axes, draft, kindOf, mix, setAxis, slots]);
  const laid = axes.flatMap((axis) => {
    const varied = variedBy(draft, axis, kindOf, mix);
    return axis && varied && !Number.isNaN(axis.from) ? [{ axis, varied }] : [];
  });
  const { columns, cells } = cellsOf(draft, laid, frame, length, cardOf(shape));
  // Pictures that have come, and the sheet that no longer needs its other pictures.
  const [there, setThere] = useState<readonly string[]>([]);
  const [stopped, setStopped] = useState<string>();
  const key = cells.map(({ url }) => url).join();
  const missing = cells.filter(({ url }) => !there.includes(url)).length;
  const left = stopped === key ? 0 : missing;
  const settled = (url: string) =>
    setThere((old) => [...cells.map((one) => one.url).filter((one) => old.includes(one)), url]);
  const title = laid.map(({ varied }) => varied.title).join(" by ");
  const groups = variable(draft, kindOf, mix);
  return (
    <div className={styles.sheets}>
      {([0, 1] as const).map((at) => (
        <AxisRow
          key={at}
          at={at}
          axis={axes[at]}
          varied={variedBy(draft, axes[at], kindOf, mix)}
          groups={groups}
          onPick={(name) => {
            const [lane = "", step = "", value = ""] = name.split(".");
            setAxis(at, {
              place: { lane, step },
              name: value,
              from: NaN,
              to: NaN,
              count: 5,
              choices: [],
            });
          }}
          onChange={(axis) => setAxis(at, axis)}
        />
      ))}
      {cells.length > 0 && (
        <>
          <div className={styles.sheetHead}>
            <b>{title}</b>
            <span className="soft" role="status">
              {left ? `${cells.length - left} of ${cells.length}` : `${cells.length} pictures`} at
              frame {frame}
            </span>
            {left > 0 ? (
              <Button size="small" onClick={() => setStopped(key)}>
                Stop
              </Button>
            ) : (
              <Button
                size="small"
                onClick={() => pin({ title: `${title}, frame ${frame}`, columns, cells })}
              >
                Pin this sheet
              </Button>
            )}
            {left === 0 && missing > 0 && (
              <Button size="small" onClick={() => setStopped(undefined)}>
                Go on
              </Button>
            )}
          </div>
          <Grid
            columns={columns}
            cells={cells}
            wanted={(url) => stopped !== key || there.includes(url)}
            onSettled={settled}
            aspect={shape.width / shape.height}
            onHover={attempt}
            onAdopt={(cell) => void change(cell.change)}
          />
        </>
      )}
      {!cells.length && !pinned.length && (
        <p className="soft">
          Choose one value, or two. The sheet shows the picture at the playhead for each setting.
        </p>
      )}
      {pinned.map((sheet) => (
        <section key={sheet.id} aria-label={`Pinned: ${sheet.title}`}>
          <div className={styles.sheetHead}>
            <b>{sheet.title}</b>
            <span className="soft">pinned</span>
            <Button size="small" type="text" onClick={() => unpin(sheet.id)}>
              Unpin
            </Button>
          </div>
          <Grid
            columns={sheet.columns}
            cells={sheet.cells}
            aspect={shape.width / shape.height}
            onHover={attempt}
            onAdopt={(cell) => void change(cell.change)}
          />
        </section>
      ))}
    </div>
  );
}

function Grid(props: {
  columns: number;
  cells: Cell[];
  aspect: number;
  wanted?: (url: string) => boolean;
  onSettled?: (url: string) => void;
  onHover: (change: Cell["change"] | null) => void;
  onAdopt: (cell: Cell) => void;
}) {
  const { columns, cells, aspect, wanted, onSettled, onHover, onAdopt } = props;
  return (
    <div
      className={styles.sheet}
      style={{ gridTemplateColumns: `repeat(${columns}, minmax(0, 1fr))` }}
      onMouseLeave={() => onHover(null)}
    >
      {cells.map((cell) => (
        <button
          key={cell.label}
          className={`bare ${styles.sheetCell}`}
          title={`${cell.label}: click to adopt it`}
          aria-label={`${cell.label} (${cell.short})`}
          onMouseEnter={() => onHover(cell.change)}
          onFocus={() => onHover(cell.change)}
          onBlur={() => onHover(null)}
          onClick={() => onAdopt(cell)}
        >
          <Picture
            className={styles.sheetPicture}
            url={wanted?.(cell.url) === false ? undefined : cell.url}
            alt=""
            aspect={aspect}
            turn="offered"
            unseen
            onSettled={() => onSettled?.(cell.url)}
          />
          <span className={styles.sheetLabel}>{cell.short}</span>
        </button>
      ))}
    </div>
  );
}

function AxisRow(props: {
  at: 0 | 1;
  axis: Axis | null;
  varied: Varied | null;
  groups: ReturnType<typeof variable>;
  onPick: (name: string) => void;
  onChange: (axis: Axis | null) => void;
}) {
  const { at, axis, varied, groups, onPick, onChange } = props;
  const label = at === 0 ? "Across" : "Down";
  const all =
    varied?.kind.type === "toggle" ? [false, true] : ((varied?.kind.options ?? []) as unknown[]);
  return (
    <div className={styles.axis}>
      <span>{label}</span>
      <Select
        size="small"
        showSearch={{ optionFilterProp: "label" }}
        allowClear
        aria-label={`${label}: which value`}
        placeholder={at === 0 ? "a value" : "a second value, if you like"}
        popupMatchSelectWidth={false}
        className={styles.axisValue}
        value={axis && varied ? `${axis.place.lane}.${axis.place.step}.${axis.name}` : undefined}
        labelRender={() => varied?.title ?? ""}
        options={groups}
        onChange={(name?: string) => (name ? onPick(name) : onChange(null))}
      />
      {axis && varied?.kind.type === "number" && !Number.isNaN(axis.from) && (
        <>
          <NumberField
            label={`${label}: from`}
            value={axis.from}
            unit={varied.kind.unit}
            onCommit={(from) => onChange({ ...axis, from })}
          />
          <span className="soft">to</span>
          <NumberField
            label={`${label}: to`}
            value={axis.to}
            unit={varied.kind.unit}
            onCommit={(to) => onChange({ ...axis, to })}
          />
          <span className="soft">in</span>
          <InputNumber
            size="small"
            aria-label={`${label}: how many`}
            min={2}
            max={MOST}
            value={axis.count}
            onChange={(count) => count && onChange({ ...axis, count })}
          />
        </>
      )}
      {axis && varied && varied.kind.type !== "number" && all.length > 2 && (
        <Select
          size="small"
          mode="multiple"
          maxCount={MOST}
          maxTagCount="responsive"
          className={styles.axisChoices}
          aria-label={`${label}: which of them`}
          popupMatchSelectWidth={false}
          value={axis.choices}
          options={all.map((one) => ({ value: one, label: plain(one) }))}
          onChange={(choices) => onChange({ ...axis, choices })}
        />
      )}
    </div>
  );
}
