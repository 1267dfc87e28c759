import type { DraftView, ValueKind } from "../../api/client";
import { isKeys, isLink, type Formula, type Keys, type Link } from "../../api/values";
import { FormulaField } from "./FormulaField";
import { drivable, LinkFields } from "./LinkFields";
import { useSetting } from "./setting";
import { useBench, type Place } from "../store";
import type { ChangeDraft } from "../useDraft";
import { Field } from "./ValueField";
import { MoreMenu } from "../../shell/MenuButton";
import { vary } from "../sheet/sheet";
import styles from "./ValueRow.module.css";

interface Props {
  draft: DraftView;
  place: Place;
  kind: ValueKind;
  value: unknown;
  length: number;
  change: ChangeDraft;
}

/** One value: label, slider, number, and marks for keys, controls and formulas. */
export function ValueRow({ draft, place, kind, value, length, change }: Props) {
  const copied = useBench((state) => state.copied);
  const setStore = useBench((state) => state.set);
  const { keyed, linked, formula, control, sample, shown, frame, keyHere, trying, commit, put } =
    useSetting({ draft, place, kind, value, length, change });

  const others = (draft.effect.controls ?? []).filter((one) => drivable(one, kind));
  const ends: Keys = {
    keys: [
      { anchor: "share", time: 0, value: kind.slider?.[0] ?? shown },
      { anchor: "share", time: 1, value: kind.slider?.[1] ?? shown },
    ],
  };
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
      ? [{ key: "unlink", label: `Unlink from “${control?.label ?? "a control"}”` }]
      : [
          {
            key: "expose",
            label: "Expose",
            disabled: formula || kind.type === "asset" || kind.type === "table",
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
    { key: "copy", label: "Copy the value" },
    {
      key: "paste",
      label: copied ? `Paste ${copied.label}` : "Paste",
      disabled: copied?.type !== kind.type || (linked && isKeys(copied?.value)),
    },
    { key: "vary", label: "Show on a sheet" },
    { key: "reset", label: "Back to default" },
  ];
  const act = (key: string) => {
    if (key === "key") keyHere();
    if (key === "ends") put(ends);
    if (key === "still") put(shown);
    if (key === "expose") void change({ do: "expose", ...place, value_name: kind.name });
    if (key === "unlink") void change({ do: "unlink", ...place, value_name: kind.name });
    if (key === "reset") put(null);
    if (key === "copy") setStore({ copied: { type: kind.type, value, label: kind.label } });
    if (key === "paste" && copied) put(copied.value);
    if (key === "vary") vary(place, kind.name);
    if (key === "formula") put({ formula: String(shown) });
    if (key.startsWith("drive:")) {
      void change({ do: "drive", ...place, value_name: kind.name, control: key.slice(6) });
    }
  };
  const ranged = isLink(value) && Boolean(value.range ?? value.table);
  const label = kind.label;
  const mark = formula ? "ƒ" : keyed || control?.type === "ease" ? "∿" : "";
  let field;
  if (formula)
    field = (
      <FormulaField
        label={label}
        text={(value as Formula).formula}
        result={sample}
        draft={draft}
        place={place}
        name={kind.name}
        frame={frame}
        length={length}
        onCommit={(text) => put({ formula: text })}
      />
    );
  else if (ranged)
    field = (
      <LinkFields
        effect={draft.effect}
        label={label}
        kind={kind}
        link={value as Link}
        control={control}
        onPut={put}
      />
    );
  else
    field = (
      <Field
        rate={draft.effect.rate}
        slots={draft.effect.slots}
        label={label}
        kind={kind}
        value={shown}
        fresh={kind.default}
        onTry={trying}
        onCommit={commit}
      />
    );
  return (
    <div
      className={`${styles.valueRow} ${linked ? styles.exposed : ""}`}
      data-type={kind.type}
      title={kind.help}
      data-lane={place.lane}
      data-step={place.step}
      data-value={kind.name}
    >
      <span
        className="value-label"
        onDoubleClick={() => put(null)}
        title={`${kind.help} Double-click: back to default.`.trim()}
      >
        {label}
      </span>
      {field}
      <span
        className={styles.valueMark}
        title={keyed ? "It moves" : linked ? "Exposed to the editor" : ""}
      >
        {mark}
        {linked && <span className="visually-hidden">exposed</span>}
      </span>
      <MoreMenu label={`${label}: more`} items={items} onPick={act} />
    </div>
  );
}
