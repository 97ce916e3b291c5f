import { useId } from "react";
import { Form } from "react-bootstrap";

import type { Placement, Project } from "../api/client";
import type { Hands } from "../bench/useBench";
import { classesOf } from "../ui/classes";
import { NumberField } from "../ui/NumberField";
import styles from "./Standing.module.css";

const cls = classesOf(styles);

/** Metres of the units that models come in. */
const UNITS: [string, number][] = [
  ["m", 1],
  ["cm", 0.01],
  ["mm", 0.001],
  ["ft", 0.3048],
  ["inch", 0.0254],
];
const AXES = ["x", "y", "z"] as const;
/** Axes of a file as it was read. */
const UPRIGHT = ["z", "y", "x", "-z", "-y", "-x"] as const;

interface Props {
  placement: Placement;
  layers: NonNullable<Project["layers"]>;
  hands: Hands;
}

/** Where a thing of the stage stands: its place, its turn, the unit of its file, its layer. */
export function Standing({ placement, layers, hands }: Props) {
  const id = useId();
  const { key, name, position, turn_deg: turn, scale, layer } = placement;
  const set = (what: string, field: string, value: unknown) =>
    hands.changes(`${what} of ${name}`.slice(0, 120), [{ part: "placement", key, at: [field], value }], true);
  const unit = UNITS.find(([, metres]) => Math.abs(metres / scale - 1) < 1e-9)?.[0];
  const place = position.map((v) => Number(v.toFixed(2))).join(", ");
  return (
    <details className={cls("standing")}>
      <summary>
        <span className="number quiet">
          at {place} m{turn ? `, ${Number(turn.toFixed(1))}°` : ""}, in{" "}
          {unit ?? `${Number(scale.toPrecision(4))} m`}
        </span>
      </summary>
      <div className={cls("fields")}>
        <span>Place, m</span>
        <span className={cls("place")}>
          {AXES.map((axis, k) => (
            <NumberField
              key={axis}
              label={`${axis} of ${name} in metres`}
              unit="m"
              value={position[k]}
              min={-1e7}
              max={1e7}
              step={0.1}
              onChange={(v) => set("Place", "position", position.with(k, v ?? 0))}
            />
          ))}
        </span>
        <span>Turn, °</span>
        <NumberField
          label={`Turn of ${name} in degrees, anticlockwise from above`}
          unit="°"
          value={turn}
          min={-360}
          max={360}
          step={1}
          onChange={(v) => set("Turn", "turn_deg", v ?? 0)}
        />
        <label htmlFor={`${id}-up`}>Axis that points up</label>
        <Form.Select
          id={`${id}-up`}
          size="sm"
          value={placement.up ?? "z"}
          onChange={(e) => set("Upright axis", "up", e.target.value)}
        >
          {UPRIGHT.map((axis) => (
            <option key={axis} value={axis}>
              {axis.replace("-", "−")}
            </option>
          ))}
        </Form.Select>
        <label htmlFor={`${id}-unit`}>Unit of the file</label>
        <Form.Select
          id={`${id}-unit`}
          size="sm"
          value={unit ?? ""}
          onChange={(e) =>
            set("Unit", "scale", UNITS.find(([name]) => name === e.target.value)?.[1] ?? scale)
          }
        >
          {unit === undefined && <option value="">{Number(scale.toPrecision(4))} m</option>}
          {UNITS.map(([name]) => (
            <option key={name} value={name}>
              {name}
            </option>
          ))}
        </Form.Select>
        <span>Scale</span>
        <NumberField
          label={`Scale of ${name}: metres for one unit of its file`}
          value={scale}
          min={1e-6}
          max={1e6}
          step={0.001}
          onChange={(v) => v !== null && set("Scale", "scale", v)}
        />
        {layers.length > 0 && (
          <>
            <label htmlFor={`${id}-layer`}>Layer</label>
            <Form.Select
              id={`${id}-layer`}
              size="sm"
              value={layer ?? ""}
              onChange={(e) => set("Layer", "layer", e.target.value || null)}
            >
              <option value="">those of its file</option>
              {layers.map((l) => (
                <option key={l.key} value={l.key}>
                  {l.name}
                </option>
              ))}
            </Form.Select>
          </>
        )}
      </div>
    </details>
  );
}
