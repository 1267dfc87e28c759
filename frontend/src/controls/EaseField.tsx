import { Input, Select } from "antd";
import type { Ease } from "../api/values";
import { EaseCurve } from "./EaseCurve";

const FAMILIES = [
  "sine",
  "quad",
  "cubic",
  "quart",
  "quint",
  "expo",
  "circ",
  "back",
  "elastic",
  "bounce",
];

function shapeOf(ease: Ease): "linear" | "hold" | "jump" | "family" | "bezier" {
  if (typeof ease === "string") return ease;
  return "bezier" in ease ? "bezier" : "family";
}

/** How a value gets from one key to the next: straight, held, by families, or by a curve. */
export function EaseField(props: { label: string; value: Ease; onCommit: (ease: Ease) => void }) {
  const { label, value, onCommit } = props;
  const shape = shapeOf(value);
  const family = typeof value === "object" && !("bezier" in value) ? value : {};
  const options = [{ value: "", label: "none" }, ...FAMILIES.map((name) => ({ value: name }))];
  const pictured =
    (ease: (name: string) => Ease) => (option: { value?: unknown; label?: unknown }) => (
      <span className="ease-option">
        <EaseCurve ease={ease(String(option.value ?? ""))} /> {String(option.label ?? option.value)}
      </span>
    );
  return (
    <span className="ease-field">
      <EaseCurve ease={value} />
      <Select
        size="small"
        aria-label={`${label}: kind of ease`}
        value={shape}
        popupMatchSelectWidth={false}
        options={[
          { value: "linear", label: "straight" },
          { value: "family", label: "in and out" },
          { value: "bezier", label: "curve" },
          { value: "hold", label: "hold" },
          { value: "jump", label: "jump" },
        ]}
        onChange={(picked) => {
          if (picked === "family") onCommit({ into: "sine", out: "sine" });
          else if (picked === "bezier") onCommit({ bezier: [0.42, 0, 0.58, 1] });
          else onCommit(picked);
        }}
      />
      {shape === "family" && (
        <>
          <Select
            size="small"
            aria-label={`${label}: going in`}
            value={family.into ?? ""}
            options={options}
            popupMatchSelectWidth={false}
            optionRender={pictured((name) => ({ into: name || null, out: null }))}
            onChange={(into) => onCommit({ into: into || null, out: family.out ?? null })}
          />
          <Select
            size="small"
            aria-label={`${label}: coming out`}
            value={family.out ?? ""}
            options={options}
            popupMatchSelectWidth={false}
            optionRender={pictured((name) => ({ into: null, out: name || null }))}
            onChange={(out) => onCommit({ into: family.into ?? null, out: out || null })}
          />
        </>
      )}
      {typeof value === "object" && "bezier" in value && (
        <Input
          size="small"
          className="mono bezier"
          aria-label={`${label}: four numbers of the curve`}
          key={value.bezier.join()}
          defaultValue={value.bezier.join(" ")}
          onBlur={(event) => {
            const found = event.target.value.split(/[\s,]+/).map(Number);
            const [x1, y1, x2, y2] = found;
            if (
              found.length === 4 &&
              found.every(Number.isFinite) &&
              x1 !== undefined &&
              y1 !== undefined &&
              x2 !== undefined &&
              y2 !== undefined
            )
              onCommit({ bezier: [x1, y1, x2, y2] });
          }}
          onPressEnter={(event) => event.currentTarget.blur()}
        />
      )}
    </span>
  );
}
