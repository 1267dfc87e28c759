import { Button, Modal, Radio } from "antd";
import { useQuery } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { useNavigate, useParams, useSearchParams } from "react-router-dom";
import { asked } from "../api/asked";
import { $api, query } from "../api/client";
import { atLevel, LEVEL_WORDS, type Level } from "../player/levels";
import { Screen, type ScreenHandle } from "../player/Screen";
import { rateOf, timecode } from "../player/timecode";
import { savedWords } from "../api/useChanges";
import { OpenHead } from "../shell/TopBar";
import { useKeys } from "../shell/useKeys";
import { Inspector } from "./Inspector";
import { Strip } from "./Strip";
import { Tray } from "./Tray";
import { useReel, type Selection } from "./useReel";
import styles from "./Reel.module.css";

/** The editor's place: the strip across the top; tray, monitor and faceplate under it. */
export function Reel() {
  const id = Number(useParams()["id"]);
  const { view, problem, change, undo, redo, waiting, gone, trying, setTrying } = useReel(id);
  const [frame, setFrame] = useState(0);
  const [selected, setSelected] = useState<Selection>(null);
  const [playing, setPlaying] = useState<{ on: boolean; rate: number; level: Level }>({
    on: false,
    rate: 0,
    level: 0,
  });
  const [loop, setLoop] = useState(false);
  const [range, setRange] = useState<{ first: number; end: number } | null>(null);
  const [rendering, setRendering] = useState(false);
  const [params] = useSearchParams();
  const screen = useRef<ScreenHandle>(null);
  const wanted = params.get("use");
  const rate = rateOf(view?.rate ?? "25");
  const length = view?.length ?? 1;
  const now = Math.min(frame, Math.max(0, length - 1));
  const aspect = view ? view.width / view.height : 16 / 9;
  const size = useMemo(
    () =>
      aspect >= 1
        ? { width: 960, height: even(960 / aspect) }
        : { width: even(540 * aspect), height: 540 },
    [aspect],
  );
  const revision = view?.revision;
  const urlOf = useCallback(
    (at: number, level: Level) =>
      `/api/reels/${id}/${revision}/frame.jpg?${query({ frame: at, ...atLevel(size, level) })}`,
    [id, revision, size],
  );
  const live = useMemo(
    () =>
      trying && revision !== undefined
        ? {
            path: `/reels/${id}/live`,
            body: { base: revision, change: trying, frame: now, ...size, stream: "reel" },
          }
        : null,
    [trying, revision, id, now, size],
  );

  // Coming with a macro in hand: the first cut without one is the likely place for it.
  useEffect(() => {
    if (!view || !wanted || selected) return;
    const cut =
      view.shots.slice(0, -1).find((shot) => !view.joins.some((join) => join.left === shot.id)) ??
      view.shots[0];
    if (cut && view.shots.length > 1) setSelected({ kind: "cut", left: cut.id });
  }, [view, wanted, selected]);

  const joinOf = (left: string) => view?.joins.find((join) => join.left === left);
  const join = selected?.kind === "cut" ? joinOf(selected.left) : undefined;
  const play = (span: { first: number; end: number } | null) => {
    setRange(span);
    if (span) setFrame(span.first);
    setTimeout(() => screen.current?.play(1), 0);
  };

  useKeys((key, event) => {
    const far = event.shiftKey ? 10 : 1;
    const go = (to: number) => {
      screen.current?.stop();
      setFrame(Math.min(length - 1, Math.max(0, to)));
    };
    if (key === " ") {
      setRange(null);
      screen.current?.toggle();
    } else if (key === "k") screen.current?.stop();
    else if (key === "l") screen.current?.play(1);
    else if (key === "j") screen.current?.play(-1);
    else if (key === "ArrowLeft") go(now - far);
    else if (key === "ArrowRight") go(now + far);
    else if (key === "Home") go(0);
    else if (key === "End") go(length - 1);
    else if (key === "Ctrl+z") void undo();
    else if (key === "Ctrl+Shift+z") void redo();
    else return;
    return true;
  });

  if (problem) return <main className="page bad">{problem.message}</main>;
  if (!view) return <main className="page soft">Opening…</main>;
  return (
    <main className={styles.reel}>
      <OpenHead>
        <span className="name">
          <b>{view.name}</b> <span className="mono">{Number(rate.toFixed(3))} fps</span> ·{" "}
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
        <Button type="primary" disabled={!view.length} onClick={() => setRendering(true)}>
          Render
        </Button>
      </OpenHead>
      <Strip
        view={view}
        rate={rate}
        frame={now}
        selected={selected}
        onFrame={(at) => {
          screen.current?.stop();
          setFrame(at);
        }}
        onSelect={(next) => {
          setSelected(next);
          if (next?.kind === "cut") {
            const placed = joinOf(next.left);
            const at = view.shots.findIndex((shot) => shot.id === next.left);
            const cut = view.shots[at + 1]?.begins ?? 0;
            screen.current?.stop();
            setFrame(placed ? Math.floor((placed.first + placed.end) / 2) : cut);
          }
        }}
        change={change}
        onTry={setTrying}
      />
      <div className={styles.reelLow}>
        <Tray
          view={view}
          selected={selected}
          wanted={wanted}
          change={change}
          onPlaced={(left) => setSelected({ kind: "cut", left })}
        />
        <section className={styles.reelMid} aria-label="Monitor">
          <div className="ground">
            {view.length ? (
              <Screen
                ref={screen}
                urlOf={urlOf}
                frame={now}
                first={range?.first ?? 0}
                end={range?.end ?? length}
                rate={rate}
                loop={loop}
                aspect={aspect}
                label={`Frame ${now} of ${view.name}`}
                live={live}
                onFrame={setFrame}
                onState={(state) =>
                  setPlaying({ on: state.playing, rate: state.rate, level: state.level })
                }
              />
            ) : (
              <p className={styles.emptyReel}>Put a shot on the strip to begin.</p>
            )}
          </div>
          <div className="stat mono">
            <span>{timecode(now, rate)}</span>
            {join && now >= join.first && now < join.end && (
              <span>
                join {now - join.first + 1} of {join.end - join.first}
              </span>
            )}
            <span>
              {playing.on ? `${playing.rate.toFixed(1)} fps` : `${Number(rate.toFixed(3))} fps`}
            </span>
            {playing.on && playing.level > 0 && <span>{LEVEL_WORDS[playing.level]}</span>}
          </div>
          <div className="transport">
            <Button
              onClick={() => {
                setRange(null);
                if (playing.on) screen.current?.stop();
                else play(null);
              }}
              disabled={!view.length}
            >
              {playing.on ? "Stop" : "Play"}
            </Button>
            <Button
              disabled={!join}
              onClick={() =>
                join &&
                play({ first: Math.max(0, join.first - 12), end: Math.min(length, join.end + 12) })
              }
            >
              Play this join
            </Button>
            <Button
              aria-pressed={loop}
              type={loop ? "primary" : "default"}
              onClick={() => setLoop(!loop)}
            >
              Loop
            </Button>
          </div>
        </section>
        <Inspector
          view={view}
          selected={selected}
          change={change}
          onTry={setTrying}
          onGone={() => setSelected(null)}
        />
      </div>
      {rendering && <RenderDialog id={id} onClose={() => setRendering(false)} />}
    </main>
  );
}

