import { useState } from "react";
import { Form } from "react-bootstrap";

import { formatText, readFormat } from "../ui/reading";
import styles from "./FormatChooser.module.css";

type Format = [number, number];

/** Formats in use for prints and screens; any other is typed. */
const USUAL: Format[] = [
  [16, 9],
  [3, 2],
  [4, 3],
  [1, 1],
  [4, 5],
  [2, 3],
  [9, 16],
];
const HIGHEST = 26;

/** Width to height of the picture: chosen by its shape, or typed. */
export function FormatChooser({ value, onChange }: { value: Format; onChange: (v: Format) => void }) {
  const [text, setText] = useState<string | null>(null);
  const same = ([w, h]: Format) => w * value[1] === h * value[0];
  const read = text === null ? value : readFormat(text);
  const take = () => {
    if (text !== null && read && !(read[0] * value[1] === read[1] * value[0])) onChange(read);
    setText(null);
  };
  return (
    <fieldset className={styles.formats}>
      <legend>Format</legend>
      <div className={styles.shapes}>
        {USUAL.map((f) => {
          const scale = HIGHEST / Math.max(f[0], f[1]);
          const name = formatText(f);
          return (
            <label key={name} className={styles.shape} title={`${f[0]} to ${f[1]}`}>
              <input
                type="radio"
                name="format"
                className="visually-hidden"
                aria-label={`Format ${name}`}
                checked={same(f)}
                onChange={() => onChange(f)}
              />
              <span
                className={styles.sheet}
                style={{ width: f[0] * scale, height: f[1] * scale }}
                aria-hidden
              />
              <span className={styles.name}>{name}</span>
            </label>
          );
        })}
      </div>
      <div className={styles.other}>
        <span>or</span>
        <Form.Control
          size="sm"
          aria-label="Format, typed"
          value={text ?? formatText(value)}
          isInvalid={text !== null && read === null}
          onChange={(e) => setText(e.target.value)}
          onBlur={take}
          onKeyDown={(e) => {
            if (e.key === "Enter") take();
            else if (e.key === "Escape") setText(null);
          }}
        />
        {text !== null && read === null && (
          <span className="error-text" role="alert">
            Write it as 3:2 or 2.39:1, at most 8:1.
          </span>
        )}
      </div>
    </fieldset>
  );
}
