import { Button, Input, Modal, Tooltip } from "antd";
import { useEffect, useRef, useState } from "react";
import { useParams } from "react-router-dom";
import { api } from "../api/client";
import type { ScreenHandle } from "../player/Screen";
import { OpenHead } from "../shell/TopBar";
import { useKeys } from "../shell/useKeys";
import { AddStep } from "./AddStep";
import "./bench.css";
import { Drawer } from "./Drawer";
import { Filmstrip } from "./Filmstrip";
import { Lanes } from "./Lanes";
import { Monitor } from "./Monitor";
import { PublishDialog } from "./PublishDialog";
import { samePlace, useBench } from "./store";
import { useDraft, useKinds } from "./useDraft";

/** The maker's place. */
export function Bench() {
  const id = Number(useParams()["id"]);
  const { draft, problem, edit, run } = useDraft(id);
  const { kinds } = useKinds();
  const bench = useBench();
  const screen = useRef<ScreenHandle>(null);
  const [adding, setAdding] = useState<{ lane: string; at: number } | null>(null);
  const [publishing, setPublishing] = useState(false);
  const [staging, setStaging] = useState<string | null>(null);
  const { select, setLength, go } = bench;
  useEffect(() => {
    select(null);
    setLength(null);
    go(0);
  }, [id, select, setLength, go]);

  const length = bench.length ?? draft?.frames ?? 1;
  const frame = Math.min(bench.frame, length - 1);
  const undo = () => void run(() => api.undo(id));
  const redo = () => void run(() => api.redo(id));

  useKeys((key, event) => {
    if (!draft) return;
    const far = event.shiftKey ? 10 : 1;
    const selected = bench.selected;
    switch (key) {
      case " ":
      case "k":
        if (key === " ") screen.current?.toggle();
        else screen.current?.stop();
        return true;
      case "l":
        screen.current?.play(1);
        return true;
      case "j":
        screen.current?.play(-1);
        return true;
      case "ArrowLeft":
      case "ArrowRight":
        screen.current?.stop();
        go(Math.min(length - 1, Math.max(0, frame + (key === "ArrowLeft" ? -far : far))));
        return true;
      case "Home":
        go(0);
        return true;
      case "End":
        go(length - 1);
        return true;
      case ",":
      case ".":
        void api.curves(id, draft.revision, length).then(({ curves }) => {
          const places = curves.flatMap((one) =>
            one.keys.map((at) => Math.round(at.share * (length - 1))),
          );
          const next =
            key === "."
              ? Math.min(...places.filter((at) => at > frame))
              : Math.max(...places.filter((at) => at < frame));
          if (Number.isFinite(next)) go(next);
        });
        return true;
      case "/": {
        const lane = draft.effect.lanes.find((one) => one.id === selected?.lane);
        const into = lane ?? draft.effect.lanes.at(-1)!;
        const at = (into.steps ?? []).findIndex((one) => one.id === selected?.step);
        setAdding({ lane: into.id, at: at < 0 ? (into.steps ?? []).length : at + 1 });
        return true;
      }
      case "o": {
        const lane = draft.effect.lanes.find((one) => one.id === selected?.lane);
        const step = lane?.steps?.find((one) => samePlace(selected, lane.id, one.id));
        if (!lane || !step) return;
        void edit({ do: "set-step", lane: lane.id, step: step.id, on: !step.on });
        return true;
      }
      case "e": {
        const row = document.querySelector<HTMLElement>(
          ".value-row:focus-within, .value-row:hover",
        );
        const { lane, step, value } = row?.dataset ?? {};
        if (!lane || !step || !value) return;
        void edit({ do: "expose", lane, step, value_name: value });
        return true;
      }
      case "v":
        bench.setView(bench.view === "result" ? "step" : "result");
        return true;
      case "Ctrl+z":
        undo();
        return true;
      case "Ctrl+Shift+z":
        redo();
        return true;
      case "Ctrl+s":
        setStaging("");
        return true;
    }
    return;
  });

  if (problem) return <main className="page bad">{problem.message}</main>;
  if (!draft) return <main className="page soft">Opening…</main>;
  const { effect } = draft;
  const saved = new Date(draft.saved).toLocaleTimeString("en-GB", {
    hour: "2-digit",
    minute: "2-digit",
  });
  const state = draft.macro
    ? `draft after version ${draft.next_version - 1}`
    : "draft, not published";
  const startsLanes = kinds.filter((kind) => kind.main === null);

  return (
    <main className="bench">
      <OpenHead>
        <span className="name">
          <b>{effect.name}</b> {effect.kind} · {state} · saved {saved}
        </span>
        <Tooltip title="Undo (Ctrl+Z)">
          <Button onClick={undo} disabled={!draft.undo} aria-label="Undo">
            ↶
          </Button>
        </Tooltip>
        <Tooltip title="Redo (Ctrl+Shift+Z)">
          <Button onClick={redo} disabled={!draft.redo} aria-label="Redo">
            ↷
          </Button>
        </Tooltip>
        <Button onClick={() => setStaging("")}>Keep a stage</Button>
        <Button type="primary" onClick={() => setPublishing(true)}>
          Publish version {draft.next_version}
        </Button>
      </OpenHead>
      <Lanes
        draft={draft}
        frame={frame}
        length={length}
        edit={edit}
        onAdd={(lane, at) => setAdding({ lane, at })}
      />
      <section className="watch" aria-label="Monitor and filmstrip">
        <Monitor draft={draft} frame={frame} length={length} ref={screen} />
        <Filmstrip draft={draft} frame={frame} length={length} screen={screen} edit={edit} />
        <Drawer draft={draft} frame={frame} length={length} edit={edit} run={run} />
      </section>
      {adding && (
        <AddStep
          draft={draft}
          frame={frame}
          length={length}
          lane={adding.lane}
          at={adding.at}
          sourcesOnly={startsLanes.length > 0 && adding.at === 0}
          onClose={() => setAdding(null)}
          onPick={(kind) => {
            setAdding(null);
            const before = new Set(
              effect.lanes.flatMap((lane) =>
                (lane.steps ?? []).map((one) => `${lane.id}.${one.id}`),
              ),
            );
            void edit({ do: "add-step", lane: adding.lane, kind, at: adding.at }).then((after) => {
              for (const lane of after?.effect.lanes ?? [])
                for (const one of lane.steps ?? [])
                  if (!before.has(`${lane.id}.${one.id}`)) select({ lane: lane.id, step: one.id });
            });
          }}
        />
      )}
      <PublishDialog draft={draft} open={publishing} onClose={() => setPublishing(false)} />
      <Modal
        title="Keep a stage"
        open={staging !== null}
        okText="Keep it"
        onCancel={() => setStaging(null)}
        onOk={() => {
          const name = staging?.trim() || `Stage of ${saved}`;
          void api.keepStage(id, name).then(() => run(() => api.draft(id)));
          setStaging(null);
          bench.setTab("history");
        }}
      >
        <p className="soft">A name for the effect as it stands, to come back to.</p>
        <Input
          aria-label="Name of the stage"
          value={staging ?? ""}
          onChange={(event) => setStaging(event.target.value)}
        />
      </Modal>
    </main>
  );
}
