import { App, Select } from "antd";
import { useEffect, useRef, useState } from "react";
import { query, streamOf, type DraftView } from "../../api/client";
import type { Pixels } from "../../player/levels";
import { Screen, type ScreenHandle } from "../../player/Screen";
import { rateOf } from "../../player/timecode";
import { Against } from "./Against";
import { Compare } from "./Compare";
import { frameUrl, sinceOf, stepOf, usePreview } from "../frames";
import { findStep } from "../graph";
import { Guides } from "./Guides";
import { Handles } from "./Handles";
import { MonitorBar } from "./MonitorBar";
import { noteCosts } from "../lanes/useCosts";
import { playingStore, usePlaying } from "./playing";
import { hexOf, probed, ProbeLine, useProbe, type At } from "./Probe";
import { benchStore, CHANNELS, useBenchOf, VIEWS } from "../store";
import type { ChangeDraft } from "../useDraft";
import { useZoom } from "./useZoom";
import styles from "./Monitor.module.css";

interface Props {
  draft: DraftView;
  frame: number;
  length: number;
  change: ChangeDraft;
  ref: React.Ref<ScreenHandle>;
}

/** For public/early.js, which requests the first picture at the next opening. */
const noteSize = (size: Pixels) => localStorage.setItem("pale-static-preview", query({ ...size }));

/** The large picture: the result or a step, alone or compared with another, and the bar below it.
 * */
