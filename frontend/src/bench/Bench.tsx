import { Button, Tooltip } from "antd";
import { useRef, useState } from "react";
import { useParams } from "react-router-dom";
import type { DraftView } from "../api/client";
import type { ScreenHandle } from "../player/Screen";
import { OpenHead } from "../shell/OpenHead";
import { useComingBack } from "../shell/useComingBack";
import { AboutEffect } from "./AboutEffect";
import { AddStep } from "./adding/AddStep";
import { Drawer } from "./Drawer";
import { inOrder } from "./lanes/DragGround";
import { Filmstrip } from "./filmstrip/Filmstrip";
import { everyStep, findStep, placeOf, type Spot } from "./graph";
import { InsertPart } from "./adding/InsertPart";
import { KeepPart } from "./adding/KeepPart";
import { KeepStage } from "./history/KeepStage";
import { Lanes, noneOpen } from "./lanes/Lanes";
import type { LanesProps } from "./lanes/props";
import { Monitor } from "./monitor/Monitor";
import { NoteDialog } from "./lanes/Notes";
import { PublishDialog } from "./faceplate/PublishDialog";
import { FIRST_LOOK, lookOf, benchStore, useBenchOf } from "./store";
import { useBenchKeys } from "./useBenchKeys";
import { savedWords } from "../api/useChanges";
import { useDraft, useKinds } from "./useDraft";
import { Divider, useShare } from "./Divider";
import { sheetStore } from "./sheet/sheet";
import styles from "./Bench.module.css";

