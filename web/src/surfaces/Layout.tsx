import { useEffect, useState } from "react";
import { Form } from "react-bootstrap";

import { api, type Courses, type Laying, type Surface } from "../api/client";
import type { Done } from "../state/store";
import { classesOf } from "../ui/classes";
import { NumberField } from "../ui/NumberField";
import { fromHex, toHex } from "./colours";
import { LayingDrawing } from "./LayingDrawing";
import styles from "./surfaces.module.css";

const cls = classesOf(styles);

const WAYS: [NonNullable<Laying["by"]>, string][] = [
  ["uv", "as the model lays it"],
  ["box", "on every face by itself"],
  ["plan", "from above"],
  ["sides", "from three sides, blended"],
];
const BONDS: [NonNullable<Courses["bond"]>, string][] = [
  ["running", "running bond"],
  ["stack", "stack bond"],
  ["third", "third bond"],
  ["english", "English bond"],
  ["flemish", "Flemish bond"],
  ["random", "random lengths, as boards"],
  ["herringbone", "herringbone"],
  ["hexagon", "hexagons"],
];
/** Where a layout begins: bricks of 215 x 65 mm. */
export const BRICKS: Courses = {
  bond: "running",
  length_m: 0.215,
  height_m: 0.065,
  joint_m: 0.01,
  recess_m: 0.002,
  joint_colour: [0.55, 0.52, 0.47],
  tint: null,
  shade: 0.15,
  uneven: 0.15,
};

interface Props {
  surface: Surface;
  put: (patch: Partial<Surface>, what: string, done: Done) => void;
}

