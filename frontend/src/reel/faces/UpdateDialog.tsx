import { Button, Modal } from "antd";
import type { Pinned, ReelView, Use } from "../../api/client";
import { Picture } from "../../player/Picture";
import { usesOf } from "../selection";
import { triedAt } from "../tray/TryOn";
import type { ChangeReel } from "../useReel";
import styles from "./Face.module.css";

interface Props {
  view: ReelView;
  uses: readonly Use[];
  pinned: Pinned;
  first: number;
  end: number;
  change: ChangeReel;
  onClose: () => void;
}

const MOMENTS = [0.2, 0.5, 0.8];

/** The changes in a newer version: in words, and as pictures before and after. */
export function UpdateDialog({ view, uses, pinned, first, end, change, onClose }: Props) {
  const others = usesOf(view).filter(
    (one) => one.macro === pinned.macro && one.version < pinned.newest,
  );
  const update = (names: string[]) =>
    void change({ do: "set-use", uses: names, version: pinned.newest }).then(onClose);
  const names = uses.map((one) => one.id);
  const frames = MOMENTS.map((at) => first + Math.round(at * (end - first - 1)));
  const aspect = view.width / view.height;
  const now = (frame: number) =>
    `/api/reels/${view.id}/${view.revision}/frame.jpg?frame=${frame}&width=${Math.round(144 * aspect)}&height=144`;
  const then = (frame: number) =>
    triedAt(view, { do: "set-use", uses: names, version: pinned.newest }, frame);
  return (
    <Modal
      open
      width={720}
      title={`${pinned.name}: version ${pinned.version} to ${pinned.newest}`}
      onCancel={onClose}
      footer={
        <>
          <Button onClick={onClose}>Leave it at version {pinned.version}</Button>
          {others.length > names.length && (
            <Button onClick={() => update(others.map((one) => one.id))}>
              Update all {others.length} in this edit
            </Button>
          )}
          <Button type="primary" onClick={() => update(names)}>
            Update to version {pinned.newest}
          </Button>
        </>
      }
    >
      <ul>
        {pinned.update.map((sentence) => (
          <li key={sentence}>{sentence}</li>
        ))}
        <li>What you have set stays. You can undo it.</li>
      </ul>
      <div className={styles.versions}>
        {(
          [
            [`Version ${pinned.version}`, now],
            [`Version ${pinned.newest}`, then],
          ] as const
        ).map(([words, url]) => (
          <div key={words} className={styles.version}>
            <span>{words}</span>
            {frames.map((frame) => (
              <Picture
                key={frame}
                url={url(frame)}
                alt={`${words}, frame ${frame}`}
                aspect={aspect}
              />
            ))}
          </div>
        ))}
      </div>
    </Modal>
  );
}
