import { useRef } from "react";
import type { DraftView } from "../../api/client";
import { usePictures } from "../../player/usePictures";
import { cellOf, stripUrl } from "../frames";
import type { Shape } from "../store";

const PLACES = 11;
/** Width over height of a cell of the strip. */
const ASPECT = 1.45;
const GAP = 1;

interface Props {
  draft: DraftView;
  length: number;
  shape: Shape;
}

/** Eleven frames from first to last, loaded as one picture; each cell shows the middle of a frame.
 * */
export function StripPictures({ draft, length, shape }: Props) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const { place, there, fault } = usePictures(
    stripUrl(draft, length, PLACES, cellOf(shape)),
    (strip) => {
      const target = canvas.current;
      const context = target?.getContext("2d");
      if (!target || !context) return;
      const each = strip.width / PLACES;
      // A frame that is wider than its cell fills the cell; a taller one is shown completely.
      const wide = Math.round(strip.height * ASPECT);
      const kept = Math.min(each, wide);
      target.width = PLACES * wide + (PLACES - 1) * GAP;
      target.height = strip.height;
      for (let at = 0; at < PLACES; at++)
        context.drawImage(
          strip,
          at * each + (each - kept) / 2,
          0,
          kept,
          strip.height,
          at * (wide + GAP) + (wide - kept) / 2,
          0,
          kept,
          strip.height,
        );
    },
  );
  return (
    <span
      ref={place}
      className="picture"
      style={{ aspectRatio: String(PLACES * ASPECT) }}
      role="img"
      aria-label="Frames from the first to the last"
    >
      <canvas ref={canvas} hidden={!there} />
      {fault && (
        <span className="fault" role="status">
          {fault}
        </span>
      )}
    </span>
  );
}
