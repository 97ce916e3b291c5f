import { useState } from "react";

import { readDate } from "./reading";
import { classesOf } from "./classes";
import styles from "./DateField.module.css";
import roomStyles from "./ui.module.css";

const cls = classesOf(styles, roomStyles);

/** A day, typed as people write it; what cannot be a day says so and leaves the old one. */
export function DateField(props: { id: string; value: string; change: (day: string) => void }) {
  const { id, value, change } = props;
  const [text, setText] = useState<string | null>(null);
  const [settled, setSettled] = useState(false);
  const found = text === null ? value : readDate(text, value.slice(0, 4));
  const wrong = text !== null && found === null;
  const accept = () => {
    if (found !== null && found !== value) change(found);
    setText(null);
  };
  return (
    <>
      <input
        id={id}
        type="text"
        autoComplete="off"
        className={cls(wrong ? "wrong" : "")}
        aria-invalid={wrong}
        aria-describedby={`${id}-form`}
        value={text ?? value}
        onFocus={(e) => e.target.select()}
        data-settled={settled}
        onChange={(e) => {
          setText(e.target.value);
          setSettled(false);
        }}
        onKeyDown={(e) => {
          if (e.key === "Enter" && !wrong) {
            accept();
            setSettled(true);
          } else if (e.key === "Escape") setText(null);
        }}
        onBlur={() => {
          accept();
          setSettled(false);
        }}
      />
      <span id={`${id}-form`} className={cls(wrong ? "error-text date-form" : "visually-hidden")}>
        {wrong ? "No such day: write it as 2026-06-21 or 21 June" : "A day, as 2026-06-21 or 21 June"}
      </span>
    </>
  );
}
