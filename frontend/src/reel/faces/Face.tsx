import { useReelState } from "../store";
import type { Item } from "../../api/client";
import { isShot, joinOn, lookOf, named } from "../selection";
import { EditFace } from "./EditFace";
import { ItemFace } from "./ItemFace";
import { JoinFace } from "./JoinFace";
import { LookFace } from "./LookFace";
import { ShotFace } from "./ShotFace";
import type { FaceProps } from "./props";
import styles from "./Face.module.css";

/** The controls of the selection: a macro, a shot, an item on a row above, or the edit itself. */
export function Face(props: FaceProps) {
  const { view, change } = props;
  const selected = useReelState((state) => state.selected);
  if (selected?.kind === "cuts") {
    const joins = selected.cuts.flatMap((cut) => joinOn(view, cut) ?? []);
    if (joins.length) return <JoinFace {...props} joins={joins} />;
    return (
      <section className={styles.face} aria-label="Faceplate">
        <h2>{selected.cuts.length > 1 ? `${selected.cuts.length} plain cuts` : "A plain cut"}</h2>
        <p className="soft">
          Choose a macro on the left. Each is shown on this cut, with your clips.
        </p>
      </section>
    );
  }
  if (selected?.kind === "look") {
    const found = lookOf(view, selected.look);
    if (found) return <LookFace key={selected.look} {...props} {...found} />;
  }
  if (selected?.kind === "placed") {
    const found = selected.names.flatMap((name) => named(view, name) ?? []);
    const shots = found.filter(isShot);
    const items = found.filter((one): one is Item => !isShot(one));
    if (shots.length) return <ShotFace key={shots[0]!.id} {...props} shots={shots} />;
    if (items.length) return <ItemFace key={items[0]!.id} {...props} item={items[0]!} />;
  }
  return <EditFace view={view} change={change} />;
}
