import { type FormEvent, useEffect, useRef, useState } from "react";
import { Form, Modal } from "react-bootstrap";

import { Button } from "./Button";

interface Props {
  title: string;
  value: string;
  /** May be left empty. */
  optional?: boolean;
  /** The name that stands there is an answer, too. */
  always?: boolean;
  /** What Enter does. */
  verb?: string;
  accept: (name: string) => void;
  close: () => void;
}

/** Ask for a name; Enter takes it, Escape leaves it. */
export function AskName({ title, value, optional, always, verb = "Rename", accept, close }: Props) {
  const [name, setName] = useState(value);
  const field = useRef<HTMLInputElement>(null);
  // The menu that led here gives its focus back to its own button first.
  useEffect(() => {
    const soon = window.setTimeout(() => field.current?.focus(), 30);
    return () => window.clearTimeout(soon);
  }, []);
  const submit = (e: FormEvent) => {
    e.preventDefault();
    const wanted = name.trim();
    if (!wanted && !optional) return;
    if (always || wanted !== value) accept(wanted);
    close();
  };
  return (
    <Modal show onHide={close} size="sm" aria-label={verb} animation={false}>
      <Form onSubmit={submit} noValidate>
        <Modal.Body>
          <label htmlFor="asked-name" className="named d-block mb-2" style={{ fontSize: 18 }}>
            {title}
          </label>
          <Form.Control
            id="asked-name"
            ref={field}
            autoComplete="off"
            maxLength={80}
            value={name}
            onFocus={(e) => e.target.select()}
            onChange={(e) => setName(e.target.value)}
          />
        </Modal.Body>
        <Modal.Footer>
          <Button variant="outline-dark" onClick={close}>
            Leave it
          </Button>
          <Button variant="dark" type="submit" disabled={!optional && name.trim() === ""}>
            {verb}
          </Button>
        </Modal.Footer>
      </Form>
    </Modal>
  );
}
