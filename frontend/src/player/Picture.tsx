import { useRef } from "react";
import { usePictures } from "./usePictures";

interface Props {
  /** Where the picture is; undefined while there is nothing to show. */
  url: string | undefined;
  alt: string;
  /** Width over height, so that its place is there before it is. */
  aspect?: number;
  className?: string;
  onShown?: () => void;
  /** Comes before others. */
  first?: boolean;
}

/** A picture from the server. The old one stays until the new one is there; a fault is told. */
export function Picture({ url, alt, aspect = 16 / 9, className = "", onShown, first }: Props) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const { place, there, fault } = usePictures(
    url,
    (picture) => {
      const target = canvas.current;
      if (!target) return;
      target.width = picture.width;
      target.height = picture.height;
      target.getContext("bitmaprenderer")?.transferFromImageBitmap(picture);
      onShown?.();
    },
    first,
  );
  return (
    <span ref={place} className={`picture ${className}`} style={{ aspectRatio: String(aspect) }}>
      <canvas ref={canvas} hidden={!there} {...(alt && { role: "img", "aria-label": alt })} />
      {fault && (
        <span className="fault" role="status">
          {fault}
        </span>
      )}
    </span>
  );
}
