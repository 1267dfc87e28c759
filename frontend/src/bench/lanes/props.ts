import type { DraftView } from "../../api/client";
import type { ChangeDraft } from "../useDraft";

export interface LanesProps {
  draft: DraftView;
  length: number;
  change: ChangeDraft;
  onAdd: (lane: string, at: number, inside?: string) => void;
  onPart: (lane: string | null, at: number, inside?: string) => void;
  onNote: (lane: string, step?: string) => void;
  onKeep: (lanes?: string[]) => void;
}
