import { useEffect, useEffectEvent, useState, type RefObject } from "react";
import { useDrag } from "../../controls/useDrag";

interface Seen {
  scale: number;
  x: number;
  y: number;
}

const FITTED: Seen = { scale: 1, x: 0, y: 0 };
const MOST = 16;

/** Zoom: the wheel zooms about the pointer, dragging moves the zoomed picture. */
export function useZoom(ground: RefObject<HTMLDivElement | null>) {
  const [seen, setSeen] = useState<Seen>(FITTED);
  const about = (factor: number, px: number, py: number) => {
    setSeen((now) => {
      const scale = Math.min(MOST, Math.max(1, now.scale * factor));
      if (scale === 1) return FITTED;
      const part = scale / now.scale;
      // The point under the pointer stays where it is.
      return { scale, x: px - (px - now.x) * part, y: py - (py - now.y) * part };
    });
  };
  const turned = useEffectEvent(about);
  useEffect(() => {
    const area = ground.current;
    if (!area) return;
    // React's wheel listeners are passive and cannot prevent the page from scrolling.
    const wheel = (event: WheelEvent) => {
      event.preventDefault();
      const box = area.getBoundingClientRect();
      turned(
        event.deltaY < 0 ? 1.2 : 1 / 1.2,
        event.clientX - box.left - box.width / 2,
        event.clientY - box.top - box.height / 2,
      );
    };
    area.addEventListener("wheel", wheel, { passive: false });
    return () => area.removeEventListener("wheel", wheel);
  }, [ground]);
  const zoomed = seen.scale > 1;
  const drag = useDrag<{ x: number; y: number }>({
    move: (event, _, from) =>
      setSeen({ ...seen, x: event.clientX - from.x, y: event.clientY - from.y }),
    middle: true,
  });
  return {
    zoomed,
    transform: zoomed ? `translate(${seen.x}px, ${seen.y}px) scale(${seen.scale})` : "none",
    label: `${Math.round(seen.scale * 100)} %`,
    by: (factor: number) => about(factor, 0, 0),
    fit: () => setSeen(FITTED),
    pan: (event: React.PointerEvent) => {
      if (zoomed) drag(event, { x: event.clientX - seen.x, y: event.clientY - seen.y });
    },
  };
}
