import { Button, Drawer, Select, Switch } from "antd";
import type { DraftView, Change, Lane, Step, StepKind, Input } from "../../api/client";
import { Picture } from "../../player/Picture";
import { NumberField } from "../../controls/NumberField";
import { inputName } from "../lanes/cardWords";
import { cardOf, frameUrl } from "../frames";
import { everyStep, readersOf } from "../graph";
import { useBench } from "../store";
import { useKinds, type ChangeDraft } from "../useDraft";
import styles from "./InputPicker.module.css";

interface Props {
  draft: DraftView;
  lane: Lane;
  step: Step;
  /** The repeat that holds the step. */
  inside: Step | null;
  input: StepKind["inputs"][number];
  frame: number;
  length: number;
  change: ChangeDraft;
  onClose: () => void;
}

const CHANNELS = ["luminance", "alpha", "red", "green", "blue"] as const;

/** The most frequent choice comes first: the finished picture of a lane. */
const GROUPS = [
  { title: "What lanes give", ends: true },
  { title: "Steps within lanes", ends: false },
];

/** Every lane and step with its picture; hovering one shows its effect on the monitor. */
export function InputPicker(props: Props) {
  const { draft, lane, step, inside, input, frame, length, change, onClose } = props;
  const attempt = useBench((state) => state.attempt);
  const shape = useBench((state) => state.shape);
  const { kindOf } = useKinds();
  const now = step.inputs?.[input.name];
  const reading = (next: Input | null): Change => ({
    do: "set-input",
    lane: lane.id,
    step: step.id,
    input_name: input.name,
    input: next,
  });
  const close = () => {
    attempt(null);
    onClose();
  };
  const pick = (next: Input | null) => {
    void change(reading(next));
    close();
  };
  const set = (more: Partial<Input>) => now && void change(reading({ ...now, ...more }));
  const loops = readersOf(draft, { lane: lane.id, step: step.id });
  const mine = step.name || kindOf(step)?.label;
  const choices = draft.effect.lanes.flatMap((other) =>
    everyStep(other).map(({ step: one, inside: holder, at }) => {
      const last = !holder && at === (other.steps ?? []).length - 1;
      const entry = inside !== null && other.id === lane.id && one.id === inside.id;
      const next: Input = {
        ...(now ?? { channel: "luminance", invert: false, offset: 0 }),
        lane: other.id,
        step: last && other.id !== lane.id ? null : one.id,
      };
      const loop = !entry && loops.has(`${other.id}.${one.id}`);
      const chosen = now?.lane === other.id && (now.step === one.id || (last && !now.step));
      const name = entry ? "what comes into the pass" : one.name || kindOf(one)?.label;
      const own = other.id === lane.id && one.id === step.id;
      const why = !loop
        ? ""
        : own
          ? "A step cannot read itself: that would make a loop."
          : `${name} reads ${mine}: that would make a loop.`;
      return { other, one, last, next, loop, chosen, name, why };
    }),
  );
  return (
    <Drawer
      open
      placement="left"
      mask={false}
      size={Math.min(700, window.innerWidth * 0.55)}
      title={`${mine}: where “${inputName(input.name)}” comes from`}
      onClose={close}
      rootClassName={styles.inputPicker}
    >
      <p className="soft">{input.help}</p>
      {now && (
        <div className={styles.inputOptions}>
          {input.takes === "matte" && (
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
      {GROUPS.map(({ title, ends }) => {
        const shown = choices.filter((choice) => choice.last === ends);
        if (!shown.length) return null;
        return (
          <section key={title} aria-label={title}>
            <h3>{title}</h3>
            <div className={styles.choices}>
              {shown.map(({ other, one, chosen, loop, name, why, next }) => (
                <button
                  key={`${other.id}.${one.id}`}
                  className={`bare ${styles.choice} ${chosen ? styles.chosen : ""}`}
                  disabled={loop}
                  aria-pressed={chosen}
                  title={why}
                  onClick={() => pick(next)}
                  onMouseEnter={() => !loop && attempt(reading(next))}
                  onFocus={() => !loop && attempt(reading(next))}
                  onMouseLeave={() => attempt(null)}
                >
                  <Picture
                    url={frameUrl(draft, frame, length, cardOf(shape), {
                      step: { lane: other.id, step: one.id },
                    })}
                    alt=""
                  />
                  {other.name}, {name}
                  {loop && <span className="bad"> · {why}</span>}
                </button>
              ))}
            </div>
          </section>
        );
      })}
      {now && input.optional && <Button onClick={() => pick(null)}>Take this input away</Button>}
    </Drawer>
  );
}
