import type { DraftView } from "../api/client";
import { Faceplate } from "./faceplate/Faceplate";
import { HistoryList } from "./history/HistoryList";
import { Moves } from "./moves/Moves";
import { usePictureCame } from "./monitor/playing";
import { useBenchOf } from "./store";
import { Sheet } from "./sheet/Sheet";
import type { ChangeDraft, useDraft } from "./useDraft";
import styles from "./Drawer.module.css";

interface Props {
  draft: DraftView;
  frame: number;
  length: number;
  change: ChangeDraft;
  goTo: ReturnType<typeof useDraft>["goTo"];
}

/** The drawer below the filmstrip: moves, faceplate, history. */
export function Drawer(props: Props) {
  const { tab, setTab, wide, set } = useBenchOf("tab", "setTab", "wide", "set");
  // Before the first picture there is nothing to compare.
  const ready = usePictureCame(props.draft.id);
  const controls = (props.draft.effect.controls ?? []).length;
  const tabs = [
    { key: "moves", label: "Moves" },
    { key: "faceplate", label: "Faceplate", count: controls },
    { key: "sheet", label: "Sheet" },
    { key: "history", label: "History" },
  ];
  return (
    <div className={styles.drawer}>
      <div className={styles.head}>
        <div className={styles.tabs} role="tablist" aria-label="Drawer">
          {tabs.map((one) => (
            <button
              key={one.key}
              role="tab"
              className="bare"
              aria-selected={tab === one.key}
              onClick={() => setTab(one.key)}
            >
              {one.label}
              {one.count ? <span className={`mono ${styles.count}`}> {one.count}</span> : null}
            </button>
          ))}
        </div>
        <button
          className={`bare ${styles.widen}`}
          title={wide ? "Back to the lanes (D)" : "Give the drawer the place of the lanes (D)"}
          onClick={() => set({ wide: !wide })}
        >
          {wide ? "Back to the lanes" : "Wide"}
        </button>
      </div>
      <div className={styles.drawerBody} role="tabpanel">
        {ready && tab === "moves" && <Moves {...props} />}
        {ready && tab === "faceplate" && <Faceplate {...props} />}
        {tab === "sheet" && <Sheet {...props} />}
        {tab === "history" && <HistoryList {...props} />}
      </div>
    </div>
  );
}
