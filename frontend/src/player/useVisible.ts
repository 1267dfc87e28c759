import { useEffect, useRef, useState, type RefObject } from "react";

/** Whether an element is in view, or nearly; with `once`, whether it ever was. */
export function useVisible<T extends Element>(once = false): [RefObject<T | null>, boolean] {
  const ref = useRef<T>(null);
  const [visible, setVisible] = useState(false);
  const done = once && visible;
  useEffect(() => {
    const element = ref.current;
    if (!element || done) return;
    const watch = new IntersectionObserver(
      (entries) => setVisible(entries.at(-1)!.isIntersecting),
      { rootMargin: "120px" },
    );
    watch.observe(element);
    return () => watch.disconnect();
  }, [done]);
  return [ref, visible];
}
