import { Button, Drawer, Select, Switch } from "antd";
import type { DraftView, Edit, Lane, Step, StepKind, Tap } from "../api/client";
import { Picture } from "../player/Picture";
import { NumberField } from "../controls/NumberField";
import { inputName } from "./cardWords";
import { cardOf, frameUrl } from "./frames";
import { everyStep, readersOf } from "./graph";
import { useBench } from "./store";
import { useKinds, type EditDraft } from "./useDraft";

interface Props {
  draft: DraftView;
  lane: Lane;
  step: Step;
  /** The repeat that holds the step. */
  inside: Step | null;
  tap: StepKind["taps"][number];
  frame: number;
  length: number;
  edit: EditDraft;
  onClose: () => void;
}

const CHANNELS = ["luminance", "alpha", "red", "green", "blue"] as const;

/** Every lane and step with its picture; hovering one shows its effect on the monitor. */
export function TapPicker(props: Props) {
  const { draft, lane, step, inside, tap, frame, length, edit, onClose } = props;
  const attempt = useBench((state) => state.attempt);
  const shape = useBench((state) => state.shape);
  const { kindOf } = useKinds();
  const now = step.taps?.[tap.name];
  const change = (next: Tap | null): Edit => ({
    do: "set-tap",
    lane: lane.id,
    step: step.id,
    tap_name: tap.name,
    tap: next,
  });
  const close = () => {
    attempt(null);
    onClose();
  };
  const pick = (next: Tap | null) => {
    void edit(change(next));
    close();
  };
  const set = (more: Partial<Tap>) => now && void edit(change({ ...now, ...more }));
  const circles = readersOf(draft.effect, { lane: lane.id, step: step.id });
  const mine = step.name || kindOf(step.kind)?.label;
  return (
    <Drawer
      open
      placement="left"
      mask={false}
      size={Math.min(700, window.innerWidth * 0.55)}
      title={`${mine}: where “${inputName(tap.name)}” comes from`}
      onClose={close}
      rootClassName="tap-picker"
    >
      <p className="soft">{tap.help}</p>
      {now && (
        <div className="tap-options">
          {tap.takes === "matte" && (
            <>
              <label>
                by{" "}
                <Select
                  size="small"
                  aria-label="Channel"
                  value={now.channel ?? "luminance"}
                  options={CHANNELS.map((value) => ({ value }))}
                  onChange={(channel) => set({ channel })}
                />
              </label>
              <label>
                inverted{" "}
                <Switch
                  size="small"
                  aria-label="Inverted"
                  checked={now.invert ?? false}
                  onChange={(invert) => set({ invert })}
                />
              </label>
            </>
          )}
          <label title="Take it from another frame: minus is earlier.">
            frames later{" "}
            <NumberField
              label="Frames later"
              value={now.offset ?? 0}
              whole
              onCommit={(offset) => set({ offset })}
            />
          </label>
        </div>
      )}
      <div className="choices">
        {draft.effect.lanes.flatMap((other) =>
          everyStep(other).map(({ step: one, inside: holder, at }) => {
            const last = !holder && at === (other.steps ?? []).length - 1;
            const entry = inside !== null && other.id === lane.id && one.id === inside.id;
            const next: Tap = {
              ...(now ?? { channel: "luminance", invert: false, offset: 0 }),
              lane: other.id,
              step: last && other.id !== lane.id ? null : one.id,
            };
            const circle = !entry && circles.has(`${other.id}.${one.id}`);
            const chosen = now?.lane === other.id && (now.step === one.id || (last && !now.step));
            const name = entry ? "what comes into the pass" : one.name || kindOf(one.kind)?.label;
            const why = circle
              ? other.id === lane.id && one.id === step.id
                ? "This is the step itself: that would be a circle."
                : `${name} takes in ${mine}: that would be a circle.`
              : "";
            return (
              <button
                key={`${other.id}.${one.id}`}
                className={`bare choice ${chosen ? "chosen" : ""}`}
                disabled={circle}
                aria-pressed={chosen}
                title={why}
                onClick={() => pick(next)}
                onMouseEnter={() => !circle && attempt(change(next))}
                onFocus={() => !circle && attempt(change(next))}
                onMouseLeave={() => attempt(null)}
              >
                <Picture
                  url={frameUrl(draft, frame, length, cardOf(shape), {
                    stage: { lane: other.id, step: one.id },
                  })}
                  alt=""
                />
                {other.name}, {name}
                {last && <span className="soft"> · the lane’s end</span>}
                {circle && <span className="bad"> · {why}</span>}
              </button>
            );
          }),
        )}
      </div>
      {now && tap.optional && <Button onClick={() => pick(null)}>Take this input away</Button>}
    </Drawer>
  );
}
