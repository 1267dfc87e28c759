import { InputNumber } from "antd";
import type { DraftView } from "../../api/client";
import { LEVEL_WORDS } from "../../player/levels";
import { RATES, rateOf, shownRate } from "../../player/timecode";
import { usePlaying } from "./playing";
import { SHAPES, useBenchOf } from "../store";
import type { ChangeDraft } from "../useDraft";
import { MenuButton } from "../../shell/MenuButton";
import styles from "./MonitorBar.module.css";

const LINES = [180, 270, 360, 540, 720, 1080];

interface Props {
  draft: DraftView;
  frame: number;
  size: { width: number; height: number };
  change: ChangeDraft;
  /** Milliseconds that the picture took to compute. */
  ms: number | undefined;
  zoom: { label: string; by: (factor: number) => void; fit: () => void };
}

/** The bar below the picture: shape and size, probe, guides, zoom, frame and rate. */
export function MonitorBar({ draft, frame, size, change, ms, zoom }: Props) {
  const bench = useBenchOf("shape", "set", "probing", "lines", "guides");
  const { shape, set } = bench;
  const { label, by, fit } = zoom;
  const { rate, playing, level } = usePlaying();
  const fps = rateOf(draft.effect.rate);
  return (
    <div className="stat mono">
      <MenuButton
        menu={{
          items: [
            ...SHAPES.map((one) => ({ key: one.name, label: `Shape ${one.name}` })),
            { type: "divider" as const },
            ...LINES.map((one) => ({ key: `lines ${one}`, label: `${one} lines` })),
          ],
          selectedKeys: [shape.name, `lines ${bench.lines}`],
          onClick: ({ key }) => {
            const picked = SHAPES.find((one) => one.name === key);
            if (picked) set({ shape: picked });
            else set({ lines: Number(key.slice(6)) });
          },
        }}
        popupRender={(menu) => (
          <div className={styles.shapeMenu}>
            {menu}
            <OwnShape />
          </div>
        )}
      >
        <button
          className="bare"
          aria-label={`Frame shape and preview size: ${size.width}×${size.height}`}
        >
          {size.width}×{size.height}
        </button>
      </MenuButton>
      <button
        className="bare"
        aria-pressed={bench.probing}
        onClick={() => set({ probing: !bench.probing })}
      >
        probe
      </button>
      <MenuButton
        menu={{
          items: [
            { key: "safe", label: "Safe areas" },
            { key: "centre", label: "Centre" },
            { key: "thirds", label: "Thirds" },
          ],
          selectedKeys: Object.entries(bench.guides).flatMap(([key, on]) => (on ? [key] : [])),
          onClick: ({ key }) => {
            const name = key as keyof typeof bench.guides;
            set({ guides: { ...bench.guides, [name]: !bench.guides[name] } });
          },
        }}
      >
        <button className="bare" aria-pressed={Object.values(bench.guides).some(Boolean)}>
          guides
        </button>
      </MenuButton>
      <span className={styles.zoom}>
        <button className="bare" aria-label="Smaller" onClick={() => by(0.8)}>
          −
        </button>
        <button className="bare" aria-label={`Fit the picture, now ${label}`} onClick={fit}>
          {label}
        </button>
        <button className="bare" aria-label="Larger" onClick={() => by(1.25)}>
          +
        </button>
      </span>
      <span className={styles.frameNumber}>frame {frame}</span>
      <MenuButton
        menu={{
          items: RATES.map((one) => ({ key: one.value, label: `${one.label} fps` })),
          selectedKeys: [draft.effect.rate ?? "25"],
          onClick: ({ key }) => void change({ do: "set-head", rate: key }),
        }}
      >
        <button
          className={`bare ${styles.rate}`}
          aria-label={`Frame rate: ${playing ? rate.toFixed(1) : shownRate(fps)} fps`}
          title="Frame rate that the effect is built at. An edit gives it its own."
        >
          {playing ? rate.toFixed(1) : shownRate(fps)} fps
        </button>
      </MenuButton>
      {playing && level > 0 && <span>{LEVEL_WORDS[level]}</span>}
      <span className="right">{ms === undefined ? "" : `computed in ${ms.toFixed(1)} ms`}</span>
    </div>
  );
}

/** A custom frame shape, by its two sides. */
function OwnShape() {
  const { shape, set } = useBenchOf("shape", "set");
  const put = (width: number, height: number) => {
    if (width > 0 && height > 0 && width / height < 8 && height / width < 8)
      set({ shape: { name: `${width}:${height}`, width, height } });
  };
  return (
    <span className={styles.ownShape} role="group" aria-label="Own shape">
      own
      <InputNumber
        size="small"
        aria-label="Own shape: width"
        min={1}
        max={16384}
        value={shape.width}
        onChange={(width) => width && put(width, shape.height)}
      />
      :
      <InputNumber
        size="small"
        aria-label="Own shape: height"
        min={1}
        max={16384}
        value={shape.height}
        onChange={(height) => height && put(shape.width, height)}
      />
    </span>
  );
}
