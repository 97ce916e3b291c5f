import { useId, useRef, useState } from "react";

import type { Done } from "../state/store";
import { clamp } from "./format";
import { readNumber } from "./reading";
import { classesOf } from "./classes";
import styles from "./Value.module.css";
import roomStyles from "./ui.module.css";

const cls = classesOf(styles, roomStyles);

interface Props {
  label: string;
  /** Said instead of the label where that alone is not enough. */
  name?: string;
  value: number;
  min: number;
  max: number;
  step: number;
  unit?: string;
  /** Slider moves in the logarithm of the value. */
  log?: boolean;
  kelvin?: boolean;
  format?: (value: number) => string;
  parse?: (text: string) => number | null;
  disabled?: boolean;
  onChange: (value: number, done: Done) => void;
}

/** One number: dragged on a rule, moved by arrow keys, or typed with its unit. A drag is one step of undo. */
export function Value(props: Props) {
  const { label, value, min, max, step, unit = "", log, kelvin, disabled, onChange } = props;
  const id = useId();
  const name = props.name ?? label;
  const format = props.format ?? ((v: number) => `${Number(v.toPrecision(5))}${unit ? ` ${unit}` : ""}`);
  const [text, setText] = useState<string | null>(null);
  const [settled, setSettled] = useState(false);
  const [dragged, setDragged] = useState<number | null>(null);
  // What is in hand lives beside the state: letting go must find it however often the value was drawn anew meanwhile.
  const inHand = useRef<number | null>(null);
  const pressed = useRef(false);
  const before = useRef(value);
  const shown = dragged ?? value;

  const toRule = (v: number) => (log ? Math.log(Math.max(v, 1e-9)) : v);
  const fromRule = (v: number) => (log ? clamp(Number(Math.exp(v).toPrecision(3)), min, max) : v);
  const parsed = text === null ? value : props.parse ? props.parse(text) : readNumber(text, unit, min, max);
  const wrong = text !== null && (parsed === null || parsed < min || parsed > max);
  const accept = () => {
    if (text !== null && !wrong && parsed !== null && format(parsed) !== format(value))
      onChange(parsed, true);
    setText(null);
  };
  const go = (to: number) => {
    setText(null);
    onChange(clamp(log ? Number(to.toPrecision(3)) : Number(to.toFixed(6)), min, max), "soon");
  };
  const settle = () => {
    const last = inHand.current;
    inHand.current = null;
    pressed.current = false;
    setDragged(null);
    if (last !== null) onChange(last, true);
  };
  const putBack = () => {
    if (inHand.current === null) return;
    inHand.current = null;
    pressed.current = false;
    setDragged(null);
    onChange(before.current, false);
  };
  /** Where a key leads; null for a key that means nothing here. */
  const target = (e: React.KeyboardEvent): number | null => {
    const steps = { ArrowLeft: -1, ArrowDown: -1, ArrowRight: 1, ArrowUp: 1, PageDown: -10, PageUp: 10 }[
      e.key
    ];
    if (steps === undefined) return e.key === "Home" ? min : e.key === "End" ? max : null;
    const many = e.shiftKey ? steps * 10 : steps;
    return log ? shown * (1 + Math.sign(many) * (Math.abs(many) > 1 ? 0.25 : 0.05)) : shown + many * step;
  };

  return (
    <div className={`value ${disabled ? "off" : ""}`}>
      <label htmlFor={id}>{label}</label>
      <input
        type="range"
        className={cls(`rule ${kelvin ? "kelvin" : ""}`)}
        aria-label={`${name}, rule`}
        aria-valuetext={format(shown)}
        disabled={disabled}
        min={toRule(min)}
        max={toRule(max)}
        step={log ? "any" : step}
        value={toRule(clamp(shown, min, max))}
        onPointerDown={() => {
          pressed.current = true;
          before.current = value;
        }}
        onChange={(e) => {
          const next = fromRule(Number(e.target.value));
          if (!pressed.current) {
            onChange(next, "soon"); // moved by something else than a pointer
            return;
          }
          inHand.current = next;
          setDragged(next);
          onChange(next, false);
        }}
        onPointerUp={settle}
        onPointerCancel={putBack}
        onBlur={settle}
        onKeyDown={(e) => {
          if (e.key === "Escape" && inHand.current !== null) {
            e.preventDefault();
            putBack();
            return;
          }
          const to = e.ctrlKey || e.metaKey || e.altKey ? null : target(e);
          if (to === null) return;
          e.preventDefault();
          go(to);
        }}
      />
      <input
        id={id}
        type="text"
        autoComplete="off"
        className={cls(wrong ? "wrong" : "")}
        aria-label={props.name}
        aria-invalid={wrong}
        title={wrong ? `From ${format(min)} to ${format(max)}` : undefined}
        disabled={disabled}
        value={text ?? format(shown)}
        onFocus={(e) => e.target.select()}
        data-settled={settled}
        onChange={(e) => {
          setText(e.target.value);
          setSettled(false);
        }}
        onBlur={() => {
          accept();
          setSettled(false);
        }}
        onKeyDown={(e) => {
          if (e.key === "Enter") {
            accept();
            setSettled(true);
          } else if (e.key === "Escape") setText(null);
          else if (["ArrowUp", "ArrowDown", "PageUp", "PageDown"].includes(e.key)) {
            e.preventDefault();
            go(target(e)!);
          }
        }}
      />
    </div>
  );
}
