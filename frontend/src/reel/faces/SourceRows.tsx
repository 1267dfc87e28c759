import { Switch } from "antd";
import type { ReelChange, Source } from "../../api/client";
import { rateOf } from "../../player/timecode";
import type { FaceProps } from "./props";
import { ChoiceRow, FrameRows, NumberRow } from "./rows";

type SetShot = Extract<ReelChange, { do: "set-shot" }>;

interface Props extends Pick<FaceProps, "view" | "change" | "onTry"> {
  /** Shots or clips that are changed together. */
  names: readonly string[];
  source: Source;
}

/** Playback and fit of a material: speed, direction, blending of frames, shape, sound. */
export function SourceRows({ view, change, onTry, names, source }: Props) {
  const of = (name: string, more: Partial<SetShot>): SetShot => ({
    do: "set-shot",
    shot: name,
    ripple: true,
    ...more,
  });
  const set = (more: Partial<SetShot>) => Promise.all(names.map((name) => change(of(name, more))));
  const tried = (more: Partial<SetShot>) => onTry(of(names[0]!, more));
  const percent = (value: number) => String(Math.round(value * 100)) + "/10000";
  return (
    <>
      <ChoiceRow
        label="Runs"
        value={source.direction}
        options={[
          { value: "forwards", label: "forwards" },
          { value: "backwards", label: "backwards" },
          { value: "freeze", label: "frozen at its start" },
        ]}
        onPick={(direction) => set({ direction })}
      />
      {source.direction !== "freeze" && source.lasts !== null && (
        <>
          <NumberRow
            label="Speed"
            unit="%"
            value={source.speed}
            range={[25, 400]}
            title="25 to 400 %"
            onTry={(value) => tried({ speed: percent(value) })}
            onCommit={(value) => set({ speed: percent(value) })}
          />
          <div className="control-head">
            <span title="Mixes neighbouring frames where times fall between them">
              Blend frames
            </span>
            <Switch
              size="small"
              aria-label="Blend frames"
              checked={source.blended}
              onChange={(blended) => set({ blended })}
            />
          </div>
        </>
      )}
      <ChoiceRow
        label="Fit"
        value={source.fit}
        options={[
          { value: "cover", label: "cover the frame" },
          { value: "contain", label: "show all of it" },
          { value: "stretch", label: "stretch" },
          { value: "actual", label: "actual pixels" },
        ]}
        onPick={(fit) => set({ fit })}
      />
      {(source.fit === "cover" || source.fit === "actual") &&
        (["across", "down"] as const).map((side, k) => (
          <NumberRow
            key={side}
            label={`Keep in sight, ${side}`}
            title="The point of a larger picture that stays in the frame: 0.5 is its middle"
            value={source.focus[k]!}
            range={[0, 1]}
            onTry={(value) =>
              tried({ focus: k ? [source.focus[0], value] : [value, source.focus[1]] })
            }
            onCommit={(value) =>
              set({ focus: k ? [source.focus[0], value] : [value, source.focus[1]] })
            }
          />
        ))}
      <SoundRows view={view} source={source} set={set} />
    </>
  );
}

interface SoundProps {
  view: FaceProps["view"];
  source: Source;
  set: (more: Partial<SetShot>) => void;
}

/** The sound of a shot: its gain and its fades. */
function SoundRows({ view, source, set }: SoundProps) {
  if (!source.sound) return null;
  return (
    <>
      <div className="control-head">
        <span>Sound</span>
        <Switch
          size="small"
          aria-label="Sound"
          checked={!source.mute}
          onChange={(on) => set({ mute: !on })}
        />
      </div>
      {!source.mute && (
        <>
          <NumberRow
            label="Gain"
            unit="dB"
            value={source.gain}
            range={[-30, 12]}
            onCommit={(gain) => set({ gain })}
          />
          <FrameRows
            rate={rateOf(view.rate)}
            rows={[
              ["Fade in", source.fade_in, (fade_in) => set({ fade_in: Math.max(0, fade_in) })],
              ["Fade out", source.fade_out, (fade_out) => set({ fade_out: Math.max(0, fade_out) })],
            ]}
          />
        </>
      )}
    </>
  );
}
