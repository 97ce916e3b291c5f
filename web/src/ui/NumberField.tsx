import { useState } from "react";

import { readNumber } from "./reading";
import { classesOf } from "./classes";
import styles from "./NumberField.module.css";
import roomStyles from "./ui.module.css";

const cls = classesOf(styles, roomStyles);

interface Props {
  label: string;
  /** Null where nothing is wanted. */
  value: number | null;
  unit?: string;
  min?: number;
  max?: number;
  step?: number;
  placeholder?: string;
  /** Answers while it is typed, as a filter does; else with Enter or on leaving. */
  eager?: boolean;
  onChange: (value: number | null) => void;
}

/** One number by itself, typed as freely as everywhere, moved by the arrow keys; may be left empty. */
export function NumberField(props: Props) {
  const {
    label,
    value,
    unit = "",
    min = -Infinity,
    max = Infinity,
    step = 1,
    placeholder,
    eager,
    onChange,
  } = props;
  const [text, setText] = useState<string | null>(null);
  const read = (typed: string) => (typed.trim() === "" ? null : readNumber(typed, unit, min, max));
  const found = text === null ? value : read(text);
  const wrong = text !== null && text.trim() !== "" && (found === null || found < min || found > max);
  const accept = () => {
    if (text !== null && !wrong && found !== value) onChange(found);
    setText(null);
  };
  return (
    <input
      className={cls(`form-control form-control-sm number-field ${wrong ? "wrong" : ""}`)}
      type="text"
      inputMode="decimal"
      autoComplete="off"
      aria-label={label}
      aria-invalid={wrong}
      title={label}
      placeholder={placeholder}
      value={text ?? (value === null ? "" : String(Number(value.toPrecision(6))))}
      onChange={(e) => {
        setText(e.target.value);
        const typed = read(e.target.value);
        const fits = e.target.value.trim() === "" || (typed !== null && typed >= min && typed <= max);
        if (eager && fits && typed !== value) onChange(typed);
      }}
      onBlur={accept}
      onKeyDown={(e) => {
        const by = { ArrowUp: step, ArrowDown: -step, PageUp: step * 10, PageDown: -step * 10 }[e.key];
        if (e.key === "Enter") accept();
        else if (e.key === "Escape") setText(null);
        else if (by !== undefined) {
          e.preventDefault();
          setText(null);
          const next = (found ?? 0) + by * (e.shiftKey ? 10 : 1);
          onChange(Number(Math.min(Math.max(next, min), max).toFixed(6)));
        }
      }}
    />
  );
}
