import { Button, Drawer, Input } from "antd";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { asked } from "../../api/asked";
import type { DraftView, Change, PartView, Input as Source, Step } from "../../api/client";
import { Picture } from "../../player/Picture";
import { cardOf, frameUrl } from "../frames";
import { everyStep } from "../graph";
import { useBench } from "../store";
import { useKinds } from "../useDraft";
import styles from "./InsertPart.module.css";
import inputPickerStyles from "../values/InputPicker.module.css";

interface Props {
  draft: DraftView;
  /** The place of a run; null if only lanes, or a run as a new lane, can be inserted. */
  lane: string | null;
  at: number;
  inside: string | null;
  frame: number;
  length: number;
  change: (change: Change) => Promise<unknown>;
  /** The part that was chosen elsewhere. */
  wanted?: number;
  onClose: () => void;
}

/** Insert a part, chosen by its picture; its open inputs are chosen by pictures too. */
export function InsertPart(props: Props) {
  const { draft, lane, at, inside, frame, length, change, wanted, onClose } = props;
  const found = useQuery(asked.parts());
  const attempt = useBench((state) => state.attempt);
  const { kindOf } = useKinds();
  const [text, setText] = useState("");
  const [picked, setPicked] = useState<PartView | null>(null);
  const [chosen, setChosen] = useState<Record<string, Source>>({});
  const words = text.toLowerCase().split(/\s+/).filter(Boolean);
  const parts = (found.data?.parts ?? []).filter((one) => {
    const said = [one.part.name, one.collection, one.part.notes, ...(one.part.tags ?? [])]
      .join(" ")
      .toLowerCase();
    const here = !one.project || one.project === draft.project;
    return here && words.every((word) => said.includes(word));
  });
  const close = () => {
    attempt(null);
    onClose();
  };
  const inserting = (one: PartView, chosen: Record<string, Source>): Change => {
    const part = one.part as Extract<Change, { do: "insert-part" }>["part"];
    const given = { do: "insert-part" as const, part, inputs: chosen, note: one.note };
    const empty = !draft.effect.lanes.find((each) => each.id === lane)?.steps?.length;
    if (part.kind === "run" && one.starts && !(lane && empty)) {
      // A run that begins with a source is inserted as a lane of its own.
      const lanes = [{ ...part.lanes[0]!, id: "run", name: part.name.slice(0, 120) }];
      return { ...given, part: { ...part, kind: "lanes", lanes } };
    }
    if (part.kind === "lanes") return given;
    const to = lane ?? draft.effect.lanes.at(-1)!.id;
    const end = draft.effect.lanes.find((each) => each.id === to)?.steps?.length ?? 0;
    return { ...given, to, at: lane ? at : end, inside };
  };
  const put = (one: PartView, chosen: Record<string, Source>) => {
    void change(inserting(one, chosen));
    close();
  };
  const take = (one: PartView) => {
    setChosen(likely(draft, one, (step) => kindOf(step)?.label));
    if (one.part.inputs?.length) setPicked(one);
    else put(one, {});
  };
  // A part that was picked in the search for a step is taken as soon as the list has loaded.
  const [waits, setWaits] = useState(wanted !== undefined);
  const chosenBefore =
    waits &&
    found.data &&
    [...found.data.parts, ...found.data.recipes].find((one) => one.id === wanted);
  useEffect(() => {
    if (!chosenBefore) return;
    setWaits(false);
    take(chosenBefore);
    // eslint-disable-next-line react-hooks/exhaustive-deps -- once, when it has come
  }, [chosenBefore]);
  const inputs = picked?.part.inputs ?? [];
  const open = inputs.filter((one) => !(one.id in chosen));
  return (
    <Drawer
      open
      placement="left"
      mask={false}
      size={Math.min(700, window.innerWidth * 0.55)}
      title={picked ? `“${picked.part.name}” needs its inputs` : "Insert a part"}
      onClose={close}
      rootClassName={inputPickerStyles.inputPicker}
    >
      {picked ? (
        <>
          {inputs.map((input) => (
            <InputChoice
              key={input.id}
              {...{ draft, frame, length }}
              name={input.name}
              chosen={chosen[input.id]}
              onPick={(source) => {
                const next = { ...chosen, [input.id]: source };
                setChosen(next);
                attempt(inserting(picked, next));
              }}
            />
          ))}
          <div className={styles.partActions}>
            <Button onClick={() => setPicked(null)}>Another part</Button>
            <Button type="primary" onClick={() => put(picked, chosen)}>
              {open.length ? `Put it in, ${open.length} left open` : "Put it in"}
            </Button>
          </div>
        </>
      ) : (
        <>
          <Input
            allowClear
            autoFocus
            aria-label="Search the parts"
            placeholder="Search names, tags, collections, notes"
            value={text}
            onChange={(event) => setText(event.target.value)}
          />
          {found.data && !parts.length && (
            <p className="empty">
              {words.length
                ? "No part matches."
                : "Nothing is kept yet. Pick steps with Ctrl-click and choose “Keep as a part”."}
            </p>
          )}
          <div className={inputPickerStyles.choices}>
            {parts.map((one) => (
              <button
                key={one.id}
                className={`bare ${inputPickerStyles.choice}`}
                onClick={() => take(one)}
              >
                <Picture url={one.picture} alt="" />
                <b>{one.part.name}</b>{" "}
                <span className="soft">
                  {[
                    one.collection,
                    `${one.steps} step${one.steps > 1 ? "s" : ""}`,
                    one.project && `for ${one.project}`,
                  ]
                    .filter(Boolean)
                    .join(" · ")}
                </span>
              </button>
            ))}
          </div>
        </>
      )}
    </Drawer>
  );
}

