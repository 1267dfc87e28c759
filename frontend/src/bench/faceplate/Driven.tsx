import { Button, Select } from "antd";
import type { Control, DraftView } from "../../api/client";
import { isLink, matters, valueOf } from "../../api/values";
import { NUMERIC } from "../../controls/faceplate";
import { Picture } from "../../player/Picture";
import { findStep, everyStep } from "../graph";
import { smallOf, triedUrl } from "../frames";
import { benchStore, useBench } from "../store";
import { useKinds, type ChangeDraft } from "../useDraft";
import { drivable, LinkFields } from "../values/LinkFields";
import styles from "./Faceplate.module.css";

interface Props {
  draft: DraftView;
  frame: number;
  length: number;
  control: Control;
  change: ChangeDraft;
}

/** The values that a control drives, each through its own range and ease, and the picture at both
 * ends. */
export function Driven({ draft, frame, length, control, change }: Props) {
  const { kindOf, mix } = useKinds();
  const shape = useBench((state) => state.shape);
  const { effect } = draft;
  const driven = draft.drives[control.slug] ?? [];
  const kindFor = (lane: string, step: string, name: string) => {
    const found = findStep(effect, { lane, step })?.step;
    return name === "mix" ? mix : kindOf(found)?.values.find((one) => one.name === name);
  };
  const more = effect.lanes.flatMap((lane) =>
    everyStep(lane).flatMap(({ step }) => {
      const kind = kindOf(step);
      if (!kind) return [];
      const values = kind.main && mix ? [...kind.values, mix] : kind.values;
      return values
        .filter((one) => matters(step, one, values) && drivable(control, one))
        .filter(
          (one) => typeof valueOf(step, one) !== "object" || Array.isArray(valueOf(step, one)),
        )
        .map((one) => ({
          value: `${lane.id}.${step.id}.${one.name}`,
          label: `${lane.name} · ${step.name || kind.label}: ${one.label}`,
        }));
    }),
  );
  const ends: [string, unknown][] = NUMERIC.includes(control.type)
    ? [
        ["at the slider’s start", control.slider?.[0] ?? 0],
        ["at its end", control.slider?.[1] ?? 1],
      ]
    : control.type === "toggle"
      ? [
          ["off", false],
          ["on", true],
        ]
      : control.type === "choice"
        ? (control.options ?? []).slice(0, 8).map((one) => [one, one])
        : [];
  return (
    <>
      <div className={styles.line}>
        <span>drives</span>
        <div className={styles.driven}>
          {driven.map(({ lane, step, value: name, words }) => {
            const found = findStep(effect, { lane, step })?.step;
            const link = name === "mix" ? found?.mix : found?.values?.[name];
            const kind = kindFor(lane, step, name);
            return (
              <div key={`${lane}.${step}.${name}`} className={styles.drivenValue}>
                <button
                  className="link"
                  title="Select its step"
                  onClick={() => {
                    benchStore.setState({ wide: false });
                    benchStore.getState().select({ lane, step });
                  }}
                >
                  {words}
                </button>
                {isLink(link) && (
                  <Button
                    size="small"
                    type="text"
                    aria-label={`Unlink ${words}`}
                    title="Unlink: it keeps the value that it has"
                    onClick={() => void change({ do: "unlink", lane, step, value_name: name })}
                  >
                    ×
                  </Button>
                )}
                {isLink(link) && kind && (
                  <LinkFields
                    effect={effect}
                    label={words}
                    kind={kind}
                    link={link}
                    control={control}
                    below
                    onPut={(next) =>
                      void change({ do: "set-value", lane, step, value_name: name, value: next })
                    }
                  />
                )}
              </div>
            );
          })}
          <Select
            size="small"
            className={styles.addValue}
            aria-label={`${control.label}: drive one more value`}
            placeholder="Drive one more value…"
            showSearch
            optionFilterProp="label"
            popupMatchSelectWidth={340}
            value={null}
            options={more}
            onChange={(picked) => {
              const [lane = "", step = "", name = ""] = String(picked).split(".");
              void change({ do: "drive", lane, step, value_name: name, control: control.slug });
            }}
          />
        </div>
      </div>
      {driven.length > 0 && ends.length > 0 && (
        <div className={styles.line}>
          <span>pictures</span>
          <div className={styles.ends}>
            {ends.map(([word, value]) => (
              <figure key={word}>
                <Picture
                  url={triedUrl(
                    draft,
                    { do: "set-control", slug: control.slug, default: value },
                    frame,
                    length,
                    smallOf(shape),
                  )}
                  alt={`${control.label} ${word}`}
                  aspect={shape.width / shape.height}
                />
                <figcaption className="soft">{word}</figcaption>
              </figure>
            ))}
          </div>
        </div>
      )}
    </>
  );
}
