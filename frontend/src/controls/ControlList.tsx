import type { Control } from "../api/client";
import { ControlRow } from "./ControlRow";
import { groupsOf, isShown } from "./faceplate";
import styles from "./ControlList.module.css";

interface Props {
  controls: readonly Control[];
  /** The setting of each control, by its slug. */
  settings: Record<string, unknown>;
  onTry: (control: Control, value: unknown) => void;
  onCommit: (control: Control, value: unknown) => unknown;
}

/** The controls of a macro as an editor sees them: in named groups, each shown when it matters. */
export function ControlList({ controls, settings, onTry, onCommit }: Props) {
  const shown = controls.filter((one) => isShown(one, settings));
  const rows = (some: readonly Control[]) =>
    some.map((control) => (
      <ControlRow
        key={control.slug}
        control={control}
        value={settings[control.slug]}
        onTry={(value) => onTry(control, value)}
        onCommit={(value) => onCommit(control, value)}
      />
    ));
  return groupsOf(shown).map(({ name, controls: some }) =>
    name ? (
      <details key={name} open className={styles.group}>
        <summary>{name}</summary>
        {rows(some)}
      </details>
    ) : (
      <div key="">{rows(some)}</div>
    ),
  );
}
