import type { ClusterView, ClusterWorker } from "../api/client";
import { size } from "./size";
import styles from "./Where.module.css";

const STATES: Record<
  ClusterWorker["state"],
  { word: string; mark: string; tone: string | undefined }
> = {
  looking: { word: "asked", mark: "…", tone: "soft" },
  ready: { word: "ready", mark: "○", tone: "soft" },
  working: { word: "working", mark: "●", tone: styles.good },
  silent: { word: "silent", mark: "!", tone: styles.warn },
  refused: { word: "refused", mark: "×", tone: "bad" },
};

/** The workers of the scheduler: what each of them does now, and how fast. */
export function Workers({ seen }: { seen: ClusterView }) {
  const { workers, sentence } = seen;
  const speed = workers.reduce((sum, one) => sum + (one.state === "working" ? one.speed : 0), 0);
  return (
    <>
      <p className="soft" role="status">
        {sentence || counted(workers.length, speed)}
      </p>
      {workers.length > 0 && (
        <table className={styles.workers}>
          <thead>
            <tr>
              <th scope="col">Worker</th>
              <th scope="col">State</th>
              <th scope="col">Now</th>
              <th scope="col" className={styles.number}>
                Frames/s
              </th>
              <th scope="col" className={styles.number}>
                Frames made
              </th>
              <th scope="col" className={styles.number}>
                Fetched
              </th>
            </tr>
          </thead>
          <tbody>
            {workers.map((one) => (
              <Row key={one.address} worker={one} />
            ))}
          </tbody>
        </table>
      )}
    </>
  );
}

function Row({ worker }: { worker: ClusterWorker }) {
  const { word, mark, tone } = STATES[worker.state];
  return (
    <tr data-worker={worker.name} data-state={worker.state}>
      <th scope="row" title={worker.address}>
        {worker.name}
      </th>
      <td className={tone}>
        <span aria-hidden="true">{mark}</span> {word}
      </td>
      <td>{worker.sentence || worker.doing || "waits for a stretch"}</td>
      <td className={styles.number}>{worker.speed > 0 ? worker.speed.toFixed(1) : "–"}</td>
      <td className={styles.number}>{worker.frames > 0 ? worker.frames : "–"}</td>
      <td className={styles.number}>{worker.fetched > 0 ? size(worker.fetched) : "–"}</td>
    </tr>
  );
}

function counted(count: number, speed: number): string {
  if (!count) return "No worker is seen yet.";
  const workers = count === 1 ? "1 worker is seen" : `${count} workers are seen`;
  return speed > 0 ? `${workers}; together ${speed.toFixed(1)} frames a second.` : `${workers}.`;
}
