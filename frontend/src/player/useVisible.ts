import { useEffect, useRef, useState, type RefObject } from "react";

/** Whether an element is in view, or nearly so; or has been, where once is enough. */
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
