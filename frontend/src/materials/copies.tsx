import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Select, Switch } from "antd";
import { asked } from "../api/asked";
import { $api, type CopyView, type Material, type ScreenCopies } from "../api/client";
import { size } from "../renders/size";
import styles from "./Materials.module.css";

/** Milliseconds between two looks at copies that are being made. */
const EACH = 1500;
const LINES = [270, 360, 540, 720, 1080];

const unfinished = (found: ScreenCopies | undefined) =>
  Object.values(found?.copies ?? {}).some(
    ({ state }) => state === "waiting" || state === "being made",
  );

/** The copies of films for the screen; asked for again while some are being made. */
export const useCopies = () =>
  useQuery({
    ...asked.screenCopies(),
    refetchInterval: (query) => (unfinished(query.state.data) ? EACH : false),
  }).data;

function useAfter() {
  const client = useQueryClient();
  return {
    onSuccess: (after: ScreenCopies) => client.setQueryData(asked.screenCopies().queryKey, after),
  };
}

/** Whether films get copies for the screen, and how large. */
export function CopySettings({ found }: { found: ScreenCopies }) {
  const change = $api.useMutation("post", "/api/screen-copies", useAfter());
  return (
    <p className={styles.copies}>
      <label>
        <Switch
          size="small"
          checked={found.on}
          aria-label="Copies for the screen"
          onChange={(on) => change.mutate({ body: { on, lines: found.lines } })}
        />{" "}
        Copies for the screen
      </label>
      <Select
        size="small"
        aria-label="Lines of a copy"
        disabled={!found.on}
        value={found.lines}
        options={LINES.map((value) => ({ value, label: `${value} lines` }))}
        onChange={(lines) => change.mutate({ body: { on: found.on, lines } })}
      />
      <span className="soft">
        Monitors show films from small copies, so that every frame comes at once. Renders read the
        films themselves.
        {found.bytes > 0 && ` All copies: ${size(found.bytes)}.`}
      </span>
    </p>
  );
}

/** The copy of one film: a switch, and its size or what is missing. */
export function CopyCell({ material, copy }: { material: Material; copy: CopyView | undefined }) {
  const change = $api.useMutation("post", "/api/materials/{name}/copy", useAfter());
  if (!copy) return <>–</>;
  return (
    <label className={styles.copy}>
      <Switch
        size="small"
        checked={copy.state !== "off"}
        aria-label={`Copy for the screen of ${material.name}`}
        onChange={(on) => change.mutate({ params: { path: { name: material.id } }, body: { on } })}
      />
      <span className={`${styles.coding} soft`} data-copy={copy.state}>
        {words(copy)}
      </span>
      {copy.problem && <span className={styles.problem}>{copy.problem}</span>}
    </label>
  );
}

function words(copy: CopyView): string {
  if (copy.state === "made") return `${copy.width}×${copy.height}, ${size(copy.bytes)}`;
  if (copy.state === "being made") return `being made, ${Math.round(copy.done * 100)} %`;
  if (copy.state === "waiting") return "waits to be made";
  return copy.state;
}