/** Sources here with the names that the inputs had when the part was kept. */
function likely(
  draft: DraftView,
  one: PartView,
  labelOf: (step: Step) => string | undefined,
): Record<string, Source> {
  const found: Record<string, Source> = {};
  for (const input of one.part.inputs ?? [])
    for (const lane of draft.effect.lanes) {
      const steps = everyStep(lane);
      const named = steps.find(
        ({ step }) => `${lane.name}, ${step.name || labelOf(step)}` === input.name,
      );
      const step = lane.name === input.name ? lane.steps?.at(-1) : named?.step;
      if (step)
        found[input.id] = {
          lane: lane.id,
          step: step.id,
          channel: "luminance",
          invert: false,
          offset: 0,
        };
    }
  return found;
}

/** One open input of a part: every lane and step to choose from, with its picture. */
function InputChoice(props: {
  draft: DraftView;
  frame: number;
  length: number;
  name: string;
  chosen: Source | undefined;
  onPick: (source: Source) => void;
}) {
  const { draft, frame, length, name, chosen, onPick } = props;
  const { kindOf } = useKinds();
  const shape = useBench((state) => state.shape);
  return (
    <section aria-label={`Input ${name}`}>
      <h3>
        What was “{name}” <span className="soft">{chosen ? "" : "not chosen yet"}</span>
      </h3>
      <div className={inputPickerStyles.choices}>
        {draft.effect.lanes.flatMap((lane) =>
          everyStep(lane).map(({ step }) => {
            const mine = chosen?.lane === lane.id && chosen.step === step.id;
            return (
              <button
                key={`${lane.id}.${step.id}`}
                className={`bare ${inputPickerStyles.choice} ${mine ? inputPickerStyles.chosen : ""}`}
                aria-pressed={mine}
                onClick={() =>
                  onPick({
                    lane: lane.id,
                    step: step.id,
                    channel: "luminance",
                    invert: false,
                    offset: 0,
                  })
                }
              >
                <Picture
                  url={frameUrl(draft, frame, length, cardOf(shape), {
                    step: { lane: lane.id, step: step.id },
                  })}
                  alt=""
                />
                {lane.name}, {step.name || kindOf(step)?.label}
              </button>
            );
          }),
        )}
      </div>
    </section>
  );
}
