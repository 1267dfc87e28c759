import { useEffect, useRef, useState, type RefObject } from "react";

/** Whether an element is, or has been, in view or nearly so: what is not needs no picture yet. */
export function useVisible<T extends Element>(): [RefObject<T | null>, boolean] {
  const ref = useRef<T>(null);
  const [visible, setVisible] = useState(false);
  useEffect(() => {
    const element = ref.current;
    if (!element || visible) return;
    const watch = new IntersectionObserver(
      (entries) => entries.some((one) => one.isIntersecting) && setVisible(true),
      { rootMargin: "120px" },
    );
    watch.observe(element);
    return () => watch.disconnect();
  }, [visible]);
  return [ref, visible];
}
