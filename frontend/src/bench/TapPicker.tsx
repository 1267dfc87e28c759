import { Button, Drawer, Select, Switch } from "antd";
import type { DraftView, Edit, Lane, Step, StepKind, Tap } from "../api/client";
import { Picture } from "../player/Picture";
import { CARD, frameUrl } from "./frames";
import { useBench } from "./store";
import { useKinds, type EditDraft } from "./useDraft";

interface Props {
  draft: DraftView;
  lane: Lane;
  step: Step;
  tap: StepKind["taps"][number];
  frame: number;
  length: number;
  edit: EditDraft;
  onClose: () => void;
}

const CHANNELS = ["luminance", "alpha", "red", "green", "blue"] as const;

/** Every lane and step with its picture; hovering one shows its effect on the monitor. */
export function TapPicker({ draft, lane, step, tap, frame, length, edit, onClose }: Props) {
  const attempt = useBench((state) => state.attempt);
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
  const circles = reading(draft, lane.id, step.id);
  return (
    <Drawer
      open
      placement="left"
      mask={false}
      size={Math.min(700, window.innerWidth * 0.55)}
      title={`${step.name || kindOf(step.kind)?.label}: where “${tap.name}” comes from`}
      onClose={close}
      rootClassName="tap-picker"
    >
      <p className="soft">{tap.help}</p>
      {now && tap.takes === "matte" && (
        <div className="tap-options">
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
        </div>
      )}
      <div className="choices">
        {draft.effect.lanes.flatMap((other) =>
          (other.steps ?? []).map((one, at) => {
            const last = at === (other.steps ?? []).length - 1;
            const next: Tap = {
              ...(now ?? { channel: "luminance", invert: false, offset: 0 }),
              lane: other.id,
              step: last && other.id !== lane.id ? null : one.id,
            };
            const circle = circles.has(`${other.id}.${one.id}`);
            const chosen = now?.lane === other.id && (now.step === one.id || (last && !now.step));
            const name = one.name || kindOf(one.kind)?.label;
            return (
              <button
                key={`${other.id}.${one.id}`}
                className={`bare choice ${chosen ? "chosen" : ""}`}
                disabled={circle}
                aria-pressed={chosen}
                title={circle ? "It takes in this step itself: that would be a circle." : ""}
                onClick={() => pick(next)}
                onMouseEnter={() => !circle && attempt(change(next))}
                onFocus={() => !circle && attempt(change(next))}
                onMouseLeave={() => attempt(null)}
              >
                <Picture
                  url={frameUrl(draft, frame, length, CARD, { lane: other.id, step: one.id })}
                  alt=""
                />
                {other.name}, {name}
                {last && <span className="soft"> · the lane’s end</span>}
                {circle && <span className="bad"> · would be a circle</span>}
              </button>
            );
          }),
        )}
      </div>
      {now && tap.optional && <Button onClick={() => pick(null)}>Take this input away</Button>}
    </Drawer>
  );
}

/** Every step that takes in this one, directly or by others: choosing one would close a circle. */
function reading(draft: DraftView, lane: string, step: string): Set<string> {
  const found = new Set([`${lane}.${step}`]);
  for (let before = -1; before !== found.size;) {
    before = found.size;
    for (const other of draft.effect.lanes)
      (other.steps ?? []).forEach((one, at) => {
        const above = at ? [`${other.id}.${other.steps![at - 1]!.id}`] : [];
        const taps = Object.values(one.taps ?? {}).map((tap) => {
          const source = draft.effect.lanes.find((each) => each.id === tap.lane);
          return `${tap.lane}.${tap.step ?? source?.steps?.at(-1)?.id}`;
        });
        if ([...above, ...taps].some((name) => found.has(name))) found.add(`${other.id}.${one.id}`);
      });
  }
  return found;
}