function even(value: number): number {
  return Math.max(2, Math.round(value / 2) * 2);
}

/** What does not match is said before a render starts. */
function RenderDialog({ id, onClose }: { id: number; onClose: () => void }) {
  const [form, setForm] = useState<"mp4" | "png">("mp4");
  const navigate = useNavigate();
  const found = useQuery({ ...asked.preflight(id, form), gcTime: 0 });
  const start = $api.useMutation("post", "/api/renders", {
    meta: { told: true },
    onSuccess: () => void navigate("/renders"),
  });
  const sentences = found.data?.sentences;
  return (
    <Modal
      open
      title="Render this edit"
      okText="Start the render"
      onCancel={onClose}
      confirmLoading={start.isPending}
      onOk={() => start.mutate({ body: { reel: id, form } })}
    >
      <Radio.Group
        value={form}
        onChange={(event) => setForm(event.target.value as "mp4" | "png")}
        options={[
          { value: "mp4", label: "H.264 video (MP4)" },
          { value: "png", label: "Pictures (PNG, 16 bits)" },
        ]}
      />
      {sentences?.length === 0 && <p className="soft">Everything matches.</p>}
      {sentences?.map((sentence) => (
        <p key={sentence} className="note">
          {sentence}
        </p>
      ))}
      {start.error && <p className="bad">{start.error.detail}</p>}
    </Modal>
  );
}
