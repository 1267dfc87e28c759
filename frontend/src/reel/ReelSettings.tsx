import { Input, Select } from "antd";
import type { ReelView } from "../api/client";
import { NumberField } from "../controls/NumberField";
import type { EditReel } from "./useReel";

const RATES = ["24000/1001", "24", "25", "30000/1001", "30", "50", "60000/1001", "60"];
const NAMES: Record<string, string> = {
  "24000/1001": "23.976",
  "30000/1001": "29.97",
  "60000/1001": "59.94",
};

/** Name, frame rate and frame size of the edit. */
export function ReelSettings({ view, edit }: { view: ReelView; edit: EditReel }) {
  const { reel } = view;
  return (
    <section className="face" aria-label="The edit">
      <h2>The edit</h2>
      <p className="soft">Select a cut, a join or a shot on the strip for its controls.</p>
      <div className="control-head">
        <span>Name</span>
        <Input
          size="small"
          style={{ width: 180 }}
          aria-label="Name of the edit"
          key={reel.name}
          defaultValue={reel.name}
          onBlur={(event) => {
            const name = event.target.value.trim();
            if (name && name !== reel.name) void edit({ do: "set-reel", name });
          }}
          onPressEnter={(event) => event.currentTarget.blur()}
        />
      </div>
      <div className="control-head">
        <span>Frames a second</span>
        <Select
          size="small"
          aria-label="Frames a second"
          value={reel.rate}
          popupMatchSelectWidth={false}
          options={RATES.map((value) => ({ value, label: NAMES[value] ?? value }))}
          onChange={(rate) => void edit({ do: "set-reel", rate })}
        />
      </div>
      <div className="control-head">
        <span>Frame size</span>
        <span className="point-fields">
          <NumberField
            label="Frame width"
            whole
            value={reel.width ?? 1280}
            onCommit={(width) => void edit({ do: "set-reel", width })}
          />
          <NumberField
            label="Frame height"
            whole
            value={reel.height ?? 720}
            onCommit={(height) => void edit({ do: "set-reel", height })}
          />
        </span>
      </div>
    </section>
  );
}
