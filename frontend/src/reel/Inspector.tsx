import { Button, Select } from "antd";
import type { ReelChange, ReelView } from "../api/client";
import { settingsOf } from "../api/values";
import { ControlRow } from "../controls/ControlRow";
import { NumberField } from "../controls/NumberField";
import { Slider } from "../controls/Slider";
import { ReelSettings } from "./ReelSettings";
import type { ChangeReel, Selection } from "./useReel";
import styles from "./Inspector.module.css";

interface Props {
  view: ReelView;
  selected: Selection;
  change: ChangeReel;
  onTry: (change: ReelChange | null) => void;
  onGone: () => void;
}

/** The faceplate of what is selected: a join's macro, a shot, or the edit itself. */
export function Inspector(props: Props) {
  const { view, selected } = props;
  if (selected?.kind === "cut") {
    const join = view.joins.find((one) => one.left === selected.left);
    if (join) return <JoinFace {...props} id={join.id} />;
    return (
      <section className={styles.face} aria-label="Faceplate">
        <h2>A plain cut</h2>
        <p className="soft">
          Choose a macro from the tray. Each is shown on this cut, with your clips.
        </p>
      </section>
    );
  }
  if (selected?.kind === "shot") return <ShotFace {...props} id={selected.shot} />;
  return <ReelSettings view={view} change={props.change} />;
}

function JoinFace({ view, change, onTry, onGone, id }: Props & { id: string }) {
  const shown = view.joins.find((one) => one.id === id)!;
  const index = view.shots.findIndex((shot) => shot.id === shown.left);
  const left = view.shots[index]!;
  const right = view.shots[index + 1]!;
  const { handles } = shown;
  const length = shown.end - shown.first;
  const set = (more: Partial<Extract<ReelChange, { do: "set-join" }>>): ReelChange => ({
    do: "set-join",
    join: id,
    ...more,
  });
  const settings = settingsOf(shown.controls, shown.settings);
  const most = 2 * Math.min(left.length, right.length);
  // The longest join, so aligned, that both handles reach.
  const fits = longest(shown.alignment, handles.left_spare, handles.right_spare);
  return (
    <section className={styles.face} aria-label="Faceplate">
      <h2>
        {shown.name} <span className="mono soft">version {shown.version}</span>
      </h2>
      <p className="soft">{shown.sentence}</p>
      {shown.problem && <p className="note">{shown.problem}</p>}
      {shown.newest > shown.version && (
        <div className="note">
          Version {shown.newest} is on the shelf: {shown.update.join(" ")}
          <br />
          <Button size="small" onClick={() => void change(set({ version: shown.newest }))}>
            Update to version {shown.newest}
          </Button>
        </div>
      )}
      <div className="control-row">
        <div className="control-head">
          <span>Length</span>
          <span className="control-number">
            <NumberField
              label="Length"
              whole
              value={length}
              onCommit={(next) => void change(set({ length: next }))}
            />
            <span className="mono soft">frames</span>
          </span>
        </div>
        <Slider
          label="Length, slider"
          whole
          value={length}
          range={[2, Math.min(most, 120)]}
          onTry={(next) => onTry(set({ length: next }))}
          onCommit={(next) => void change(set({ length: next }))}
        />
      </div>
      <div className="control-row">
        <div className="control-head">
          <span>Placed</span>
          <Select
            size="small"
            aria-label="Placed"
            value={shown.alignment}
            popupMatchSelectWidth={false}
            options={[
              { value: "before", label: "before the cut" },
              { value: "across", label: "across the cut" },
              { value: "after", label: "after the cut" },
            ]}
            onChange={(alignment) => void change(set({ alignment }))}
          />
        </div>
      </div>
      {shown.controls.map((control) => (
        <ControlRow
          key={control.slug}
          control={control}
          value={settings[control.slug]}
          onTry={(value) => onTry(set({ settings: { [control.slug]: value } }))}
          onCommit={(value) => void change(set({ settings: { [control.slug]: value } }))}
        />
      ))}
      {handles.short && !shown.hold && (
        <div className="note">
          It needs {handles.left_needs} frames of {left.name} after the cut and{" "}
          {handles.right_needs} of {right.name} before it; there are{" "}
          {handles.left_spare ?? "enough"} and {handles.right_spare}. What helps:
          <div className={styles.ways}>
            <Button
              size="small"
              disabled={fits < 1}
              onClick={() => void change(set({ length: fits }))}
            >
              Shorten to {Math.max(fits, 0)}
            </Button>
            {(["before", "across", "after"] as const)
              .filter((way) => way !== shown.alignment)
              .filter((way) => longest(way, handles.left_spare, handles.right_spare) >= length)
              .slice(0, 1)
              .map((way) => (
                <Button key={way} size="small" onClick={() => void change(set({ alignment: way }))}>
                  Slide it {way} the cut
                </Button>
              ))}
            <Button size="small" onClick={() => void change(set({ hold: true }))}>
              Hold the last frame
            </Button>
          </div>
        </div>
      )}
      <p className="soft">
        {left.name} has {handles.left_spare ?? "any number of"} frames to spare after the cut,{" "}
        {right.name} {handles.right_spare >= 10 ** 7 ? "any number" : handles.right_spare} before
        it.
      </p>
      <Button
        size="small"
        onClick={() => {
          void change({ do: "remove-join", join: id });
          onGone();
        }}
      >
        Remove the macro
      </Button>
    </section>
  );
}

/** The longest join that the handles reach, so aligned. */
export function longest(alignment: string, left: number | null, right: number): number {
  const after = left ?? Infinity;
  if (alignment === "before") return right;
  if (alignment === "after") return Number.isFinite(after) ? after : 10 ** 6;
  const even = 2 * Math.min(after, right);
  return right > after ? even : after > right ? even + 1 : even;
}

function ShotFace({ view, change, onGone, id }: Props & { id: string }) {
  const index = view.shots.findIndex((shot) => shot.id === id);
  const shot = view.shots[index];
  if (!shot) return null;
  const whole = shot.lasts;
  const set = (more: Partial<Extract<ReelChange, { do: "set-shot" }>>) =>
    void change({ do: "set-shot", shot: id, ...more });
  return (
    <section className={styles.face} aria-label="Shot">
      <h2>{shot.name}</h2>
      <p className="soft">{whole === null ? "A still" : `${whole} frames of material`}</p>
      {(
        [
          ["From frame", shot.start, (start: number) => set({ start })],
          ["Length", shot.length, (length: number) => set({ length })],
        ] as const
      ).map(([label, value, commit]) => (
        <div className="control-head" key={label}>
          <span>{label}</span>
          <NumberField label={label} whole value={value} onCommit={commit} />
        </div>
      ))}
      <div className="control-head">
        <span>Fit</span>
        <Select
          size="small"
          aria-label="Fit"
          value={shot.fit}
          popupMatchSelectWidth={false}
          options={[
            { value: "cover", label: "cover the frame" },
            { value: "contain", label: "show all of it" },
            { value: "stretch", label: "stretch" },
            { value: "actual", label: "actual pixels" },
          ]}
          onChange={(fit) => set({ fit })}
        />
      </div>
      <div className={styles.ways}>
        <Button size="small" disabled={index === 0} onClick={() => set({ at: index - 1 })}>
          Move left
        </Button>
        <Button
          size="small"
          disabled={index === view.shots.length - 1}
          onClick={() => set({ at: index + 1 })}
        >
          Move right
        </Button>
        <Button
          size="small"
          onClick={() => {
            void change({ do: "remove-shot", shot: id });
            onGone();
          }}
        >
          Take off the strip
        </Button>
      </div>
    </section>
  );
}
