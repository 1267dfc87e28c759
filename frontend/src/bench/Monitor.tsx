import { useCallback, useState } from "react";
import type { DraftView } from "../api/client";
import { atLevel, LEVEL_WORDS, type Level } from "../player/levels";
import { Screen, type ScreenHandle } from "../player/Screen";
import { frameUrl, PREVIEW } from "./frames";
import { usePlaying } from "./playing";
import { useBench } from "./store";

interface Props {
  draft: DraftView;
  frame: number;
  length: number;
  ref: React.Ref<ScreenHandle>;
}

/** The picture large: the result, or the selected step's. */
export function Monitor({ draft, frame, length, ref }: Props) {
  const { view, setView, selected, trying, go, loop } = useBench();
  const setState = usePlaying((state) => state.set);
  const { rate, playing, level } = usePlaying();
  const [ms, setMs] = useState<number>();
  const stage = view === "step" ? selected : null;
  const known =
    stage &&
    draft.effect.lanes.some(
      (lane) => lane.id === stage.lane && (lane.steps ?? []).some((one) => one.id === stage.step),
    );
  const shown = known ? stage : null;
  const urlOf = useCallback(
    (at: number, level: Level) => frameUrl(draft, at, length, atLevel(PREVIEW, level), shown),
    [draft, length, shown],
  );
  const live = trying && {
    path: `/effects/${draft.id}/live`,
    body: {
      base: draft.revision,
      edit: trying,
      frame,
      length,
      ...PREVIEW,
      stage: shown ? `${shown.lane}.${shown.step}` : "",
      stream: "monitor",
    },
  };
  const liveKey = live && JSON.stringify(live.body);
  const [held, setHeld] = useState<{ key: string; live: typeof live }>();
  if (liveKey && held?.key !== liveKey) setHeld({ key: liveKey, live });
  return (
    <div className="monitor">
      <div className="views" role="tablist" aria-label="View of the monitor">
        {(["result", "step"] as const).map((name) => (
          <button
            key={name}
            role="tab"
            aria-selected={view === name}
            className="bare"
            onClick={() => setView(name)}
          >
            {name === "result" ? "Result" : "This step"}
          </button>
        ))}
        {view === "step" && !shown && <span className="soft">Select a step to see it here.</span>}
      </div>
      <div className="ground">
        <Screen
          ref={ref}
          urlOf={urlOf}
          frame={frame}
          first={0}
          end={length}
          rate={25}
          loop={loop}
          aspect={16 / 9}
          label={`Frame ${frame} of ${draft.effect.name}`}
          live={liveKey ? held?.live : null}
          onFrame={go}
          onState={setState}
          onCost={setMs}
        />
      </div>
      <div className="stat mono">
        <span>
          {PREVIEW.width}×{PREVIEW.height}
        </span>
        <span>frame {frame}</span>
        <span>{playing ? `${rate.toFixed(1)} fps` : "25 fps"}</span>
        {playing && level > 0 && <span>{LEVEL_WORDS[level]}</span>}
        <span className="right">{ms === undefined ? "" : `computed in ${ms.toFixed(1)} ms`}</span>
      </div>
    </div>
  );
}
