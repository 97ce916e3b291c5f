import { useEffect, useId, useState } from "react";

import type { Done } from "../state/store";
import { clamp } from "./format";

interface Props {
  label: string;
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
  const format = props.format ?? ((v: number) => `${Number(v.toPrecision(5))}${unit ? ` ${unit}` : ""}`);
  const [text, setText] = useState<string | null>(null);
  const [dragged, setDragged] = useState<number | null>(null);
  useEffect(() => setDragged(null), [value]);
  const shown = dragged ?? value;

  const toRule = (v: number) => (log ? Math.log(Math.max(v, 1e-9)) : v);
  const fromRule = (v: number) => (log ? clamp(Number(Math.exp(v).toPrecision(3)), min, max) : v);
  const read = (typed: string): number | null => {
    if (props.parse) return props.parse(typed);
    const number = Number(typed.replace(unit, "").replace(",", ".").trim());
    return typed.trim() !== "" && Number.isFinite(number) ? number : null;
  };
  const parsed = text === null ? value : read(text);
  const wrong = text !== null && (parsed === null || parsed < min || parsed > max);
  const accept = () => {
    if (text !== null && !wrong && parsed !== null && parsed !== value) onChange(parsed, true);
    setText(null);
  };
  const nudge = (direction: number, large: boolean) => {
    const by = log ? shown * (large ? 0.25 : 0.05) : step * (large ? 10 : 1);
    const next = shown + direction * by;
    setText(null);
    onChange(clamp(log ? Number(next.toPrecision(3)) : Number(next.toFixed(6)), min, max), "soon");
  };
  const settle = () => {
    if (dragged !== null && dragged !== value) onChange(dragged, true);
    setDragged(null);
  };

  return (
    <div className={`value ${disabled ? "off" : ""}`}>
      <label htmlFor={id}>{label}</label>
      <input
        type="range"
        className={`rule ${kelvin ? "kelvin" : ""}`}
        aria-label={`${label}, rule`}
        aria-valuetext={format(shown)}
        disabled={disabled}
        min={toRule(min)}
        max={toRule(max)}
        step={log ? "any" : step}
        value={toRule(clamp(shown, min, max))}
        onChange={(e) => {
          const next = fromRule(Number(e.target.value));
          setDragged(next);
          onChange(next, false);
        }}
        onPointerUp={settle}
        onBlur={settle}
        onKeyDown={(e) => {
          const by = { ArrowLeft: -1, ArrowDown: -1, ArrowRight: 1, ArrowUp: 1 }[e.key];
          if (!by) return;
          e.preventDefault();
          nudge(by, e.shiftKey);
        }}
      />
      <input
        id={id}
        type="text"
        autoComplete="off"
        className={wrong ? "wrong" : ""}
        aria-invalid={wrong}
        title={wrong ? `From ${format(min)} to ${format(max)}` : undefined}
        disabled={disabled}
        value={text ?? format(shown)}
        onFocus={(e) => e.target.select()}
        onChange={(e) => setText(e.target.value)}
        onBlur={accept}
        onKeyDown={(e) => {
          if (e.key === "Enter") accept();
          else if (e.key === "Escape") setText(null);
          else if (e.key === "ArrowUp" || e.key === "ArrowDown") {
            e.preventDefault();
            nudge(e.key === "ArrowUp" ? 1 : -1, e.shiftKey);
          }
        }}
      />
    </div>
  );
}
