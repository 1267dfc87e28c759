import { Button, Dropdown, InputNumber, Select } from "antd";
import { useQuery } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";
import { api, query, type DraftView } from "../api/client";
import { atLevel, LEVEL_WORDS, type Level } from "../player/levels";
import { Screen, type ScreenHandle } from "../player/Screen";
import { Compare } from "./Compare";
import { frameUrl, stageOf, usePreview } from "./frames";
import { findStep } from "./graph";
import { Handles } from "./Handles";
import { usePlaying } from "./playing";
import { hexOf, ProbeLine, useProbe, type At } from "./Probe";
import { safeAreas } from "./safe";
import { CHANNELS, SHAPES, useBenchOf, VIEWS, type Against } from "./store";
import type { EditDraft } from "./useDraft";
import { useZoom } from "./useZoom";

interface Props {
  draft: DraftView;
  frame: number;
  length: number;
  edit: EditDraft;
  ref: React.Ref<ScreenHandle>;
}

const LINES = [180, 270, 360, 540, 720, 1080];

/** The picture large: result or step, alone or held against another, with what lies under it. */
export function Monitor({ draft, frame, length, edit, ref }: Props) {
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
  const setState = usePlaying((state) => state.set);
  const { rate, playing, level } = usePlaying();
  const [ms, setMs] = useState<number>();
  const [said, setSaid] = useState("");
  const [at, setAt] = useState<At | null>(null);
  const ground = useRef<HTMLDivElement>(null);
  const { transform, zoomed, label, zoomers, by, fit } = useZoom(ground);
  const held = findStep(draft.effect, selected);
  // Held against something, the result is meant; only "This step" shows the step.
  const shown = view === "step" && held ? selected : null;
  const pass = held?.inside ? bench.passes[`${held.lane.id}.${held.inside.id}`] : undefined;
  const compares = view !== "result" && view !== "step";
  useEffect(() => {
    // For public/early.js, which asks for the first picture the next time.
    localStorage.setItem("pale-static-preview", query({ ...size }));
    // eslint-disable-next-line react-hooks/exhaustive-deps -- a size is its two numbers
  }, [size.width, size.height]);
  const exact = (compares || channel !== "colour") && !playing;
  const urlOf = useCallback(
    (frame: number, level: Level) =>
      frameUrl(draft, frame, length, atLevel(size, level), { stage: shown, pass }),
    // eslint-disable-next-line react-hooks/exhaustive-deps -- a size is its two numbers
    [draft, length, shown, pass, size.width, size.height],
  );
  const live = trying && {
    path: `/effects/${draft.id}/live`,
    body: {
      base: draft.revision,
      edit: trying,
      frame,
      length,
      ...size,
      stage: stageOf(shown, pass) ?? "",
      stream: exact ? "compare" : "monitor",
    },
  };
  const liveKey = live && JSON.stringify(live.body);
  const [kept, setKept] = useState<{ key: string; live: typeof live }>();
  if (liveKey && kept?.key !== liveKey) setKept({ key: liveKey, live });
  const steady = liveKey ? (kept?.live ?? null) : null;
  const watched = bench.probing || bench.pipette ? at : null;
  const probe = useProbe(draft, watched, frame, length, size, held ? selected : null, pass);
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
    const asked = new URLSearchParams({
      frame: String(frame),
      length: String(length),
      width: String(size.width),
      height: String(size.height),
      x: String(where.x),
      y: String(where.y),
    });
    void api
      .probe(draft.id, draft.revision, asked.toString())
      .then((found) => use(hexOf(found.result)));
  };
  return (
    <div className="monitor">
      <div className="views">
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
        className={`ground ${bench.pipette ? "picking" : ""} ${zoomed ? "zoomed" : ""}`}
        ref={ground}
        {...zoomers}
        onPointerMove={(event) => {
          if (bench.probing || bench.pipette) setAt(point(event));
          zoomers.onPointerMove(event);
        }}
        onPointerLeave={() => setAt(null)}
        onPointerDownCapture={take}
      >
        <div
          className="picture-ground"
          style={{
            transform,
            aspectRatio: String(aspect),
            maxWidth: `calc((100vh - var(--below, 420px)) * ${aspect})`,
          }}
        >
          <Screen
            ref={ref}
            urlOf={urlOf}
            frame={frame}
            first={range?.[0] ?? 0}
            end={range ? range[1] + 1 : length}
            rate={25}
            loop={loop}
            aspect={aspect}
            label={`Frame ${frame} of ${draft.effect.name}`}
            live={exact ? null : steady}
            onFrame={go}
            onState={setState}
            onCost={setMs}
            onCame={() => {
              if (usePlaying.getState().came !== draft.id) performance.mark("picture");
              usePlaying.setState({ came: draft.id });
            }}
          />
          {exact && (
            <Compare
              draft={draft}
              frame={frame}
              length={length}
              size={size}
              stage={shown}
              pass={pass}
              live={steady}
              onCompared={setSaid}
            />
          )}
          <Guides />
          {!playing && <Handles {...{ draft, frame, length, size, edit }} />}
        </div>
        {compares && <Against draft={draft} frame={frame} said={playing ? "" : said} />}
        {view === "step" && !shown && <div className="against">Select a step to see it here.</div>}
        {bench.pipette && <div className="against">Click where the colour is. Esc leaves it.</div>}
        {(bench.probing || bench.pipette) && <ProbeLine found={probe} at={at} />}
      </div>
      <div className="stat mono">
        <Dropdown
          trigger={["click"]}
          menu={{
            items: [
              ...SHAPES.map((one) => ({ key: one.name, label: `Shape ${one.name}` })),
              { type: "divider" as const },
              ...LINES.map((one) => ({ key: `lines ${one}`, label: `${one} lines` })),
            ],
            selectedKeys: [shape.name, `lines ${bench.lines}`],
            onClick: ({ key }) => {
              const picked = SHAPES.find((one) => one.name === key);
              if (picked) set({ shape: picked });
              else set({ lines: Number(key.slice(6)) });
            },
          }}
          popupRender={(menu) => (
            <div className="shape-menu">
              {menu}
              <OwnShape />
            </div>
          )}
        >
          <button
            className="bare"
            aria-label={`Frame shape and preview size: ${size.width}×${size.height}`}
          >
            {size.width}×{size.height}
          </button>
        </Dropdown>
        <button
          className="bare"
          aria-pressed={bench.probing}
          onClick={() => set({ probing: !bench.probing })}
        >
          probe
        </button>
        <Dropdown
          trigger={["click"]}
          menu={{
            items: [
              { key: "safe", label: "Safe areas" },
              { key: "centre", label: "Centre" },
              { key: "thirds", label: "Thirds" },
            ],
            selectedKeys: Object.entries(bench.guides).flatMap(([key, on]) => (on ? [key] : [])),
            onClick: ({ key }) => {
              const name = key as keyof typeof bench.guides;
              set({ guides: { ...bench.guides, [name]: !bench.guides[name] } });
            },
          }}
        >
          <button className="bare" aria-pressed={Object.values(bench.guides).some(Boolean)}>
            guides
          </button>
        </Dropdown>
        <span className="zoom">
          <button className="bare" aria-label="Smaller" onClick={() => by(0.8)}>
            −
          </button>
          <button className="bare" aria-label={`Fit the picture, now ${label}`} onClick={fit}>
            {label}
          </button>
          <button className="bare" aria-label="Larger" onClick={() => by(1.25)}>
            +
          </button>
        </span>
        <span className="frame-number">frame {frame}</span>
        <span className="rate">{playing ? `${rate.toFixed(1)} fps` : "25 fps"}</span>
        {playing && level > 0 && <span>{LEVEL_WORDS[level]}</span>}
        <span className="right">{ms === undefined ? "" : `computed in ${ms.toFixed(1)} ms`}</span>
      </div>
    </div>
  );
}

