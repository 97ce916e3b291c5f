import { useState } from "react";
import { Form } from "react-bootstrap";

import { Button } from "../ui/Button";
import { NumberField } from "../ui/NumberField";
import { classesOf } from "../ui/classes";
import roomStyles from "./plan.module.css";

const cls = classesOf(roomStyles);

export type PlanTool = "one" | "row" | "array" | "curve" | "mirror-x" | "mirror-y" | "area" | "section";

export interface ArrangeFigures {
  by: "count" | "spacing";
  count: number;
  rows: number;
  spacing: number;
  half: boolean;
  /** Height of a measured area in m. */
  height: number;
}

export const START_FIGURES: ArrangeFigures = {
  by: "count",
  count: 4,
  rows: 3,
  spacing: 1.5,
  half: true,
  height: 0.75,
};

export const HINTS: Partial<Record<PlanTool, string>> = {
  row: "drag from one end to the other",
  array: "drag a rectangle from wall to wall",
  curve: "click the points of the curve, then place",
  "mirror-x": "click where the mirror stands, across x",
  "mirror-y": "click where the mirror stands, across y",
  area: "drag the area to measure",
  section: "drag a fixture up or down, or use the arrow keys",
};

const PLACING: [PlanTool, string][] = [
  ["one", "One"],
  ["row", "Row"],
  ["array", "Array"],
  ["curve", "Curve"],
];

interface Props {
  tool: PlanTool;
  setTool: (tool: PlanTool) => void;
  figures: ArrangeFigures;
  setFigures: (figures: ArrangeFigures) => void;
  kind: string | null;
  chosen: number;
  points: number;
  finishCurve: () => void;
  underObjects: (name: string) => void;
}

/** What a click or a drag on the plan does. */
export function PlanTools(props: Props) {
  const { tool, setTool, figures, setFigures, kind, chosen, points } = props;
  const [name, setName] = useState("");
  const set = (patch: Partial<ArrangeFigures>) => setFigures({ ...figures, ...patch });
  const button = (t: PlanTool, label: string, disabled = false) => (
    <Button
      key={t}
      size="sm"
      variant={tool === t ? "dark" : "outline-dark"}
      aria-pressed={tool === t}
      disabled={disabled}
      onClick={() => setTool(tool === t ? "one" : t)}
    >
      {label}
    </Button>
  );
  const number = (label: string, value: number, change: (v: number) => void, step = 1) => (
    <NumberField
      label={label}
      min={step}
      max={10000}
      step={step}
      value={value}
      onChange={(v) => v !== null && change(step === 1 ? Math.round(v) : v)}
    />
  );
  return (
    <div className={cls("plan-tools")} role="group" aria-label="Tools of the plan">
      {kind ? (
        <>
          {PLACING.map(([t, label]) => button(t, label))}
          {tool !== "one" && (
            <>
              <Form.Select
                size="sm"
                style={{ width: 104 }}
                aria-label="By count or spacing"
                value={figures.by}
                onChange={(e) => set({ by: e.target.value as ArrangeFigures["by"] })}
              >
                <option value="count">count</option>
                <option value="spacing">spacing, m</option>
              </Form.Select>
              {figures.by === "spacing"
                ? number("Greatest spacing in m", figures.spacing, (v) => set({ spacing: v }), 0.1)
                : number(tool === "array" ? "Columns" : "Count", figures.count, (v) =>
                    set({ count: Math.round(v) }),
                  )}
              {figures.by === "count" &&
                tool === "array" &&
                number("Rows", figures.rows, (v) => set({ rows: Math.round(v) }))}
              <Form.Check
                type="switch"
                id="half-ends"
                label="half spacing to walls"
                checked={figures.half}
                onChange={(e) => set({ half: e.target.checked })}
              />
            </>
          )}
          {tool === "curve" && points > 1 && (
            <Button size="sm" variant="dark" onClick={props.finishCurve}>
              Place along {points} points
            </Button>
          )}
          <form
            className="d-flex gap-1"
            onSubmit={(e) => {
              e.preventDefault();
              if (name.trim()) props.underObjects(name.trim());
            }}
          >
            <Form.Control
              size="sm"
              style={{ width: 150 }}
              placeholder="under objects named"
              aria-label="Under all objects whose name begins so"
              value={name}
              onChange={(e) => setName(e.target.value)}
            />
            <Button size="sm" variant="outline-dark" type="submit" disabled={name.trim() === ""}>
              Place
            </Button>
          </form>
        </>
      ) : (
        <>
          {button("area", "Measure an area")}
          {tool === "area" &&
            number("Height of the area in m", figures.height, (v) => set({ height: v }), 0.05)}
          {button("mirror-x", "Mirror across x", chosen === 0)}
          {button("mirror-y", "Mirror across y", chosen === 0)}
          {button("section", "Section")}
          <span className="quiet">{chosen > 1 ? `${chosen} fixtures chosen` : ""}</span>
        </>
      )}
    </div>
  );
}

/** The line, rectangle or curve being drawn. */
export function Marks({ line, tool, unit }: { line: [number, number][]; tool: PlanTool; unit: number }) {
  const [a, b] = [line[0], line.at(-1)!];
  const style = { stroke: "#66761a", strokeWidth: unit * 1.5, fill: "none", strokeDasharray: `${unit * 5}` };
  if (tool === "array" || tool === "area")
    return (
      <rect
        x={Math.min(a[0], b[0])}
        y={-Math.max(a[1], b[1])}
        width={Math.abs(a[0] - b[0])}
        height={Math.abs(a[1] - b[1])}
        {...style}
      />
    );
  return (
    <g>
      <polyline points={line.map(([x, y]) => `${x},${-y}`).join(" ")} {...style} />
      {line.map(([x, y], k) => (
        <circle key={k} cx={x} cy={-y} r={unit * 3} fill="#66761a" />
      ))}
    </g>
  );
}
