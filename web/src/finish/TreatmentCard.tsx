import { useState } from "react";
import { Form } from "react-bootstrap";

import { api, type Treatment, type TreatmentLine } from "../api/client";
import type { LiveHeader } from "../api/live";
import { type Done, useStore } from "../state/store";
import { Button } from "../ui/Button";
import { classesOf } from "../ui/classes";
import { PartMenu } from "../ui/PartMenu";
import { Value } from "../ui/Value";
import { HueEditor } from "./HueEditor";
import { type Laying, LimitEditor } from "./LimitEditor";
import { PointsCurve } from "./PointsCurve";
import { ToneCurve } from "./ToneCurve";
import { limitInWords, type Numbers } from "./treatments";
import styles from "./finish.module.css";

const cls = classesOf(styles);

interface Props {
  header: LiveHeader | null;
  kind: TreatmentLine;
  treatment: Treatment;
  /** Told apart from others of its kind. */
  name: string;
  open: boolean;
  setOpen: (open: boolean) => void;
  /** Stops by which the look lifts the picture before it. */
  lift: number;
  groups: string[];
  change: (patch: object, done: Done) => void;
  /** One of its numbers is taken in hand. */
  take: (field: string) => void;
  takeAway: () => void;
  another: () => void;
  laying: Laying | null;
  lay: (what: Laying | null) => void;
  marked: boolean;
  mark: (on: boolean) => void;
}

/** One treatment of a look: a switch, its numbers or its curve, its strength and where it holds. */
export function TreatmentCard(props: Props) {
  const { header, kind, treatment, name, open, setOpen, lift, change } = props;
  const [parts, setParts] = useState(false);
  const numbers = { ...kind.at_first, ...treatment } as Numbers;
  const off = treatment.on === false;
  const limit = treatment.limit ?? null;
  const strength = treatment.strength ?? 1;
  return (
    <section className={cls(off ? "card off" : "card")} aria-label={name}>
      <div className={cls("head")}>
        <Form.Check
          type="switch"
          id={`treatment-${name}`}
          aria-label={`${name}, on`}
          title={kind.about}
          checked={!off}
          onChange={(e) => change({ on: e.target.checked }, true)}
        />
        <button
          type="button"
          className={cls("fold")}
          aria-expanded={open}
          title={kind.about}
          onClick={() => setOpen(!open)}
        >
          {name}
          {(limit !== null || strength < 1) && (
            <small>
              {strength < 1 ? `${Math.round(strength * 100)} % ` : ""}
              {limit ? limitInWords(limit) : ""}
            </small>
          )}
        </button>
        <PartMenu
          about={name}
          items={[
            { name: "Take out of the look", act: props.takeAway },
            { name: "Another one", act: props.another },
            {
              name: "Reset",
              act: () => change({ ...kind.at_first, on: true, limit: null, strength: 1 }, true),
            },
          ]}
        />
      </div>
      {open && (
        <div
          onFocus={(e) => {
            const field = (e.target as HTMLElement).closest<HTMLElement>("[data-field]")?.dataset.field;
            if (field) props.take(field);
          }}
        >
          {kind.kind === "tone_curve" && (
            <ToneCurve
              treatment={numbers as unknown as Treatment}
              numbers={kind.numbers}
              histogram={header?.histogram ?? null}
              lift={lift}
              disabled={off}
              change={change}
            />
          )}
          {kind.kind === "bent_curve" && (
            <PointsCurve treatment={numbers as unknown as Treatment} change={change} />
          )}
          {kind.kind === "table" && <TableChooser treatment={treatment} change={change} />}
          {kind.kind === "hue_ranges" ? (
            <HueEditor numbers={kind.numbers} values={numbers} change={change} />
          ) : (
            kind.numbers.map(({ field, label, low, high, step, unit }) => (
              <div key={field} data-field={field}>
                <Value
                  label={label}
                  value={numbers[field] as number}
                  min={low}
                  max={high}
                  step={step}
                  unit={unit}
                  kelvin={unit === "K"}
                  disabled={off}
                  onChange={(v, done) => change({ [field]: v }, done)}
                />
              </div>
            ))
          )}
          <Button
            variant="link"
            size="sm"
            className="p-0 d-block"
            aria-expanded={parts}
            onClick={() => {
              setParts(!parts);
              if (parts) props.lay(null);
            }}
          >
            How much, and where{parts ? "" : "…"}
          </Button>
          {parts && (
            <>
              <Value
                label="Strength"
                name={`${name}, strength`}
                value={strength * 100}
                min={0}
                max={100}
                step={5}
                unit="%"
                disabled={off}
                onChange={(v, done) => change({ strength: v / 100 }, done)}
              />
              <LimitEditor
                limit={limit}
                groups={props.groups}
                change={(to, done) => change({ limit: to }, done)}
                laying={props.laying}
                lay={props.lay}
                shown={props.marked}
                show={props.mark}
              />
            </>
          )}
        </div>
      )}
    </section>
  );
}

/** The file of a lookup table. */
function TableChooser({ treatment, change }: { treatment: Treatment; change: Props["change"] }) {
  const notify = useStore((s) => s.notify);
  const { file, name } = treatment as unknown as { file?: string | null; name?: string };
  const take = async (chosen: File | undefined) => {
    if (!chosen) return;
    try {
      const found = await api.takeTable(chosen);
      change({ file: found.file, name: found.name }, true);
    } catch (error) {
      notify((error as Error).message, "error");
    }
  };
  return (
    <label className="d-block mb-1">
      <span className="quiet">
        {file ? `Table: ${name || "without a name"}` : "No table yet: bring in a .cube file"}
      </span>
      <input
        type="file"
        accept=".cube"
        className="form-control form-control-sm"
        aria-label="File of the lookup table"
        onChange={(e) => void take(e.target.files?.[0])}
      />
    </label>
  );
}
