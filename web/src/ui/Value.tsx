import { useEffect, useId, useRef, useState } from "react";

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
  onDraft: (value: number) => void;
  onCommit: (value: number) => void;
}

/** One number: dragged on a rule, moved by arrow keys, or typed with its unit. A drag is one step of undo. */
export function Value(props: Props) {
  const { label, value, min, max, step, unit = "", log, kelvin, disabled, onDraft, onCommit } = props;
  const id = useId();
  const format = props.format ?? ((v: number) => `${Number(v.toPrecision(5))}${unit ? ` ${unit}` : ""}`);
  const [text, setText] = useState<string | null>(null);
  const [moved, setMoved] = useState<number | null>(null);
  const timer = useRef<number | undefined>(undefined);
  const shown = moved ?? value;
  useEffect(() => () => window.clearTimeout(timer.current), []);

  const toRule = (v: number) => (log ? Math.log(Math.max(v, 1e-9)) : v);
  const fromRule = (v: number) => {
    if (!log) return v;
    const raw = Math.exp(v);
    return clamp(Number(raw.toPrecision(3)), min, max);
  };
  const finish = (v: number | null) => {
    window.clearTimeout(timer.current);
    if (v !== null && v !== value) onCommit(v);
    setMoved(null);
  };
  const read = (typed: string): number | null => {
    if (props.parse) return props.parse(typed);
    const number = Number(typed.replace(unit, "").replace(",", ".").trim());
    return typed.trim() !== "" && Number.isFinite(number) ? number : null;
  };
  const parsed = text === null ? value : read(text);
  const wrong = text !== null && (parsed === null || parsed < min || parsed > max);
  const nudge = (direction: number, large: boolean) => {
    const by = log ? shown * (large ? 0.25 : 0.05) : step * (large ? 10 : 1);
    const next = clamp(
      log ? Number((shown + direction * by).toPrecision(3)) : shown + direction * by,
      min,
      max,
    );
    setText(null);
    setMoved(next);
    onDraft(next);
    window.clearTimeout(timer.current);
    timer.current = window.setTimeout(() => finish(next), 500);
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
          setMoved(next);
          onDraft(next);
        }}
        onPointerUp={() => finish(moved)}
        onBlur={() => finish(moved)}
        onKeyUp={() => {
          window.clearTimeout(timer.current);
          timer.current = window.setTimeout(() => finish(moved), 500);
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
        onBlur={() => {
          if (text !== null && !wrong && parsed !== null) finish(parsed);
          setText(null);
        }}
        onKeyDown={(e) => {
          if (e.key === "Enter") {
            if (text !== null && !wrong && parsed !== null) {
              finish(parsed);
              setText(null);
            }
          } else if (e.key === "Escape") {
            setText(null);
            e.currentTarget.blur();
          } else if (e.key === "ArrowUp" || e.key === "ArrowDown") {
            e.preventDefault();
            nudge(e.key === "ArrowUp" ? 1 : -1, e.shiftKey);
          }
        }}
      />
    </div>
  );
}
