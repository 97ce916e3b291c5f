import { Form } from "react-bootstrap";

import type { Placement, Repeat } from "../api/client";
import type { Hands } from "../bench/useBench";
import { classesOf } from "../ui/classes";
import { Button } from "../ui/Button";
import { NumberField } from "../ui/NumberField";
import { useHand } from "./hand";
import { setField, takenApart } from "./placing";
import styles from "./things.module.css";

const cls = classesOf(styles);

interface Props {
  slug: string;
  thing: Placement;
  hands: Hands;
}

/** How often a thing stands: once, in a row, in a grid, along a line, or strewn over an outline drawn on the plan. */
export function Repeats({ slug, thing, hands }: Props) {
  const { outline, put } = useHand();
  const repeat = thing.repeat ?? null;
  const set = (value: Repeat | null) =>
    hands.changes(
      `How often ${thing.name} stands`.slice(0, 120),
      setField([thing], "repeat", () => value),
      true,
    );
  const patch = (some: Partial<Repeat>) => set({ ...repeat, ...some } as Repeat);
  const figure = (
    label: string,
    unit: string,
    value: number,
    [min, max, step]: [number, number, number],
    change: (v: number) => void,
  ) => (
    <label>
      <span>
        {label}
        {unit && <span className="quiet"> {unit}</span>}
      </span>
      <NumberField
        label={unit ? `${label}, ${unit}` : label}
        unit={unit}
        value={value}
        min={min}
        max={max}
        step={step}
        onChange={(v) => v !== null && change(v)}
      />
    </label>
  );
  const choose = (kind: string) => {
    if (kind === "once") set(null);
    else if (kind === "row") set({ kind: "row", count: 4, step: [1, 0, 0] });
    else if (kind === "grid") set({ kind: "grid", columns: 3, rows: 2, apart: [1, 1] });
    // A line and an area are drawn on the plan first.
    else put({ outline: [] });
  };
  return (
    <>
      <h3>How often it stands</h3>
      <Form.Select
        size="sm"
        aria-label="How often it stands"
        value={repeat?.kind ?? "once"}
        onChange={(e) => choose(e.target.value)}
      >
        <option value="once">once</option>
        <option value="row">in a row</option>
        <option value="grid">in a grid</option>
        {repeat?.kind === "along" && <option value="along">along a line</option>}
        <option value="strewn">strewn over an area, or along a line…</option>
      </Form.Select>
      {outline && (
        <p className={cls("drawing-hint")} role="note">
          Open the plan and press the corners of the area ({outline.length} so far).{" "}
          <Button
            size="sm"
            variant="outline-dark"
            disabled={outline.length < 3}
            onClick={() => {
              set({ ...STREWN, ...(repeat?.kind === "strewn" ? repeat : {}), outline });
              put({ outline: null });
            }}
          >
            Strew over it
          </Button>{" "}
          <Button
            size="sm"
            variant="outline-dark"
            disabled={outline.length < 2}
            onClick={() => {
              const z = thing.position![2];
              set({ kind: "along", points: outline.map(([x, y]) => [x, y, z]), spacing_m: 1, facing: true });
              put({ outline: null });
            }}
          >
            Along it
          </Button>{" "}
          <Button size="sm" variant="outline-dark" onClick={() => put({ outline: null })}>
            Leave it
          </Button>
        </p>
      )}
      {repeat?.kind === "row" && (
        <div className={cls("fields")}>
          {figure("How many", "", repeat.count ?? 3, [1, 2000, 1], (v) => patch({ count: Math.round(v) }))}
          {(["x", "y", "z"] as const).map((axis, k) => (
            <span key={axis} className={cls("contents")}>
              {figure(`Step in ${axis}`, "m", repeat.step![k], [-1000, 1000, 0.1], (v) =>
                patch({ step: repeat.step!.with(k, v) as [number, number, number] }),
              )}
            </span>
          ))}
        </div>
      )}
      {repeat?.kind === "grid" && (
        <div className={cls("fields")}>
          {figure("Columns", "", repeat.columns ?? 3, [1, 300, 1], (v) => patch({ columns: Math.round(v) }))}
          {figure("Rows", "", repeat.rows ?? 2, [1, 300, 1], (v) => patch({ rows: Math.round(v) }))}
          {figure("Columns apart", "m", repeat.apart![0], [-1000, 1000, 0.1], (v) =>
            patch({ apart: [v, repeat.apart![1]] }),
          )}
          {figure("Rows apart", "m", repeat.apart![1], [-1000, 1000, 0.1], (v) =>
            patch({ apart: [repeat.apart![0], v] }),
          )}
        </div>
      )}
      {repeat?.kind === "along" && (
        <div className={cls("fields")}>
          {figure("Every", "m", repeat.spacing_m ?? 1, [0.02, 1000, 0.1], (v) => patch({ spacing_m: v }))}
          <Form.Check
            type="switch"
            id="thing-facing"
            label="Turned with the line"
            checked={repeat.facing ?? true}
            onChange={(e) => patch({ facing: e.target.checked })}
          />
        </div>
      )}
      {repeat?.kind === "strewn" && (
        <div className={cls("fields")}>
          {figure("To the square metre", "", repeat.density_m2 ?? 0.1, [0.0001, 1000, 0.1], (v) =>
            patch({ density_m2: v }),
          )}
          {figure("No nearer than", "m", repeat.spacing_m ?? 0, [0, 1000, 0.1], (v) =>
            patch({ spacing_m: v }),
          )}
          {figure("Off the edge", "m", repeat.edge_m ?? 0, [0, 1000, 0.1], (v) => patch({ edge_m: v }))}
          {figure("Steepest ground", "°", repeat.steepest_deg ?? 45, [0, 90, 5], (v) =>
            patch({ steepest_deg: v }),
          )}
          {figure("Turned within", "°", repeat.turn_deg ?? 360, [0, 360, 15], (v) => patch({ turn_deg: v }))}
          {figure("Smallest", "times", repeat.size![0], [0.01, repeat.size![1], 0.05], (v) =>
            patch({ size: [v, repeat.size![1]] }),
          )}
          {figure("Largest", "times", repeat.size![1], [repeat.size![0], 100, 0.05], (v) =>
            patch({ size: [repeat.size![0], v] }),
          )}
          {figure("Another throw", "", repeat.seed ?? 1, [0, 10000, 1], (v) =>
            patch({ seed: Math.round(v) }),
          )}
          {(["on", "off"] as const).map((field) => (
            <label key={field}>
              <span>{field === "on" ? "Only on" : "Kept off"}</span>
              <input
                className="form-control form-control-sm"
                aria-label={field === "on" ? "Only on these objects" : "Kept off these objects"}
                placeholder="names, with commas"
                key={(repeat[field] ?? []).join(", ")}
                defaultValue={(repeat[field] ?? []).join(", ")}
                onBlur={(e) => {
                  const names = e.target.value
                    .split(",")
                    .map((n) => n.trim())
                    .filter(Boolean);
                  if (names.join() !== (repeat[field] ?? []).join()) patch({ [field]: names });
                }}
                onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
              />
            </label>
          ))}
        </div>
      )}
      {repeat && repeat.kind !== "strewn" && (
        <Button size="sm" variant="outline-dark" onClick={() => void takenApart(slug, thing.key)}>
          Make them independent
        </Button>
      )}
    </>
  );
}

const STREWN: Extract<Repeat, { kind: "strewn" }> = {
  kind: "strewn",
  outline: [],
  density_m2: 0.2,
  spacing_m: 0,
  seed: 1,
  steepest_deg: 45,
  turn_deg: 360,
  size: [0.8, 1.2],
  edge_m: 0,
  on: [],
  off: [],
  off_m: 0.5,
};
