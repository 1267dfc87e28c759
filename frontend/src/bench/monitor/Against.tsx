import { useQuery } from "@tanstack/react-query";
import { Button, Select } from "antd";
import { asked } from "../../api/asked";
import type { DraftView } from "../../api/client";
import { useBenchOf, type Against as Other } from "../store";
import styles from "./Against.module.css";

/** The thing that the picture is compared with, and the result. */
export function Against({ draft, frame, said }: { draft: DraftView; frame: number; said: string }) {
  const { view, against, base, other, gain, set } = useBenchOf(
    "view",
    "against",
    "base",
    "other",
    "gain",
    "set",
  );
  const history = useQuery(asked.history(draft.id));
  const stages = (history.data?.revisions ?? []).filter((one) => one.stage && !one.head);
  const options: { value: Other; label: string }[] = [
    { value: "clip", label: "the clip" },
    { value: "without", label: "without this step" },
    { value: "moment", label: `frame ${other}` },
    ...stages.map((one) => ({ value: `stage:${one.id}` as const, label: `“${one.stage}”` })),
  ];
  if (against.startsWith("stage:") && !options.some((one) => one.value === against))
    options.push({ value: against, label: "an earlier state" });
  return (
    <div className="against">
      {view === "overlay" ? (
        <span>with frame {other} over it</span>
      ) : (
        <>
          {view === "split" ? "left:" : "against"}
          <Select
            size="small"
            aria-label="Held against"
            popupMatchSelectWidth={false}
            value={against}
            options={options}
            onChange={(next) => set({ against: next })}
          />
        </>
      )}
      {base !== null && view === "split" && (
        <button
          className="bare"
          title="Compare the current effect again"
          onClick={() => set({ base: null })}
        >
          left: held against; right: an earlier state ×
        </button>
      )}
      {(view === "overlay" || against === "moment") && (
        <Button size="small" onClick={() => set({ other: frame })}>
          Take this frame
        </Button>
      )}
      {view === "difference" && (
        <label>
          ×{" "}
          <Select
            size="small"
            aria-label="Gain of the difference"
            value={gain}
            options={[1, 2, 4, 8, 16, 32].map((value) => ({ value, label: value }))}
            onChange={(next) => set({ gain: next })}
          />
        </label>
      )}
      <span role="status" className={styles.comparedSaid}>
        {said}
      </span>
    </div>
  );
}
