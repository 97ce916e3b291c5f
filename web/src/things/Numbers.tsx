import { Form } from "react-bootstrap";

import type { FamilyLine } from "../api/client";
import { classesOf } from "../ui/classes";
import { NumberField } from "../ui/NumberField";
import styles from "./things.module.css";

const cls = classesOf(styles);

interface Props {
  family: FamilyLine;
  values: Record<string, number>;
  set: (values: Record<string, number>) => void;
}

/** The numbers by which the members of a family differ. */
export function Numbers({ family, values, set }: Props) {
  return (
    <div className={cls("fields")}>
      {family.parameters.map((p) => {
        const value = values[p.key] ?? p.first;
        const change = (v: number) => set({ ...values, [p.key]: v });
        return (
          <label key={p.key}>
            <span>
              {p.name}
              {p.unit && <span className="quiet"> {p.unit}</span>}
            </span>
            {p.words.length > 0 ? (
              <Form.Select
                size="sm"
                value={value}
                aria-label={p.name}
                onChange={(e) => change(Number(e.target.value))}
              >
                {p.words.map((word, k) => (
                  <option key={word} value={k}>
                    {word}
                  </option>
                ))}
              </Form.Select>
            ) : (
              <NumberField
                label={`${p.name}, ${p.least} to ${p.most} ${p.unit}`.trim()}
                unit={p.unit}
                value={value}
                min={p.least}
                max={p.most}
                step={p.step}
                onChange={(v) => v !== null && change(v)}
              />
            )}
          </label>
        );
      })}
    </div>
  );
}
