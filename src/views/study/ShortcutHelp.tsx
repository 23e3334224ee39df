"use client";

import { Button, Modal } from "react-bootstrap";

const shortcuts: readonly [keys: readonly string[], what: string][] = [
  [["Space"], "Play, pause"],
  [["R"], "Listen to the reference"],
  [["V"], "Listen to the version"],
  [["F"], "Flip to the other side, at the same place"],
  [["←", "→"], "A bar back, forward"],
  [["Shift ←", "→"], "Eight bars back, forward"],
  [["Page ↑", "↓"], "To the section before, after"],
  [["L"], "Loop the selection, on and off"],
  [["E"], "Equal loudness, on and off"],
  [["K"], "Click, on and off"],
  [["Home"], "To the start of the selection, or of the track"],
  [[",", "."], "Version before, after"],
  [["+", "−"], "Look closer at the strip, wider"],
  [["0"], "Show the whole track"],
  [["Esc"], "Select nothing"],
  [["Ctrl Z"], "Undo the last change that says so"],
  [["Ctrl Shift Z"], "Undo the last correction of the view"],
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
          On the strip: drag to select bars, Shift-drag to stretch the selection, click to move the playhead,
          turn the wheel to zoom, Shift and wheel to move along. The edges under the line say which bars are
          recreated; drag them, or move them with the arrow keys. On a chord: arrow keys go to the next, Alt
          and arrow keys move where it begins, Enter renames, S splits, J joins, H sounds it. On a drum hit:
          left and right go to the next, up and down change how hard it is struck, Alt and arrow keys move it
          by a millisecond (with Shift five), V gives it another voice, Delete takes it out; a double click
          beside a line adds one.
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