/** A frame shape of one's own, by its two sides. */
function OwnShape() {
  const { shape, set } = useBenchOf("shape", "set");
  const put = (width: number, height: number) => {
    if (width > 0 && height > 0 && width / height < 8 && height / width < 8)
      set({ shape: { name: `${width}:${height}`, width, height } });
  };
  return (
    <label className="own-shape">
      own
      <InputNumber
        size="small"
        aria-label="Own shape: width"
        min={1}
        max={16384}
        value={shape.width}
        onChange={(width) => width && put(width, shape.height)}
      />
      :
      <InputNumber
        size="small"
        aria-label="Own shape: height"
        min={1}
        max={16384}
        value={shape.height}
        onChange={(height) => height && put(shape.width, height)}
      />
    </label>
  );
}

/** Safe areas, centre and thirds over the picture. */
function Guides() {
  const { guides } = useBenchOf("guides");
  if (!Object.values(guides).some(Boolean)) return null;
  return (
    <svg className="guides" viewBox="0 0 100 100" preserveAspectRatio="none" aria-hidden>
      {guides.safe &&
        safeAreas().map((one) => (
          <rect
            key={one.name}
            data-area={one.name}
            x={one.left * 100}
            y={one.top * 100}
            width={one.width * 100}
            height={one.height * 100}
          />
        ))}
      {guides.centre && <path d="M46,50H54M50,46V54" />}
      {guides.thirds && <path d="M33.333,0V100M66.667,0V100M0,33.333H100M0,66.667H100" />}
    </svg>
  );
}

