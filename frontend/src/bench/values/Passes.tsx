import { useQuery } from "@tanstack/react-query";
import { Segmented, Slider } from "antd";
import { asked } from "../../api/asked";
import type { DraftView, Step } from "../../api/client";
import { isFormula, isKeys, isLink } from "../../api/values";
import { playsBackwards, shareAt } from "../moves/keys";
import { useBench, useBenchOf } from "../store";
import styles from "./Passes.module.css";

/** The pass that the steps of a repeat show; the last one if none is picked. */
export function usePasses(lane: string, repeat: Step | null): number | undefined {
  return useBench((state) => (repeat ? state.passes[`${lane}.${repeat.id}`] : undefined));
}

/** The number of passes of a repeat at the playhead. */
function useCount(draft: DraftView, lane: string, step: Step, frame: number, length: number) {
  const value = step.values?.["count"] ?? 3;
  const moves = isKeys(value) || isFormula(value);
  const curves = useQuery({ ...asked.curves(draft, length), enabled: moves });
  if (isLink(value)) {
    const control = draft.effect.controls?.find((one) => one.slug === value.control);
    return typeof control?.default === "number" && !value.range ? control.default : 3;
  }
  if (!moves) return typeof value === "number" ? value : 3;
  const curve = curves.data?.curves.find(
    (one) => one.lane === lane && one.step === step.id && one.value === "count",
  );
  const at = Math.round(shareAt(playsBackwards(draft.effect), frame, length) * 100);
  return Math.round(curve?.samples[at] ?? 3);
}

/** Chooses the pass that the steps inside show. */
export function PassPicker(props: {
  draft: DraftView;
  lane: string;
  step: Step;
  frame: number;
  length: number;
}) {
  const { draft, lane, step, frame, length } = props;
  const { passes, set } = useBenchOf("passes", "set");
  const count = useCount(draft, lane, step, frame, length);
  const name = `${lane}.${step.id}`;
  const shown = Math.min(passes[name] ?? count - 1, count - 1);
  const choose = (pass: number) => set({ passes: { ...passes, [name]: pass } });
  return (
    <div className={styles.passPicker}>
      <span>pass</span>
      {count <= 6 ? (
        <Segmented
          size="small"
          aria-label="Pass shown"
          value={shown}
          options={Array.from({ length: count }, (_, pass) => ({ value: pass, label: pass + 1 }))}
          onChange={choose}
        />
      ) : (
        <Slider
          min={1}
          max={count}
          value={shown + 1}
          aria-label="Pass shown"
          onChange={(pass) => choose(pass - 1)}
        />
      )}
      <span className="mono soft">of {count}</span>
    </div>
  );
}
