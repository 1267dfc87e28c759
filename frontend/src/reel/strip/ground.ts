import type { ReelChange, ReelView } from "../../api/client";
import type { ChangeReel } from "../useReel";
import type { Scale } from "./geometry";

/** Data that the blocks of the strip share. */
export interface Ground {
  view: ReelView;
  rate: number;
  scale: Scale;
  change: ChangeReel;
  onTry: (change: ReelChange | null) => void;
  /** A frame, snapped to a near edge unless snapping is off or Alt is held. */
  snap: (at: number, event: PointerEvent, without?: readonly string[]) => number;
}