/** The maker's place. */
export function Bench() {
  const id = Number(useParams()["id"]);
  const { draft, problem, change, undo, redo, goTo, keepStage, waiting, gone } = useDraft(id);
  const { kinds } = useKinds();
  const share = useShare(draft ? noneOpen(draft) : false);
  const bench = useBenchOf("length", "frame", "select", "wide", "set");
  const screen = useRef<ScreenHandle>(null);
  const [adding, setAdding] = useState<Spot | null>(null);
  const [parting, setParting] = useState<
    (Omit<Spot, "lane"> & { lane: string | null; wanted?: number }) | null
  >(null);
  const [noting, setNoting] = useState<{ lane?: string; step?: string } | null>(null);
  const [keeping, setKeeping] = useState<{ lanes: string[]; picked: string[] } | null>(null);
  const [about, setAbout] = useState(false);
  const [publishing, setPublishing] = useState(false);
  const [staging, setStaging] = useState(false);
  const { select } = bench;
  const there = useComingBack(
    "bench",
    draft ? id : null,
    () => lookOf(benchStore.getState()),
    (before) => {
      // A new effect is shown at its middle, because its first frame often shows nothing of it.
      const first = { ...FIRST_LOOK, frame: Math.floor((draft?.frames ?? 1) / 2) };
      benchStore.setState({ passes: {}, trying: null, pipette: null, ...first, ...before });
      sheetStore.getState().clear();
    },
  );

  const wishes: Pick<LanesProps, "onAdd" | "onPart" | "onNote" | "onKeep"> = {
    onAdd: (lane, at, inside) => setAdding({ lane, at, inside: inside ?? null }),
    onPart: (lane, at, inside) => setParting({ lane, at, inside: inside ?? null }),
    onNote: (lane, step) => setNoting({ ...(lane ? { lane } : {}), ...(step ? { step } : {}) }),
    onKeep: (lanes) => setKeeping({ lanes: lanes ?? [], picked: benchStore.getState().picked }),
  };
  const length = bench.length ?? draft?.frames ?? 1;
  const frame = Math.min(bench.frame, length - 1);

  useBenchKeys({
    ...{ draft, screen, frame, length, change, undo, redo },
    onAdd: setAdding,
    onNote: setNoting,
    onStage: () => setStaging(true),
  });

  if (problem) return <main className="page bad">{problem.message}</main>;
  if (!draft || !there) return <main className="page soft">Opening…</main>;
  const { effect } = draft;
  const saved = new Date(draft.saved).toLocaleTimeString("en-GB", {
    hour: "2-digit",
    minute: "2-digit",
  });
  const state = draft.macro
    ? `draft after version ${draft.next_version - 1}`
    : "draft, not published";
  const drawer = <Drawer draft={draft} frame={frame} length={length} change={change} goTo={goTo} />;
  const startsLanes = kinds.filter((kind) => kind.main === null);

  return (
    <main
      className={styles.bench}
      style={{ gridTemplateColumns: `minmax(0, ${share}fr) auto minmax(400px, ${1 - share}fr)` }}
    >
      <OpenHead>
        <span className="name">
          <button
            className="bare"
            title="Name, description, tags and project"
            onClick={() => setAbout(true)}
          >
            <b>{effect.name}</b>
          </button>{" "}
          {effect.kind} · {state} ·{" "}
          <span role="status" className={gone ? "bad" : ""}>
            {savedWords(`saved ${saved}`, waiting, gone)}
          </span>
        </span>
        <Tooltip title="Undo (Ctrl+Z)">
          <Button onClick={() => void undo()} disabled={!draft.undo} aria-label="Undo">
            ↶
          </Button>
        </Tooltip>
        <Tooltip title="Redo (Ctrl+Shift+Z)">
          <Button onClick={() => void redo()} disabled={!draft.redo} aria-label="Redo">
            ↷
          </Button>
        </Tooltip>
        <Button onClick={() => setStaging(true)}>Save a named state</Button>
        <Button type="primary" onClick={() => setPublishing(true)}>
          Publish version {draft.next_version}
        </Button>
      </OpenHead>
      {bench.wide ? (
        <section className={styles.wide} aria-label="Drawer in place of the lanes">
          <button
            className={styles.rail}
            title="Back to the lanes (D)"
            onClick={() => bench.set({ wide: false })}
          >
            Lanes · {effect.lanes.map((one) => one.name).join(", ")}
          </button>
          {drawer}
        </section>
      ) : (
        <Lanes draft={draft} length={length} change={change} {...wishes} />
      )}
      <Divider lanes={share} />
      <section className={styles.watch} aria-label="Monitor and filmstrip">
        <Monitor draft={draft} frame={frame} length={length} change={change} ref={screen} />
        <Filmstrip draft={draft} frame={frame} length={length} screen={screen} change={change} />
        {!bench.wide && drawer}
      </section>
      {adding && (
        <AddStep
          draft={draft}
          frame={frame}
          length={length}
          lane={adding.lane}
          at={adding.at}
          inside={adding.inside}
          sourcesOnly={startsLanes.length > 0 && adding.at === 0 && !adding.inside}
          onClose={() => setAdding(null)}
          onPart={(part) => {
            setAdding(null);
            setParting({ ...adding, wanted: part.id });
          }}
          onPick={(added, ownLane) => {
            setAdding(null);
            const before = new Set(
              effect.lanes.flatMap((lane) =>
                everyStep(lane).map((one) => `${lane.id}.${one.step.id}`),
              ),
            );
            const place = ownLane ? { lane: null, at: 0, inside: null } : adding;
            void change({ do: "add-step", ...added, ...place }).then((after) => {
              for (const lane of after?.effect.lanes ?? [])
                for (const { step } of everyStep(lane))
                  if (!before.has(`${lane.id}.${step.id}`))
                    select({ lane: lane.id, step: step.id });
            });
          }}
        />
      )}
      {parting && (
        <InsertPart
          {...{ draft, frame, length, change }}
          {...parting}
          onClose={() => setParting(null)}
        />
      )}
      {noting && (
        <NoteDialog
          draft={draft}
          pinned={noting}
          what={whatOf(draft, noting)}
          change={change}
          onClose={() => setNoting(null)}
        />
      )}
      {keeping && (
        <KeepPart
          {...{ draft, frame, length }}
          lanes={keeping.lanes}
          steps={inOrder(draft, keeping.picked.map(placeOf))}
          onClose={() => setKeeping(null)}
        />
      )}
      {about && <AboutEffect draft={draft} change={change} onClose={() => setAbout(false)} />}
      <PublishDialog
        draft={draft}
        change={change}
        open={publishing}
        onClose={() => setPublishing(false)}
      />
      {staging && (
        <KeepStage
          usual={`State of ${saved}`}
          onClose={() => setStaging(false)}
          onKeep={(name) => {
            void keepStage(name);
            benchStore.getState().setTab("history");
          }}
        />
      )}
    </main>
  );
}

/** The name of the thing that a note is pinned to. */
function whatOf(draft: DraftView, { lane, step }: { lane?: string; step?: string }): string {
  const found = draft.effect.lanes.find((one) => one.id === lane);
  if (!found) return draft.effect.name;
  const held = step ? findStep(draft.effect, { lane: found.id, step }) : undefined;
  return held ? `${held.step.name || held.step.kind} in ${found.name}` : `the lane ${found.name}`;
}
