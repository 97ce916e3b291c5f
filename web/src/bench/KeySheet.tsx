import { Modal, Table } from "react-bootstrap";

const KEYS: [string, string][] = [
  ["Tab, Shift Tab", "to the next or the last control"],
  ["← → on the dayline", "move the hour by 5 minutes (Shift: one hour)"],
  ["← → on the yearline", "move the date by a day (Shift: ten days)"],
  ["↑ ↓ in a number", "one step (Shift: ten)"],
  ["Arrows on a fixture of the plan", "move it by 0.1 m (Shift: 1 m)"],
  ["Delete on a fixture of the plan", "take it away"],
  ["P", "make a plate"],
  ["C", "compare with the plate before, under a slider"],
  ["B", "balance: the level of every light"],
  ["M", "meter: point at the picture to read it"],
  ["L", "surround of the picture: light, middle, dark"],
  ["Ctrl Z, Ctrl Y", "undo, redo"],
  ["?", "this sheet"],
];

/** The keyboard sheet. */
export function KeySheet({ show, close }: { show: boolean; close: () => void }) {
  return (
    <Modal show={show} onHide={close} aria-labelledby="keys-title">
      <Modal.Header closeButton>
        <Modal.Title id="keys-title" className="named">
          Keys
        </Modal.Title>
      </Modal.Header>
      <Modal.Body>
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
