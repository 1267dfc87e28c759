import { Button, Input } from "antd";
import type { ReelView } from "../../api/client";
import { framesOf, rateOf, timecode } from "../../player/timecode";
import { useEffect, useState } from "react";
import { useShallow } from "zustand/react/shallow";
import { useReelState, zoomBy } from "../store";
import type { ChangeReel } from "../useReel";
import styles from "./Strip.module.css";

/** Actions at the playhead, and the zoom of the strip. */
export function StripBar({ view, change }: { view: ReelView; change: ChangeReel }) {
  const { zoom, snap, set } = useReelState(
    useShallow(({ zoom, snap, set }) => ({ zoom, snap, set })),
  );
  return (
    <div className={styles.bar} role="toolbar" aria-label="Strip tools">
      <AtPlayhead view={view} change={change} />
      <span className="right" />
      <Button
        size="small"
        aria-pressed={snap}
        type={snap ? "primary" : "default"}
        title="A: edges are drawn to cuts, joins, marks and the playhead. Alt held while dragging turns it round."
        onClick={() => set({ snap: !snap })}
      >
        Snap
      </Button>
      <Button size="small" aria-label="Look from further away" onClick={() => zoomBy(1 / 1.5)}>
        −
      </Button>
      <Button size="small" aria-label="Look closer" onClick={() => zoomBy(1.5)}>
        +
      </Button>
      <Button size="small" disabled={zoom === null} onClick={() => set({ zoom: null })}>
        All of it
      </Button>
    </div>
  );
}

/** Actions at the playhead. */
function AtPlayhead({ view, change }: { view: ReelView; change: ChangeReel }) {
  const frame = useReelState((state) => state.frame);
  const selected = useReelState((state) => state.selected);
  const names = selected?.kind === "placed" ? selected.names : [];
  const rate = rateOf(view.rate);
  const mark = view.marks.find((one) => one.frame === frame);
  return (
    <>
      <GoTo frame={frame} rate={rate} length={view.length} />
      <Button
        size="small"
        disabled={!view.length}
        title="X: cut what lies at the playhead in two; only what is selected, where something is"
        onClick={() => void change({ do: "split", frame, only: names })}
      >
        Split here
      </Button>
      <Button
        size="small"
        title="[ : the mark in, where looping and rendering begin"
        aria-pressed={view.mark_in === frame}
        onClick={() =>
          void change({ do: "set-reel", mark_in: view.mark_in === frame ? -1 : frame })
        }
      >
        Mark in
      </Button>
      <Button
        size="small"
        title="] : the mark out, where looping and rendering end"
        aria-pressed={view.mark_out === frame + 1}
        onClick={() =>
          void change({ do: "set-reel", mark_out: view.mark_out === frame + 1 ? -1 : frame + 1 })
        }
      >
        Mark out
      </Button>
      {(view.mark_in !== null || view.mark_out !== null) && (
        <Button
          size="small"
          onClick={() => void change({ do: "set-reel", mark_in: -1, mark_out: -1 })}
        >
          Clear in and out
        </Button>
      )}
      {mark ? (
        <Input
          size="small"
          className={styles.markName}
          aria-label="Name of the mark"
          key={mark.frame}
          defaultValue={mark.name}
          onBlur={(event) => {
            const name = event.target.value.trim();
            if (name !== mark.name) void change({ do: "set-mark", frame, name });
          }}
          onPressEnter={(event) => event.currentTarget.blur()}
        />
      ) : (
        <Button
          size="small"
          title="M: a named mark at the playhead"
          onClick={() =>
            void change({ do: "set-mark", frame, name: `Mark ${view.marks.length + 1}` })
          }
        >
          Add a mark
        </Button>
      )}
    </>
  );
}

/** The playhead's timecode, to read and to type. */
function GoTo({ frame, rate, length }: { frame: number; rate: number; length: number }) {
  const [text, setText] = useState<string | null>(null);
  const set = useReelState((state) => state.set);
  useEffect(() => setText(null), [frame]);
  const go = () => {
    const by = text?.trim().match(/^([+-])(.*)$/);
    const typed = text === null ? null : framesOf(by ? by[2]! : text, rate);
    setText(null);
    if (typed === null) return;
    const to = by ? frame + (by[1] === "+" ? typed : -typed) : typed;
    set({ frame: Math.min(length - 1, Math.max(0, to)) });
  };
  return (
    <Input
      size="small"
      className={`${styles.goTo} mono`}
      aria-label="Go to timecode"
      title="Type a timecode to go there; +1:00 goes a second on"
      value={text ?? timecode(frame, rate)}
      onFocus={(event) => event.target.select()}
      onChange={(event) => setText(event.target.value)}
      onBlur={go}
      onPressEnter={(event) => event.currentTarget.blur()}
    />
  );
}
