import { Select } from "antd";
import type { ReelView } from "../../api/client";
import { NumberField } from "../../controls/NumberField";
import { RATES } from "../../player/timecode";
import type { ChangeReel } from "../useReel";
import { NameRow } from "./rows";
import styles from "./Face.module.css";

/** Name, frame rate and frame size of the edit. */
export function EditFace({ view, change }: { view: ReelView; change: ChangeReel }) {
  return (
    <section className={styles.face} aria-label="The edit">
      <h2>The edit</h2>
      <p className="soft">Select a cut, a shot, a look or a title on the strip for its controls.</p>
      <NameRow
        label="Name of the edit"
        name={view.name}
        onCommit={(name) => change({ do: "set-reel", name })}
      />
      <div className="control-head">
        <span>Frames a second</span>
        <Select
          size="small"
          aria-label="Frames a second"
          value={view.rate}
          popupMatchSelectWidth={false}
          options={[...RATES]}
          onChange={(rate) => void change({ do: "set-reel", rate })}
        />
      </div>
      <div className="control-head">
        <span>Frame size</span>
        <span className="point-fields">
          <NumberField
            label="Frame width"
            whole
            value={view.width}
            onCommit={(width) => change({ do: "set-reel", width })}
          />
          <NumberField
            label="Frame height"
            whole
            value={view.height}
            onCommit={(height) => change({ do: "set-reel", height })}
          />
        </span>
      </div>
    </section>
  );
}
