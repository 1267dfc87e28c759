import { Button, InputNumber, Select } from "antd";
import { useEffect, useMemo, useState } from "react";
import { livePicture, type DraftView } from "../api/client";
import { plain } from "../api/values";
import { NumberField } from "../controls/NumberField";
import { cardOf } from "./frames";
import { useBenchOf } from "./store";
import { useKinds, type ChangeDraft } from "./useDraft";
import {
  axisOf,
  cellsOf,
  hold,
  MOST,
  release,
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
  frame: number;
  length: number;
  change: ChangeDraft;
}

/** Pictures on their way at once: the monitor has to get through between them. */
const AT_ONCE = 2;

/** Pictures over one value, or two; clicking one adopts it. */
export function Sheet({ draft, frame, length, change }: Props) {
  const { axes, pinned, setAxis, pin, unpin } = useSheets();
  const { kindOf, mix } = useKinds();
  const { shape, attempt } = useBenchOf("shape", "attempt");
  const slots = useMemo(
    () => (draft.effect.slots ?? []).map((one) => one.id),
    [draft.effect.slots],
  );
  // An axis that has just been asked for takes its range from the declaration.
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
  const { columns, cells } = cellsOf(draft, laid, frame, length);
  const size = cardOf(shape);
  const key = JSON.stringify([draft.id, draft.revision, frame, length, size, cells]);
  const { shown, left, stop, again } = useSheet(key, draft, frame, length, size, cells);
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
              <Button size="small" onClick={stop}>
                Stop
              </Button>
            ) : (
              <Button
                size="small"
                disabled={!shown.some((one) => one.url)}
                onClick={() => pin({ title: `${title}, frame ${frame}`, columns, cells: shown })}
              >
                Pin this sheet
              </Button>
            )}
            {left === 0 && shown.some((one) => !one.url && !one.fault) && (
              <Button size="small" onClick={again}>
                Go on
              </Button>
            )}
          </div>
          <Grid
            columns={columns}
            cells={shown}
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
  onHover: (change: Cell["change"] | null) => void;
  onAdopt: (cell: Cell) => void;
}) {
  const { columns, cells, aspect, onHover, onAdopt } = props;
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
          <span className={styles.sheetPicture} style={{ aspectRatio: String(aspect) }}>
            {cell.url && <img src={cell.url} alt="" />}
            {cell.fault && <span className="fault">{cell.fault}</span>}
          </span>
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

/** The pictures of a sheet, one after another; stopped when something else is asked for. */
function useSheet(
  key: string,
  draft: DraftView,
  frame: number,
  length: number,
  size: { width: number; height: number },
  cells: Cell[],
) {
  const [shown, setShown] = useState<Cell[]>(cells);
  const [left, setLeft] = useState(0);
  const [run, setRun] = useState<{ key: string; stop: AbortController } | null>(null);
  const [asked, setAsked] = useState(0);
  useEffect(() => {
    const stop = new AbortController();
    const waiting = cells.map((_, at) => at);
    const made: Cell[] = [];
    setShown(cells);
    setLeft(cells.length);
    setRun({ key, stop });
    const work = async () => {
      for (;;) {
        const at = waiting.shift();
        if (at === undefined || stop.signal.aborted) return;
        const body = {
          base: draft.revision,
          change: cells[at]!.change,
          frame,
          length,
          ...size,
          offered: true,
        };
        const more: Partial<Cell> = {};
        try {
          const blob = await livePicture(`/effects/${draft.id}/live`, body, stop.signal);
          if (stop.signal.aborted) return;
          if (blob) more.url = URL.createObjectURL(blob);
        } catch (error) {
          if (stop.signal.aborted) return;
          more.fault = (error as Error).message;
        }
        const cell = { ...cells[at]!, ...more };
        made.push(cell);
        hold([cell]);
        setShown((old) => old.map((one, k) => (k === at ? cell : one)));
        setLeft((old) => old - 1);
      }
    };
    // Pictures wait until the playhead and the values have stood still for a moment.
    const timer = setTimeout(() => {
      for (let k = 0; k < AT_ONCE; k += 1) void work();
    }, 120);
    return () => {
      clearTimeout(timer);
      stop.abort();
      release(made);
    };
    // eslint-disable-next-line react-hooks/exhaustive-deps -- the key says all of it
  }, [key, asked]);
  return {
    shown,
    left: run?.stop.signal.aborted ? 0 : left,
    stop: () => {
      run?.stop.abort();
      setLeft(0);
    },
    again: () => setAsked((old) => old + 1),
  };
}
