import {
  DndContext,
  DragOverlay,
  PointerSensor,
  useDndContext,
  useDroppable,
  useSensor,
  useSensors,
  type CollisionDetection,
} from "@dnd-kit/core";
import { useRef, useState, type ReactNode } from "react";
import { answered, http, type Change, type DraftView, type Effect } from "../../api/client";
import { findStep, placeOf, spotAfter, type Spot } from "../graph";
import { benchStore, type Place } from "../store";
import { useKinds, type ChangeDraft } from "../useDraft";
import styles from "./DragGround.module.css";

interface Carried {
  steps?: Place[];
  lane?: string;
}

/** The nearest gap above or below, in the lane under the pointer. */
const nearest: CollisionDetection = ({ droppableContainers, pointerCoordinates, active }) => {
  if (!pointerCoordinates) return [];
  const lanes = Boolean((active.data.current as Carried | undefined)?.lane);
  const { x, y } = pointerCoordinates;
  const found = droppableContainers.flatMap((one) => {
    const box = one.rect.current;
    if (!box || String(one.id).startsWith("lane") !== lanes) return [];
    const across = Math.max(box.left - x, 0, x - box.right);
    const down = Math.max(box.top - y, 0, y - box.bottom);
    if (!lanes && across > 0) return [];
    return [{ id: one.id, far: lanes ? across : down }];
  });
  found.sort((one, two) => one.far - two.far);
  return found.slice(0, 1).map(({ id }) => ({ id }));
};

/** Cards and lanes can be dragged on it; impossible places are refused during the drag. */
export function DragGround(props: { draft: DraftView; change: ChangeDraft; children: ReactNode }) {
  const { draft, change, children } = props;
  const { kindOf } = useKinds();
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 6 } }));
  const [reason, setReason] = useState<string | null>(null);
  const asked = useRef<Promise<string | null> | null>(null);
  const [carried, setCarried] = useState<Carried | null>(null);
  const { effect } = draft;
  const spotOf = (over: { data: { current?: unknown } } | null) =>
    (over?.data.current as { spot?: Spot } | undefined)?.spot;
  const done = () => {
    asked.current = null;
    setCarried(null);
    setReason(null);
  };
  const name = carried?.lane
    ? effect.lanes.find((one) => one.id === carried.lane)?.name
    : carried?.steps?.length === 1
      ? titleOf(carried.steps[0]!)
      : `${carried?.steps?.length} steps`;
  function titleOf(place: Place): string {
    const step = findStep(effect, place)?.step;
    return step?.name || kindOf(step)?.label || place.step;
  }
  return (
    <DndContext
      sensors={sensors}
      collisionDetection={nearest}
      onDragStart={({ active }) => {
        const data = active.data.current as Carried & { place?: Place };
        if (data.lane) return setCarried({ lane: data.lane });
        const { picked } = benchStore.getState();
        const own = data.place!;
        const together = picked.includes(`${own.lane}.${own.step}`) ? picked.map(placeOf) : [own];
        setCarried({ steps: inOrder(draft, together) });
      }}
      onDragOver={({ over }) => {
        const spot = spotOf(over);
        asked.current = spot && carried?.steps ? refusal(draft, carried.steps, spot) : null;
        const mine = asked.current;
        if (!mine) setReason(null);
        else void mine.then((why) => asked.current === mine && setReason(why));
      }}
      onDragCancel={done}
      onDragEnd={({ over }) => {
        const spot = spotOf(over);
        if (carried?.lane && over) {
          const at = (over.data.current as { at: number }).at;
          const from = effect.lanes.findIndex((one) => one.id === carried.lane);
          const to = at > from ? at - 1 : at;
          if (to !== from) void change({ do: "set-lane", lane: carried.lane, at: to });
        }
        // A refusal was shown during the drag; after a very quick drop it is shown as a fault.
        if (carried?.steps && spot && !reason && !stays(draft, carried.steps, spot))
          void change(moveTo(effect, carried.steps, spot));
        done();
      }}
    >
      {children}
      <DragOverlay dropAnimation={null}>
        {carried && (
          <div className={`${styles.carried} ${reason ? styles.refused : ""}`} role="status">
            <b>{name}</b>
            {reason && <p>{reason}</p>}
          </div>
        )}
      </DragOverlay>
    </DndContext>
  );
}

/** The change that moves steps to a spot. */
export function moveTo(effect: Effect, steps: Place[], spot: Spot): Change {
  const at = spotAfter(effect, steps, spot);
  return { do: "move-steps", steps, to: spot.lane, at, inside: spot.inside };
}

/** The reason why steps cannot go to a spot, as a sentence; null if they can. */
export async function refusal(draft: DraftView, steps: Place[], spot: Spot) {
  const found = await answered(
    http.POST("/api/effects/{number}/refusal", {
      params: { path: { number: draft.id } },
      body: { base: draft.revision, change: moveTo(draft.effect, steps, spot) },
    }),
  ).catch(() => ({ reason: null }));
  return found.reason;
}

/** Steps in the order of the document, not in that of picking. */
export function inOrder(draft: DraftView, places: readonly Place[]): Place[] {
  const names = new Set(places.map(({ lane, step }) => `${lane}.${step}`));
  return draft.effect.lanes.flatMap((lane) =>
    (lane.steps ?? [])
      .flatMap((step) => [step, ...(step.steps ?? [])])
      .filter((step) => names.has(`${lane.id}.${step.id}`))
      .map((step) => ({ lane: lane.id, step: step.id })),
  );
}

/** Whether a single step would land at its own place. */
function stays(draft: DraftView, steps: readonly Place[], spot: Spot): boolean {
  const held = steps.length === 1 ? findStep(draft.effect, steps[0]!) : undefined;
  if (!held || held.lane.id !== spot.lane || (held.inside?.id ?? null) !== spot.inside)
    return false;
  return spot.at === held.at || spot.at === held.at + 1;
}

/** A place to drop a card: between two cards, or at the end of a lane. */
export function DropGap({
  spot,
  end,
  children,
}: {
  spot: Spot;
  end?: boolean;
  children?: ReactNode;
}) {
  const id = `gap:${spot.lane}:${spot.inside ?? ""}:${spot.at}`;
  const { setNodeRef, isOver } = useDroppable({ id, data: { spot } });
  return (
    <div
      ref={setNodeRef}
      className={`${styles.gap} ${end ? styles.end : ""} ${isOver ? styles.over : ""}`}
    >
      {children}
    </div>
  );
}

/** A place to drop a lane. */
export function LaneGap({ at }: { at: number }) {
  const { setNodeRef, isOver } = useDroppable({ id: `lane-gap:${at}`, data: { at } });
  const { active } = useDndContext();
  const shown = isOver && Boolean((active?.data.current as Carried | undefined)?.lane);
  return <span ref={setNodeRef} className={`${styles.laneGap} ${shown ? styles.over : ""}`} />;
}
