import { Button, Modal, Tooltip } from "antd";
import { useState, type ReactNode } from "react";
import { createPortal } from "react-dom";
import { NavLink } from "react-router-dom";
import { create } from "zustand";
import { useTheme } from "../theme/room";

const PLACES = ["Shelf", "Bench", "Reel", "Renders", "Materials"];

const KEYS: readonly [string, string][] = [
  ["Space", "play, stop"],
  ["J K L", "play backwards, stop, play"],
  ["← →", "one frame back, on; with Shift ten"],
  ["Home, End", "first frame, last frame"],
  [", .", "previous key, next key"],
  ["/", "add a step"],
  ["O", "picked steps on or off"],
  ["Delete", "remove the picked steps, or the picked keys"],
  ["Ctrl-click", "pick several steps, as Ctrl+Enter; with Shift a run of them"],
  ["Alt+↑ ↓", "move the step in focus"],
  ["N", "note on the selected step, or on the effect"],
  ["E", "expose the value under the pointer, or the one in focus"],
  ["V", "next view of the monitor"],
  ["Ctrl+Z", "undo"],
  ["Ctrl+Shift+Z", "redo"],
  ["Ctrl+S", "keep a stage"],
  ["?", "this list"],
];

/** Where in the bar the place that is open writes; it may be drawn before the bar is there. */
const useRoom = create<{ element: HTMLElement | null }>(() => ({ element: null }));
const making = (element: HTMLElement | null) => useRoom.setState({ element });

/** The slim bar at the top: the five places, and room for what is open. */
export function TopBar() {
  const [help, setHelp] = useState(false);
  const theme = useTheme();
  return (
    <header className="top-bar">
      <div className="wordmark">
        <img src="/mark.svg" alt="" width={22} height={22} />
        Pale Static
      </div>
      <nav aria-label="Places">
        {PLACES.map((place) => (
          <NavLink key={place} to={`/${place.toLowerCase()}`}>
            {place}
          </NavLink>
        ))}
      </nav>
      <div ref={making} className="open-head" />
      <Tooltip title={theme.name === "pale" ? "Dim the room" : "Back to pale"}>
        <Button size="small" onClick={theme.turn} aria-label="Pale or dim">
          {theme.name === "pale" ? "Dim" : "Pale"}
        </Button>
      </Tooltip>
      <Button size="small" onClick={() => setHelp(true)} aria-label="Keys" data-help>
        ?
      </Button>
      <Modal title="Keys" open={help} onCancel={() => setHelp(false)} footer={null} width={420}>
        <table className="keys">
          <tbody>
            {KEYS.map(([key, does]) => (
              <tr key={key}>
                <th scope="row" className="mono">
                  {key}
                </th>
                <td>{does}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </Modal>
    </header>
  );
}

/** What a place puts into the bar: the name of what is open, and its actions. */
export function OpenHead({ children }: { children: ReactNode }) {
  const target = useRoom((state) => state.element);
  return target ? createPortal(children, target) : null;
}