export function Monitor({ draft, frame, length, change, ref }: Props) {
  const bench = useBenchOf(
    "view",
    "selected",
    "trying",
    "go",
    "loop",
    "channel",
    "shape",
    "set",
    "range",
    "passes",
    "probing",
    "pipette",
    "lines",
    "guides",
  );
  const { view, selected, trying, go, loop, channel, shape, set, range } = bench;
  const size = usePreview();
  const fps = rateOf(draft.effect.rate);
  const setState = usePlaying((state) => state.set);
  const { playing } = usePlaying();
  const [ms, setMs] = useState<number>();
  const [said, setSaid] = useState("");
  const [at, setAt] = useState<At | null>(null);
  const ground = useRef<HTMLDivElement>(null);
  const { transform, zoomed, label, pan, by, fit } = useZoom(ground);
  const held = findStep(draft.effect, selected);
  // A comparison shows the result; only "This step" shows the step.
  const shown = view === "step" && held ? selected : null;
  const pass = held?.inside ? bench.passes[`${held.lane.id}.${held.inside.id}`] : undefined;
  const compares = view !== "result" && view !== "step";
  const exact = (compares || channel !== "colour") && !playing;
  const urlOf = (frame: number, size: Pixels) =>
    frameUrl(draft, frame, length, size, { step: shown, pass, costs: true });
  const live = trying && {
    path: `/effects/${draft.id}/live`,
    body: {
      base: draft.revision,
      change: trying,
      frame,
      length,
      ...size,
      step: stepOf(shown, pass) ?? "",
      costs: true,
      stream: streamOf(exact ? "compare" : "monitor"),
    },
  };
  const liveKey = live && JSON.stringify(live.body);
  const [kept, setKept] = useState<{ key: string; live: typeof live }>();
  if (liveKey && kept?.key !== liveKey) setKept({ key: liveKey, live });
  const steady = liveKey ? (kept?.live ?? null) : null;
  const watched = bench.probing || bench.pipette ? at : null;
  const probe = useProbe(draft, watched, frame, length, size, held ? selected : null, pass);
  const { message } = App.useApp();
  const point = (event: { clientX: number; clientY: number }): At | null => {
    const box = ground.current?.querySelector(".screen")?.getBoundingClientRect();
    if (!box) return null;
    const x = (event.clientX - box.left) / box.width;
    const y = (event.clientY - box.top) / box.height;
    const round = (value: number) => Number(value.toFixed(4));
    return x < 0 || y < 0 || x > 1 || y > 1 ? null : { x: round(x), y: round(y) };
  };
  useEffect(() => {
    if (!bench.pipette) return;
    const leave = (event: KeyboardEvent) => event.key === "Escape" && set({ pipette: null });
    window.addEventListener("keydown", leave);
    return () => window.removeEventListener("keydown", leave);
  }, [bench.pipette, set]);
  const aspect = shape.width / shape.height;
  const take = (event: React.PointerEvent) => {
    const where = point(event);
    if (!bench.pipette || !where) return;
    event.stopPropagation();
    const use = bench.pipette;
    set({ pipette: null });
    const { width, height } = size;
    void probed(draft, { frame, length, width, height, ...where })
      .then((found) => use(hexOf(found.result)))
      .catch((fault: Error) => message.error(fault.message));
  };
  return (
    <div className={styles.monitor}>
      <div className={styles.views}>
        <div role="tablist" aria-label="View of the monitor">
          {VIEWS.map(({ key, label: name }) => (
            <button
              key={key}
              role="tab"
              aria-selected={view === key}
              className="bare"
              onClick={() => set({ view: key })}
            >
              {name}
            </button>
          ))}
        </div>
        <Select
          className="right"
          size="small"
          variant="borderless"
          aria-label="What of the colours is shown"
          popupMatchSelectWidth={false}
          value={channel}
          options={CHANNELS.map((value) => ({ value }))}
          onChange={(next) => set({ channel: next })}
        />
      </div>
      <div
        className={`ground ${bench.pipette ? styles.picking : ""} ${zoomed ? styles.zoomed : ""}`}
        ref={ground}
        onPointerDown={pan}
        onPointerMove={(event) => {
          if (bench.probing || bench.pipette) setAt(point(event));
        }}
        onPointerLeave={() => setAt(null)}
        onPointerDownCapture={take}
      >
        <div
          className={styles.pictureGround}
          style={{
            transform,
            aspectRatio: String(aspect),
            maxWidth: `calc((100vh - var(--below, 490px)) * ${aspect})`,
          }}
        >
          <Screen
            ref={ref}
            urlOf={urlOf}
            full={size}
            zoomed={zoomed}
            feedsBack={draft.feeds_back}
            onSize={noteSize}
            frame={frame}
            first={range?.[0] ?? 0}
            end={range ? range[1] + 1 : length}
            rate={fps}
            loop={loop}
            aspect={aspect}
            label={`Frame ${frame} of ${draft.effect.name}`}
            live={exact ? null : steady}
            saved={(tried) => {
              const { made } = benchStore.getState();
              return (
                made?.revision === sinceOf(draft, shown) &&
                tried.base === made.base &&
                JSON.stringify(tried.change) === JSON.stringify(made.change) &&
                tried.length === length &&
                tried.step === (stepOf(shown, pass) ?? "")
              );
            }}
            onFrame={go}
            onState={setState}
            onCost={(cost) => {
              setMs(cost.ms);
              noteCosts(draft.id, cost);
            }}
            onCame={() => {
              if (playingStore.getState().came !== draft.id) performance.mark("picture");
              playingStore.setState({ came: draft.id });
            }}
          />
          {exact && (
            <Compare
              draft={draft}
              frame={frame}
              length={length}
              size={size}
              step={shown}
              pass={pass}
              live={steady}
              onCompared={setSaid}
            />
          )}
          <Guides />
          {!playing && <Handles {...{ draft, frame, length, size, change }} />}
        </div>
        {compares && <Against draft={draft} frame={frame} said={playing ? "" : said} />}
        {view === "step" && !shown && <div className="against">Select a step to see it here.</div>}
        {bench.pipette && <div className="against">Click where the colour is. Esc leaves it.</div>}
        {(bench.probing || bench.pipette) && <ProbeLine found={probe} at={at} />}
      </div>
      <MonitorBar {...{ draft, frame, size, change, ms }} zoom={{ label, by, fit }} />
    </div>
  );
}
