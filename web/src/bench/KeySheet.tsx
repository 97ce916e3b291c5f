import { Modal, Table } from "react-bootstrap";

const KEYS: [string, string][] = [
  ["Tab, Shift Tab", "to the next or the last control"],
  ["← → on the dayline", "move the hour by 5 minutes (Shift, Page keys: one hour; Home, End)"],
  ["← → on the yearline", "move the date by a day (Shift: ten days; Page keys: a month; Home, End)"],
  ["↑ ↓ in a number", "one step (Shift, Page keys: ten)"],
  [
    "Arrows in the picture",
    "move the cross, Enter points; in Lens look around, Shift: walk, Page keys: rise",
  ],
  ["Arrows on the plan", "move the cross, Enter places or points; + − zoom; N next fixture"],
  ["Arrows on a fixture", "move it by 0.1 m (Shift: 1 m, Alt: its aim); Delete takes it away"],
  ["Arrows on a cut-out", "move it by 0.1 m (Shift: 1 m); [ ] turn, + − height, Delete takes it away"],
  ["Arrows in the stage view", "look around, Shift: walk; Enter places in the middle, A aims"],
  ["Ctrl C, V, D", "copy, paste, duplicate fixtures with level and aim"],
  ["P", "make a plate"],
  ["K", "keep the live picture as a plate"],
  ["C", "compare with the plate before; in the compared pictures + − zoom, 0 fits, 1 pixel for pixel"],
  ["Shift click on a plate", "compare it, too, up to four"],
  ["J", "judge: histogram, waveform, zones, other readings, what differs"],
  ["B", "balance: how much of every light"],
  ["F", "with and without the fog"],
  ["M", "meter: point at the picture to read it"],
  ["L", "surround of the picture: light, middle, dark"],
  ["Escape", "put away what is in hand; let go of a drag"],
  ["Ctrl Z, Ctrl Y", "undo, redo"],
  ["?", "this sheet"],
];

/** The keyboard sheet. */
export function KeySheet({ show, close }: { show: boolean; close: () => void }) {
  return (
    <Modal show={show} onHide={close} aria-labelledby="keys-title" scrollable>
      <Modal.Header closeButton>
        <Modal.Title as="h2" id="keys-title" className="named">
          Keys
        </Modal.Title>
      </Modal.Header>
      <Modal.Body tabIndex={0} role="region" aria-labelledby="keys-title">
        <Table size="sm" className="mb-0">
          <tbody>
            {KEYS.map(([key, what]) => (
              <tr key={key}>
                <th scope="row" className="number text-nowrap">
                  {key}
                </th>
                <td>{what}</td>
              </tr>
            ))}
          </tbody>
        </Table>
      </Modal.Body>
    </Modal>
  );
}