/** How pictures and units lie on a surface: drawn, pulled and turned on a wall, and typed. */
export function Layout({ surface, put }: Props) {
  const { courses, pictures } = surface;
  const shown = pictures?.colour ?? pictures?.height ?? pictures?.roughness ?? pictures?.normal ?? null;
  const shape = useShape(shown);
  const laying: Laying = surface.laying ?? { by: "box", tile_m: 1, turn_deg: 0, shift_m: [0, 0] };
  const lay = (patch: Partial<Laying>, what: string, done: Done) =>
    put({ laying: { ...laying, ...patch } }, what, done);
  const build = (patch: Partial<Courses>, what: string, done: Done) =>
    courses && put({ courses: { ...courses, ...patch } }, what, done);
  const length = (
    name: string,
    field: "length_m" | "height_m" | "joint_m" | "recess_m",
    least: number,
    most: number,
  ) =>
    courses && (
      <label key={field}>
        <span>
          {name} <span className="quiet">m</span>
        </span>
        <NumberField
          label={`${name}, m`}
          unit="m"
          value={courses[field] ?? BRICKS[field]!}
          min={least}
          max={most}
          step={0.001}
          onChange={(v) => v !== null && build({ [field]: v }, name, true)}
        />
      </label>
    );
  const share = (name: string, field: "shade" | "uneven") =>
    courses && (
      <label key={field}>
        <span>
          {name} <span className="quiet">%</span>
        </span>
        <NumberField
          label={`${name}, percent`}
          value={Math.round(100 * (courses[field] ?? 0.15))}
          min={0}
          max={100}
          step={5}
          onChange={(v) => v !== null && build({ [field]: v / 100 }, name, true)}
        />
      </label>
    );
  const lies = Boolean(courses || shown);
  return (
    <>
      <h3>Layout</h3>
      <div className={cls("fields")}>
        <label className={cls("wide")}>
          <span>Laid one by one</span>
          <Form.Select
            size="sm"
            aria-label="Layout of units"
            value={courses?.bond ?? ""}
            onChange={(e) => {
              const bond = e.target.value as Courses["bond"] | "";
              put(
                bond
                  ? { courses: { ...BRICKS, ...courses, bond }, laying: surface.laying ?? laying }
                  : { courses: null },
                "Layout",
                true,
              );
            }}
          >
            <option value="">in one piece</option>
            {BONDS.map(([bond, name]) => (
              <option key={bond} value={bond}>
                {name}
              </option>
            ))}
          </Form.Select>
        </label>
      </div>
      {lies && (
        <>
          <LayingDrawing
            laying={laying}
            courses={courses ?? null}
            picture={shown && api.smallPicture(shown)}
            shape={shape}
            base={surface.base ?? [0.5, 0.5, 0.5]}
            lay={lay}
            build={build}
          />
          <div className={cls("fields")}>
            <label className={cls("wide")}>
              <span>Laid</span>
              <Form.Select
                size="sm"
                aria-label="How it is laid"
                value={surface.laying ? laying.by : courses ? "box" : "uv"}
                onChange={(e) => lay({ by: e.target.value as Laying["by"] }, "Laid", true)}
              >
                {WAYS.map(([by, name]) => (
                  <option key={by} value={by}>
                    {name}
                  </option>
                ))}
              </Form.Select>
            </label>
            {length("Length", "length_m", 0.001, 50)}
            {length(courses?.bond === "random" ? "Breadth" : "Height", "height_m", 0.001, 50)}
            {length("Joint", "joint_m", 0, 1)}
            {length("Joint lies back", "recess_m", 0, 0.2)}
            {share("Shade by unit", "shade")}
            {share("Uneven", "uneven")}
            {courses && (
              <>
                <label>
                  <span>Joint colour</span>
                  <input
                    type="color"
                    aria-label="Joint colour"
                    value={toHex(courses.joint_colour ?? BRICKS.joint_colour!)}
                    onChange={(e) => build({ joint_colour: fromHex(e.target.value) }, "Joint colour", "soon")}
                  />
                </label>
                <label>
                  <span>Other units</span>
                  <input
                    type="color"
                    aria-label="Colour that units tend to"
                    value={toHex(courses.tint ?? surface.base ?? [0.5, 0.5, 0.5])}
                    onChange={(e) => build({ tint: fromHex(e.target.value) }, "Other units", "soon")}
                  />
                </label>
              </>
            )}
            {shown && (
              <label>
                <span>
                  Tile <span className="quiet">m</span>
                </span>
                <NumberField
                  label="Width of a tile, m"
                  unit="m"
                  value={laying.tile_m ?? 1}
                  min={0.001}
                  max={1000}
                  step={0.05}
                  onChange={(v) => v !== null && lay({ tile_m: v }, "Tile", true)}
                />
              </label>
            )}
            <label>
              <span>
                Turn <span className="quiet">°</span>
              </span>
              <NumberField
                label="Turn of the layout, degrees"
                value={laying.turn_deg ?? 0}
                min={-360}
                max={360}
                step={5}
                onChange={(v) => v !== null && lay({ turn_deg: v }, "Turn", true)}
              />
            </label>
            {(["along", "up"] as const).map((way, k) => (
              <label key={way}>
                <span>
                  Shift {way} <span className="quiet">m</span>
                </span>
                <NumberField
                  label={`Shift ${way}, m`}
                  unit="m"
                  value={laying.shift_m?.[k] ?? 0}
                  step={0.01}
                  onChange={(v) => {
                    if (v === null) return;
                    const shift: [number, number] = [...(laying.shift_m ?? [0, 0])] as [number, number];
                    shift[k] = v;
                    lay({ shift_m: shift }, "Shift", true);
                  }}
                />
              </label>
            ))}
          </div>
        </>
      )}
    </>
  );
}

/** Height over width of a picture; 1 until it is known. */
function useShape(asset: string | null): number {
  const [shape, setShape] = useState(1);
  useEffect(() => {
    if (!asset) return setShape(1);
    const image = new Image();
    image.onload = () => setShape(image.naturalHeight / image.naturalWidth || 1);
    image.src = api.smallPicture(asset);
    return () => {
      image.onload = null;
    };
  }, [asset]);
  return shape;
}
