import { useState } from "react";

import type { TreatmentNumber } from "../api/client";
import type { Done } from "../state/store";
import { classesOf } from "../ui/classes";
import { Value } from "../ui/Value";
import type { Numbers } from "./treatments";
import styles from "./finish.module.css";

const cls = classesOf(styles);

interface Props {
  numbers: TreatmentNumber[];
  values: Numbers;
  change: (patch: Numbers, done: Done) => void;
}

/** The hues' colours, by the word their fields begin with. */
const COLOURS: Record<string, string> = {
  red: "#c8473c",
  orange: "#d98a3a",
  yellow: "#d8c440",
  green: "#58a04a",
  turquoise: "#3fa596",
  blue: "#4574c4",
  violet: "#7a5bc0",
  pink: "#c75a9c",
};

/** Eight hues: one is taken, and turned, made fuller or lighter. */
export function HueEditor({ numbers, values, change }: Props) {
  const names = [...new Set(numbers.map((n) => n.field.split("_")[0]))];
  const [taken, take] = useState(names[0]);
  const of = (name: string) => numbers.filter((n) => n.field.startsWith(`${name}_`));
  return (
    <>
      <div className={cls("hues")} role="group" aria-label="Hue">
        {names.map((name) => (
          <button
            key={name}
            type="button"
            aria-label={name}
            title={name}
            aria-pressed={name === taken}
            className={cls(of(name).some((n) => values[n.field] !== 0) ? "changed" : "")}
            style={{ background: COLOURS[name] }}
            onClick={() => take(name)}
          />
        ))}
      </div>
      {of(taken).map(({ field, label, low, high, step, unit }) => (
        <Value
          key={field}
          label={{ turn: "Hue", full: "Fullness", light: "Light" }[field.split("_")[1]] ?? label}
          name={label}
          value={(values[field] as number) ?? 0}
          min={low}
          max={high}
          step={step}
          unit={unit}
          onChange={(v, done) => change({ [field]: v }, done)}
        />
      ))}
    </>
  );
}
