import { safeAreas } from "./safe";
import { useBenchOf } from "../store";
import styles from "./Guides.module.css";

/** Safe areas, centre and thirds over the picture. */
export function Guides() {
  const { guides } = useBenchOf("guides");
  if (!Object.values(guides).some(Boolean)) return null;
  return (
    <svg className={styles.guides} viewBox="0 0 100 100" preserveAspectRatio="none" aria-hidden>
      {guides.safe &&
        safeAreas().map((one) => (
          <rect
            key={one.name}
            data-area={one.name}
            x={one.left * 100}
            y={one.top * 100}
            width={one.width * 100}
            height={one.height * 100}
          />
        ))}
      {guides.centre && <path d="M46,50H54M50,46V54" />}
      {guides.thirds && <path d="M33.333,0V100M66.667,0V100M0,33.333H100M0,66.667H100" />}
    </svg>
  );
}
