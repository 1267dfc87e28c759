import type { ReelChange, ReelView } from "../../api/client";
import type { Selection } from "../selection";
import type { ChangeReel } from "../useReel";

export interface FaceProps {
  view: ReelView;
  change: ChangeReel;
  onTry: (change: ReelChange | null) => void;
  onSelect: (selected: Selection) => void;
}
