import { useRef } from "react";
import type { Turn } from "../api/queue";
import { usePictures } from "./usePictures";

interface Props {
  /** The address of the picture; undefined if there is nothing to show. */
  url: string | undefined;
  alt: string;
  /** Width over height, so that its area is reserved before it has loaded. */
  aspect?: number;
  className?: string;
  /** Called when it has loaded or failed. */
  onSettled?: () => void;
  /** Its priority among pictures. */
  turn?: Turn;
  /** Whether it loads even while it is out of view. */
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
        <span className="fault" role="status" title={fault}>
          {fault}
        </span>
      )}
    </span>
  );
}