/** What the picture is held against, and what came of it. */
function Against({ draft, frame, said }: { draft: DraftView; frame: number; said: string }) {
  const { view, against, base, other, gain, set } = useBenchOf(
    "view",
    "against",
    "base",
    "other",
    "gain",
    "set",
  );
  const history = useQuery({
    queryKey: ["history", draft.id, draft.revision],
    queryFn: () => api.history(draft.id),
    placeholderData: (before) => before,
  });
  const stages = (history.data?.revisions ?? []).filter((one) => one.stage && !one.head);
  const options: { value: Against; label: string }[] = [
    { value: "clip", label: "the clip" },
    { value: "without", label: "without this step" },
    { value: "moment", label: `frame ${other}` },
    ...stages.map((one) => ({ value: `stage:${one.id}` as const, label: `“${one.stage}”` })),
  ];
  if (against.startsWith("stage:") && !options.some((one) => one.value === against))
    options.push({ value: against, label: "an earlier state" });
  return (
    <div className="against">
      {view === "overlay" ? (
        <span>with frame {other} over it</span>
      ) : (
        <>
          {view === "split" ? "left:" : "against"}
          <Select
            size="small"
            aria-label="Held against"
            popupMatchSelectWidth={false}
            value={against}
            options={options}
            onChange={(next) => set({ against: next })}
          />
        </>
      )}
      {base !== null && view === "split" && (
        <button
          className="bare"
          title="Compare the effect as it stands again"
          onClick={() => set({ base: null })}
        >
          left: held against; right: an earlier state ×
        </button>
      )}
      {(view === "overlay" || against === "moment") && (
        <Button size="small" onClick={() => set({ other: frame })}>
          Take this frame
        </Button>
      )}
      {view === "difference" && (
        <label>
          ×{" "}
          <Select
            size="small"
            aria-label="Gain of the difference"
            value={gain}
            options={[1, 2, 4, 8, 16, 32].map((value) => ({ value, label: value }))}
            onChange={(next) => set({ gain: next })}
          />
        </label>
      )}
      <span role="status" className="compared-said">
        {said}
      </span>
    </div>
  );
}
