import { useEffect, useRef, useState } from "react";
import { answered, http, type DraftView, type Probe } from "../../api/client";
import type { paths } from "../../api/schema";
import { stepOf } from "../frames";
import type { Place } from "../store";
import styles from "./Probe.module.css";

type ProbeQuery = paths["/api/effects/{number}/{revision}/probe"]["get"]["parameters"]["query"];

export interface At {
  x: number;
  y: number;
}

/** The values of one point of the picture. */
export const probed = ({ id, revision }: Pick<DraftView, "id" | "revision">, query: ProbeQuery) =>
  answered(
    http.GET("/api/effects/{number}/{revision}/probe", {
      params: { path: { number: id, revision }, query },
    }),
  );

/** The values under the pointer; one request at a time, the newest next. */
export function useProbe(
  draft: DraftView,
  at: At | null,
  frame: number,
  length: number,
  size: { width: number; height: number },
  step: Place | null,
  pass: number | undefined,
): Probe | null {
  const [found, setFound] = useState<Probe | null>(null);
  const waiting = useRef<ProbeQuery | null>(null);
  const busy = useRef(false);
  const shown = stepOf(step, pass);
  const key =
    at && JSON.stringify({ frame, length, ...size, ...(shown ? { step: shown } : {}), ...at });
  useEffect(() => {
    waiting.current = key ? (JSON.parse(key) as ProbeQuery) : null;
    if (!key) return setFound(null);
    if (busy.current) return;
    busy.current = true;
    void (async () => {
      while (waiting.current) {
        const next = waiting.current;
        waiting.current = null;
        // The monitor shows the fault; the probe then shows nothing.
        await probed({ id: draft.id, revision: draft.revision }, next)
          .then(setFound)
          .catch(() => setFound(null));
      }
      busy.current = false;
    })();
  }, [key, draft.id, draft.revision]);
  return found;
}

/** Premultiplied values as a straight colour, #RRGGBB or #RRGGBBAA. */
export function hexOf(values: readonly number[]): string {
  const alpha = values.length === 4 ? values[3]! : 1;
  const parts = values.length === 4 ? values.slice(0, 3) : [values[0]!, values[0]!, values[0]!];
  const straight = parts.map((one) => (alpha > 0 ? one / alpha : 0));
  const all = alpha < 1 ? [...straight, alpha] : straight;
  const two = (value: number) =>
    Math.round(Math.min(1, Math.max(0, value)) * 255)
      .toString(16)
      .padStart(2, "0");
  return `#${all.map(two).join("")}`.toUpperCase();
}

const words = (values: readonly number[]) =>
  values.length === 1
    ? values[0]!.toFixed(3)
    : values.map((one) => one.toFixed(3).replace("-", "−")).join(" ");

/** The probe's values, in a line over the picture. */
export function ProbeLine({ found, at }: { found: Probe | null; at: At | null }) {
  if (!at)
    return (
      <div className={`${styles.probe} mono`}>Point at the picture: its values are shown here.</div>
    );
  return (
    <div className={`${styles.probe} mono`} role="status" aria-label="Values under the pointer">
      <span>
        {at.x.toFixed(3)}, {at.y.toFixed(3)}
      </span>
      {found?.before && (
        <span>
          <i>before</i> {words(found.before)}
        </span>
      )}
      {found?.step && (
        <span>
          <i>after</i> {words(found.step)}
        </span>
      )}
      {found && (
        <span>
          <i>result</i> {words(found.result)}{" "}
          <b className="swatch" style={{ background: hexOf(found.result) }} />
          {hexOf(found.result)}
        </span>
      )}
    </div>
  );
}
