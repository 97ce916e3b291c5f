import { Button } from "../ui/Button";
import { classesOf } from "../ui/classes";
import styles from "./FirstSteps.module.css";
import { NOTES } from "./firstSteps";
import type { Step } from "./steps";

const cls = classesOf(styles);

interface Props {
  note: number;
  turn: (to: number | null) => void;
  go: (step: Step) => void;
}

/** One of the six notes of a first run, above the instrument it speaks of. */
export function FirstSteps({ note, turn, go }: Props) {
  const { title, says } = NOTES[note];
  const to = (number: number) => {
    turn(number);
    if (number < NOTES.length) go(NOTES[number].step);
  };
  return (
    <section className={cls("note")} aria-label="First steps">
      <h3>
        <span className="number">
          {note + 1}/{NOTES.length}
        </span>{" "}
        {title}
      </h3>
      <p>{says}</p>
      <div className={cls("acts")}>
        <button onClick={() => turn(null)}>Put away</button>
        {note > 0 && <button onClick={() => to(note - 1)}>Back</button>}
        <Button variant="dark" size="sm" onClick={() => to(note + 1)}>
          {note + 1 < NOTES.length ? "Next" : "Done"}
        </Button>
      </div>
    </section>
  );
}
