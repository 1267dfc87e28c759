import { Button, Tooltip } from "antd";
import { useState } from "react";
import { NavLink } from "react-router-dom";
import { useWaiting } from "../player/arrivals";
import { useTheme } from "../theme/room";
import { Help } from "./Help";
import { openHeadIn } from "./OpenHead";
import styles from "./TopBar.module.css";

interface Props {
  /** Names of the places, in order. */
  places: readonly string[];
}

/** The bar at the top: the five places, and room for the open thing. */
export function TopBar({ places }: Props) {
  const [help, setHelp] = useState(false);
  const theme = useTheme();
  return (
    <header className="top-bar">
      <div className="wordmark">
        <img src="/mark.svg" alt="" width={22} height={22} />
        Pale Static
      </div>
      <nav aria-label="Places">
        {places.map((name) => (
          <NavLink key={name} to={`/${name}`}>
            {name[0]!.toUpperCase() + name.slice(1)}
          </NavLink>
        ))}
      </nav>
      <Arriving />
      <div ref={openHeadIn} className={styles.openHead} />
      <Tooltip title={theme.name === "pale" ? "Dim the room" : "Back to pale"}>
        <Button size="small" onClick={theme.turn} aria-label="Pale or dim">
          {theme.name === "pale" ? "Dim" : "Pale"}
        </Button>
      </Tooltip>
      <Button size="small" onClick={() => setHelp(true)} aria-label="? Keys and words" data-help>
        ?
      </Button>
      {help && <Help onClose={() => setHelp(false)} />}
    </header>
  );
}

/** Files that are being made, such as the demo's footage. */
function Arriving() {
  const left = Object.values(useWaiting());
  if (!left.length) return null;
  return (
    <span className={styles.arriving} role="status" title="Plain cards stand in for it meanwhile.">
      Making {left.length} {left.length === 1 ? "file" : "files"} of footage…
    </span>
  );
}
