import { Button } from "antd";
import type { Step } from "../../api/client";
import { useBench, type Place } from "../store";
import type { ChangeDraft } from "../useDraft";
import styles from "./MacroVersion.module.css";

interface Props {
  place: Place;
  step: Step;
  change: ChangeDraft;
}

/** The version of a macro that a step runs, and the changes in a newer one. */
export function MacroVersion({ place, step, change }: Props) {
  const { slug, version } = step.macro!;
  const held = useBench((state) =>
    state.held.find((one) => one.slug === slug && one.version === version),
  );
  if (!held) return null;
  if (held.newest === version)
    return (
      <p className={styles.version}>
        A macro, <span className="mono">version {version}</span>
      </p>
    );
  const newer = { slug, version: held.newest };
  return (
    <div className="note">
      It runs version {version}. Version {held.newest} is on the shelf: {held.update.join(" ")}{" "}
      <Button size="small" onClick={() => void change({ do: "set-macro", ...place, macro: newer })}>
        Update to version {held.newest}
      </Button>
    </div>
  );
}
