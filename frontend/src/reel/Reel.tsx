import { Button } from "antd";
import { useEffect, useRef, useState } from "react";
import { useLocation, useParams, useSearchParams } from "react-router-dom";
import { useQuery } from "@tanstack/react-query";
import { asked } from "../api/asked";
import { savedWords } from "../api/useChanges";
import type { ScreenHandle } from "../player/Screen";
import { rateOf, shownRate, timecode } from "../player/timecode";
import { OpenHead } from "../shell/OpenHead";
import { useComingBack } from "../shell/useComingBack";
import { Face } from "./faces/Face";
import { HandOn } from "./HandOn";
import { Monitor } from "./Monitor";
import { RenderDialog } from "./RenderDialog";
import { cutsOf, joinOn, sameCut, spanOf, stillThere, type Cut, type Selection } from "./selection";
import { reelStore, useReelState } from "./store";
import { Strip } from "./strip/Strip";
import { StripBar } from "./strip/StripBar";
import { Tray } from "./tray/Tray";
import { useReel } from "./useReel";
import { useReelKeys } from "./useReelKeys";
import styles from "./Reel.module.css";

/** The editor's place: the strip across the top; tray, monitor and faceplate below it. */
export function Reel() {
  const id = Number(useParams()["id"]);
  const { view, problem, change, undo, redo, waiting, gone, trying, setTrying } = useReel(id);
  const selected = useReelState((state) => state.selected);
  const set = useReelState((state) => state.set);
  const [rendering, setRendering] = useState(false);
  const [params] = useSearchParams();
  const screen = useRef<ScreenHandle>(null);
  const wanted = params.get("use");
  const { state } = useLocation() as { state: { settings?: Record<string, unknown> } | null };
  const rate = rateOf(view?.rate);
  const length = view?.length ?? 1;

  useComingBack(
    "reel",
    id,
    () => {
      const { frame, selected, zoom, split } = reelStore.getState();
      return { frame, selected, zoom, split };
    },
    (shown) => set({ frame: 0, selected: null, zoom: null, split: null, before: false, ...shown }),
  );
  useEffect(() => set({ ready: new Set(), faults: {} }), [view?.revision, set]);
  // Deselect what has been removed, and keep the playhead within the edit.
  useEffect(() => {
    if (!view) return;
    const { frame, selected } = reelStore.getState();
    const there = stillThere(view, selected);
    if (there !== selected) set({ selected: there });
    if (frame >= view.length) set({ frame: Math.max(0, view.length - 1) });
  }, [view, set]);

  const goTo = (to: number) => {
    screen.current?.stop();
    set({ frame: Math.min(length - 1, Math.max(0, to)) });
  };
  const select = (next: Selection) => {
    set({ selected: next });
    const span = view && spanOf(view, next);
    if (!span || (next?.kind === "placed" && next.names.length > 1)) return;
    // Move the playhead to a frame that shows the selection.
    const { frame } = reelStore.getState();
    // A title or a texture often shows nothing at its first and last frame.
    const rim =
      next?.kind === "placed" && view.items.some((one) => one.id === next.names[0]) ? 1 : 0;
    const inside = frame >= span.first + rim && frame < span.end - rim;
    if (next?.kind === "cuts" || !inside) goTo(Math.floor((span.first + span.end) / 2));
  };
  const selectPlaced = (name: string, more: boolean) => {
    if (!more || selected?.kind !== "placed") return select({ kind: "placed", names: [name] });
    const names = selected.names.includes(name)
      ? selected.names.filter((one) => one !== name)
      : [...selected.names, name];
    set({ selected: names.length ? { kind: "placed", names } : null });
  };
  const selectCut = (cut: Cut, more: boolean) => {
    if (!more || selected?.kind !== "cuts") return select({ kind: "cuts", cuts: [cut] });
    const cuts = selected.cuts.some((one) => sameCut(one, cut))
      ? selected.cuts.filter((one) => !sameCut(one, cut))
      : [...selected.cuts, cut];
    set({ selected: cuts.length ? { kind: "cuts", cuts } : null });
  };

  // Someone came with a macro: select a likely place for one of its kind.
  const macro = useQuery({ ...asked.macro(wanted ?? ""), enabled: Boolean(wanted) });
  const kind = macro.data?.card.kind;
  const came = useRef<string>(undefined);
  useEffect(() => {
    if (!view || !kind || came.current === wanted) return;
    came.current = wanted ?? undefined;
    const cuts = cutsOf(view).filter((cut) => cut.left && cut.right);
    const free = cuts.find((cut) => !joinOn(view, cut)) ?? cuts[0];
    if (kind === "transition" && free) select({ kind: "cuts", cuts: [free] });
    if (kind === "look" && view.shots[0]) selectPlaced(view.shots[0].id, false);
  });

  useReelKeys({ view, change, undo, redo, screen, goTo });

  if (problem) return <main className="page bad">{problem.message}</main>;
  if (!view) return <main className="page soft">Opening…</main>;
  return (
    <main className={styles.reel}>
      <OpenHead>
        <span className="name">
          <b>{view.name}</b> <span className="mono">{shownRate(rate)} fps</span> ·{" "}
          <span className="mono">
            {view.width}×{view.height}
          </span>{" "}
          · <span className="mono">{timecode(view.length, rate)}</span>{" "}
          <span role="status" className={gone ? "bad" : ""}>
            {savedWords("", waiting, gone)}
          </span>
        </span>
        <Button disabled={!view.undo} aria-label="Undo" onClick={() => void undo()}>
          ↶
        </Button>
        <Button disabled={!view.redo} aria-label="Redo" onClick={() => void redo()}>
          ↷
        </Button>
        <HandOn view={view} />
        <Button type="primary" disabled={!view.length} onClick={() => setRendering(true)}>
          Render
        </Button>
      </OpenHead>
      <Strip
        view={view}
        rate={rate}
        change={change}
        onTry={setTrying}
        onFrame={goTo}
        onSelectPlaced={selectPlaced}
        onSelectCut={selectCut}
        onSelectLook={(look) => select({ kind: "look", look })}
      />
      <StripBar view={view} change={change} />
      <div className={styles.reelLow}>
        <Tray
          view={view}
          selected={selected}
          wanted={wanted ? { slug: wanted, settings: state?.settings ?? {} } : null}
          change={change}
          onSelect={(next) => set({ selected: next })}
        />
        <Monitor view={view} rate={rate} trying={trying} screen={screen} />
        <Face
          view={view}
          change={change}
          onTry={setTrying}
          onSelect={(next) => set({ selected: next })}
        />
      </div>
      {rendering && (
        <RenderDialog view={view} rate={rate} change={change} onClose={() => setRendering(false)} />
      )}
    </main>
  );
}
