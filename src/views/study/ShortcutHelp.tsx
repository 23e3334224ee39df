"use client";

import { Button, Modal } from "react-bootstrap";

const shortcuts: readonly [keys: readonly string[], what: string][] = [
  [["Space"], "Play, pause"],
  [["R"], "Listen to the reference"],
  [["V"], "Listen to the version"],
  [["F"], "Flip to the other side, at the same beat"],
  [["←", "→"], "Back, forward one bar"],
  [["Shift ←", "→"], "Back, forward eight bars"],
  [["Page ↑", "↓"], "Previous, next section"],
  [["I"], "Start the selection at the bar of the playhead"],
  [["O"], "End the selection at the bar of the playhead"],
  [["L"], "Loop the selection, on and off"],
  [["E"], "Equal loudness, on and off"],
  [["K"], "Click, on and off"],
  [["M"], "In Tone: hear the version through the moves, on and off"],
  [["Home"], "Go to the start of the selection, or of the track"],
  [[",", "."], "Previous, next version"],
  [["+", "−"], "Zoom in, out"],
  [["0"], "Show the whole track"],
  [["Esc"], "Clear selection"],
  [["Ctrl Z"], "Undo the last change"],
  [["Ctrl Shift Z"], "Redo"],
  [["?"], "This list"],
];

/** Every shortcut, on one card. */
export function ShortcutHelp({ onClose }: { onClose(): void }) {
  return (
    <Modal show centered onHide={onClose} aria-labelledby="shortcuts-title">
      <Modal.Header>
        <h2 id="shortcuts-title">Keyboard shortcuts</h2>
      </Modal.Header>
      <Modal.Body>
        <table className="ruled">
          <tbody>
            {shortcuts.map(([keys, what]) => (
              <tr key={what}>
                <td style={{ width: 110 }}>
                  {keys.map((key) => (
                    <kbd key={key} className="me-1">
                      {key}
                    </kbd>
                  ))}
                </td>
                <td>{what}</td>
              </tr>
            ))}
          </tbody>
        </table>
        <p className="small-text soft mt-3 mb-0">
          On the strip: drag to select bars, Shift-drag to extend the selection, click to move the playhead,
          scroll to zoom, Shift-scroll to move along. The handles under the line show which bars are
          recreated; drag them or use the arrow keys. On a chord: arrow keys select the next, Alt and arrow
          keys move its start, Enter renames, S splits, J joins, H plays it. On a drum hit: left and right
          select the next, up and down change its velocity, Alt and arrow keys move it by 1 ms (5 ms with
          Shift), V changes its voice, Delete removes it; a double click beside a line, or A at the playhead,
          adds one. On a move of the equaliser: left and right change its frequency, up and down its gain, Alt
          and up or down its width; Shift takes larger steps.
        </p>
      </Modal.Body>
      <Modal.Footer>
        <Button variant="primary" onClick={onClose}>
          Close
        </Button>
      </Modal.Footer>
    </Modal>
  );
}
