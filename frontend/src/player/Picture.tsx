import { useRef } from "react";
import type { Turn } from "./queue";
import { usePictures } from "./usePictures";

interface Props {
  /** Where the picture is; undefined while there is nothing to show. */
  url: string | undefined;
  alt: string;
  /** Width over height, so that its place is there before it is. */
  aspect?: number;
  className?: string;
  /** Called once it is there, or has failed. */
  onSettled?: () => void;
  /** Whether it comes before others, or after them. */
  turn?: Turn;
  /** Comes even while it is out of view. */
  unseen?: boolean;
}

const WIDE = 16 / 9;

/** A picture from the server. The old one stays until the new one has come; a fault is shown. */
export function Picture({ url, alt, aspect = WIDE, className = "", ...more }: Props) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const { place, there, fault } = usePictures(
    url,
    (picture) => {
      const target = canvas.current;
      if (!target) return;
      target.width = picture.width;
      target.height = picture.height;
      target.getContext("bitmaprenderer")?.transferFromImageBitmap(picture);
    },
    more,
  );
  return (
    <span ref={place} className={`picture ${className}`} style={{ aspectRatio: String(aspect) }}>
      <canvas
        ref={canvas}
        hidden={!there || !url}
        {...(alt && { role: "img", "aria-label": alt })}
      />
      {fault && (
        <span className="fault" role="status">
          {fault}
        </span>
      )}
    </span>
  );
}
