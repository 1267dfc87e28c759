import { Button, Dropdown, Input } from "antd";
import { useQuery } from "@tanstack/react-query";
import { api, type DraftView, type Edit, type Step, type ValueKind } from "../api/client";
import { isFormula, isKeys, isLink, plain, shownValue, valueOf, type Keys } from "../api/values";
import "../controls/controls.css";
import { keyAt, shareAt } from "./keys";
import { LinkFields, linkTo } from "./LinkFields";
import { useBench, type Place } from "./store";
import type { EditDraft } from "./useDraft";
import { Field } from "./ValueField";

interface Props {
  draft: DraftView;
  place: Place;
  step: Step;
  kind: ValueKind;
  frame: number;
  length: number;
  edit: EditDraft;
}

/** One value: label, slider, number, and marks for what moves it or drives it. */
export function ValueRow({ draft, place, step, kind, frame, length, edit }: Props) {
  const attempt = useBench((state) => state.attempt);
  const value = valueOf(step, kind);
  const keyed = isKeys(value);
  const linked = isLink(value);
  const formula = isFormula(value);
  const control = linked
    ? (draft.effect.controls ?? []).find((one) => one.slug === value.control)
    : undefined;
  const curves = useQuery({
    queryKey: ["curves", draft.id, draft.revision, length],
    queryFn: () => api.curves(draft.id, draft.revision, length),
    enabled: (keyed || formula) && kind.type === "number",
  });
  const curve = curves.data?.curves.find(
    (one) => one.lane === place.lane && one.step === place.step && one.value === kind.name,
  );
  const share = shareAt(draft.effect, frame, length);
  const sample = curve?.samples[Math.round(share * (curve.samples.length - 1))];
  const shown = sample ?? shownValue(draft.effect, value, kind);

  const setting = (next: unknown): Edit => {
    if (keyed)
      return {
        do: "set-value",
        ...place,
        value_name: kind.name,
        value: keyAt(value, next, share, length),
      };
    if (linked && control && !value.range && !value.table)
      return { do: "set-control", slug: control.slug, default: next };
    return { do: "set-value", ...place, value_name: kind.name, value: next };
  };
  const trying = (next: unknown) => attempt(setting(next));
  const commit = (next: unknown) => void edit(setting(next));

  const others = (draft.effect.controls ?? []).filter((one) => linkTo(one, kind, shown));
  const ends: Keys = {
    keys: [
      { anchor: "share", time: 0, value: kind.slider?.[0] ?? shown },
      { anchor: "share", time: 1, value: kind.slider?.[1] ?? shown },
    ],
  };
  const put = (next: unknown) =>
    void edit({ do: "set-value", ...place, value_name: kind.name, value: next });
  const items = [
    ...(kind.moves && !linked && !formula
      ? [
          { key: "key", label: "Key here" },
          ...(kind.type === "number" && !keyed
            ? [{ key: "ends", label: "Move from start to end" }]
            : []),
          ...(keyed ? [{ key: "still", label: "Stop moving" }] : []),
        ]
      : []),
    ...(kind.type === "number" && !linked && !keyed && !formula
      ? [{ key: "formula", label: "Formula" }]
      : []),
    ...(formula ? [{ key: "still", label: "Keep the number, drop the formula" }] : []),
    ...(linked
      ? [{ key: "seal", label: `Unlink from “${control?.label ?? value.control}”` }]
      : [
          {
            key: "expose",
            label: "Expose",
            disabled: formula || kind.type === "asset",
          },
          ...(others.length && !keyed && !formula
            ? [
                {
                  key: "drive",
                  label: "Drive by control",
                  children: others.map((one) => ({ key: `drive:${one.slug}`, label: one.label })),
                },
              ]
            : []),
        ]),
    { key: "reset", label: "Back to default" },
  ];
  const act = (key: string) => {
    if (key === "key") put(keyAt(keyed ? value : null, shown, share, length));
    if (key === "ends") put(ends);
    if (key === "still") put(shown);
    if (key === "expose") void edit({ do: "expose", ...place, value_name: kind.name });
    if (key === "seal") put(control?.type === "ease" ? ends : (control?.default ?? null));
    if (key === "reset") put(null);
    if (key === "formula") put({ formula: String(shown) });
    if (key.startsWith("drive:")) {
      const slug = key.slice(6);
      const by = others.find((one) => one.slug === slug);
      if (by) put(linkTo(by, kind, shown));
    }
  };
  const ranged = linked && Boolean(value.range ?? value.table);
  const label = kind.label;
  const mark = formula ? "ƒ" : keyed || control?.type === "ease" ? "∿" : "";
  return (
    <div
      className={`value-row ${linked ? "exposed" : ""} type-${kind.type}`}
      title={kind.help}
      data-lane={place.lane}
      data-step={place.step}
      data-value={kind.name}
    >
      <span className="value-label">{label}</span>
      {formula ? (
        <FormulaField
          label={label}
          text={value.formula}
          result={sample}
          onCommit={(text) => put({ formula: text })}
        />
      ) : ranged ? (
        <LinkFields
          effect={draft.effect}
          label={label}
          kind={kind}
          link={value}
          control={control}
          onPut={put}
        />
      ) : (
        <Field
          effect={draft.effect}
          label={label}
          kind={kind}
          value={shown}
          onTry={trying}
          onCommit={commit}
        />
      )}
      <span
        className="value-mark"
        title={keyed ? "It moves" : linked ? "Exposed to the editor" : ""}
      >
        {mark}
        {linked && <span className="visually-hidden">exposed</span>}
      </span>
      <Dropdown trigger={["click"]} menu={{ items, onClick: ({ key }) => act(key) }}>
        <Button size="small" type="text" aria-label={`${label}: more`}>
          ⋯
        </Button>
      </Dropdown>
    </div>
  );
}

/** A formula with what it comes to at the playhead. */
function FormulaField(props: {
  label: string;
  text: string;
  result: number | undefined;
  onCommit: (text: string) => void;
}) {
  const { label, text, result, onCommit } = props;
  return (
    <span className="value-wide formula">
      <Input
        size="small"
        aria-label={`${label}: formula`}
        key={text}
        defaultValue={text}
        title="Numbers, progress, seconds, frame, control.name, lane.step.value; sin, clamp, drift…"
        onBlur={(event) => event.target.value !== text && onCommit(event.target.value)}
        onPressEnter={(event) => event.currentTarget.blur()}
      />
      <span className="mono soft">{result === undefined ? "" : `= ${plain(result)}`}</span>
    </span>
  );
}
