import { useEffect, useEffectEvent, useRef, useState, type RefObject } from "react";

interface Seen {
  scale: number;
  x: number;
  y: number;
}

const FITTED: Seen = { scale: 1, x: 0, y: 0 };
const MOST = 16;

/** Looking closer: the wheel zooms about the pointer, dragging moves what is zoomed. */
export function useZoom(ground: RefObject<HTMLDivElement | null>) {
  const [seen, setSeen] = useState<Seen>(FITTED);
  const grip = useRef<{ x: number; y: number } | null>(null);
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
    // React's own wheel listeners are passive and could not keep the page from scrolling.
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
  return {
    zoomed,
    transform: zoomed ? `translate(${seen.x}px, ${seen.y}px) scale(${seen.scale})` : "none",
    label: `${Math.round(seen.scale * 100)} %`,
    by: (factor: number) => about(factor, 0, 0),
    fit: () => setSeen(FITTED),
    zoomers: {
      onPointerDown: (event: React.PointerEvent) => {
        if (!zoomed || event.button > 1) return;
        grip.current = { x: event.clientX - seen.x, y: event.clientY - seen.y };
        event.currentTarget.setPointerCapture(event.pointerId);
      },
      onPointerMove: (event: React.PointerEvent) => {
        const from = grip.current;
        if (from) setSeen({ ...seen, x: event.clientX - from.x, y: event.clientY - from.y });
      },
      onPointerUp: () => {
        grip.current = null;
      },
    },
  };
}
