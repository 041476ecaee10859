// SPDX-License-Identifier: MIT
import { useEffect, useRef } from "preact/hooks";

const keys = [
  ["1 to 8", "the views"],
  ["f", "find anything by its name"],
  ["/", "filter"],
  ["p", "pause, or go on"],
  ["↑ ↓", "the event before, the next one"],
  ["← →  + −  Home", "on the time line and in Lanes: move, zoom, all of it"],
  ["← →  Enter", "on the map: to a neighbour; open or close a group"],
  ["Esc", "leave what has the focus"],
  ["?", "this"],
];

export function Help({ close }) {
  const dialog = useRef();
  useEffect(() => dialog.current.showModal(), []);
  return (
    <dialog ref={dialog} onClose={close}>
      <h2>Keys</h2>
      <table>
        {keys.map(([key, what]) => (
          <tr key={key}>
            <td>
              <kbd>{key}</kbd>
            </td>
            <td>{what}</td>
          </tr>
        ))}
      </table>
      <form method="dialog">
        <button>Close</button>
      </form>
    </dialog>
  );
}
