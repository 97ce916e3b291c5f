import { Form } from "react-bootstrap";

import type { Look, Occasion, Plate, Project, Treatment, View } from "../api/client";
import { lookOf } from "../bench/steps";
import type { Hands } from "../bench/useBench";
import type { LiveHeader } from "../api/live";
import { type Done, useStore } from "../state/store";
import { Button } from "../ui/Button";
import { KeptMenu } from "../ui/KeptMenu";
import { Value } from "../ui/Value";
import { ToneCurve } from "./ToneCurve";

interface Props {
  slug: string;
  project: Project;
  view: View;
  occasion: Occasion;
  plate: Plate | null;
  header: LiveHeader | null;
  hands: Hands;
}

type Kind = Treatment["kind"];
type Numbers = Record<string, number | boolean | string | undefined>;

const NAMES: Record<NonNullable<Kind>, string> = {
  bloom: "Bloom",
  exposure: "Exposure",
  white_balance: "White balance",
  tone_curve: "Tone curve",
  contrast: "Contrast",
  saturation: "Saturation",
};

const FIELDS: Record<
  NonNullable<Kind>,
  [field: string, label: string, min: number, max: number, step: number, unit: string, normal: number][]
> = {
  bloom: [
    ["amount", "Amount", 0, 0.5, 0.01, "", 0.05],
    ["radius_percent", "Reach", 0.5, 12, 0.1, "%", 3],
  ],
  exposure: [["stops", "Stops", -4, 4, 0.05, "", 0]],
  white_balance: [
    ["kelvin", "White", 2000, 12000, 50, "K", 6500],
    ["tint", "Tint", -1, 1, 0.02, "", 0],
  ],
  tone_curve: [
    ["shoulder", "Shoulder", 0, 1, 0.02, "", 0.6],
    ["toe", "Toe", 0, 1, 0.02, "", 0.2],
    ["stops_above", "Holds", 0.5, 8, 0.1, "stops", 3],
  ],
  contrast: [["amount", "Amount", -1, 1, 0.02, "", 0]],
  saturation: [["amount", "Amount", -1, 1, 0.02, "", 0]],
};

/** The look: its treatments in order, each with a switch. */
export function Finish({ slug, project, view, occasion, plate, header, hands }: Props) {
  const commit = useStore((s) => s.commit);
  const look = lookOf(project, view, occasion.key);
  const looks = project.looks ?? [];
  const treatments = look.treatments ?? [];
  const used = (project.views ?? []).flatMap((v) =>
    (project.occasions ?? []).filter((o) => lookOf(project, v, o.key).key === look.key),
  ).length;
  const change = (index: number, patch: Numbers, label: string, done: Done) => {
    const next = treatments.map((t, k) => (k === index ? { ...t, ...patch } : t)) as Look["treatments"];
    hands.look(label, { ...look, treatments: next }, done);
  };
  const ownLook = async () => {
    const taken = new Set(looks.map((l) => l.key));
    let number = 2;
    while (taken.has(`${look.key}-${number}`)) number += 1;
    const key = `${look.key}-${number}`;
    await commit("A look of its own", [
      { part: "look", key, value: { ...look, key, name: `${look.name} ${number}` } },
      { part: "view", key: view.key, value: { ...view, look_at: { ...view.look_at, [occasion.key]: key } } },
    ]);
  };
  return (
    <>
      <h2>Finish</h2>
      <p className="lead">
        {plate
          ? "Changes show on the live picture; make a plate to keep them."
          : "From the linear picture to the print."}
      </p>
      <div className="value" style={{ gridTemplateColumns: "84px 1fr auto" }}>
        <label htmlFor="look">Look</label>
        <Form.Select
          id="look"
          size="sm"
          value={look.key}
          onChange={(e) =>
            hands.view("Choose look", { look_at: { ...view.look_at, [occasion.key]: e.target.value } }, true)
          }
        >
          {looks.map((l) => (
            <option key={l.key} value={l.key}>
              {l.name}
            </option>
          ))}
        </Form.Select>
        <KeptMenu
          slug={slug}
          part="look"
          items={looks}
          item={look}
          copied={(key) =>
            hands.view("Choose look", { look_at: { ...view.look_at, [occasion.key]: key } }, true)
          }
        />
      </div>
      {used > 1 && (
        <p className="quiet mb-1">
          Shared by {used} pictures.{" "}
          <Button
            variant="link"
            size="sm"
            className="p-0 align-baseline text-decoration-underline"
            onClick={() => void ownLook()}
          >
            Make one of its own
          </Button>
        </p>
      )}
      {treatments.map((t, index) => {
        const kind = t.kind!;
        const numbers = t as unknown as Numbers;
        return (
          <section key={kind + index} aria-label={NAMES[kind]}>
            <hr />
            <Form.Check
              type="switch"
              id={`treatment-${index}`}
              label={<b>{NAMES[kind]}</b>}
              checked={t.on !== false}
              onChange={(e) =>
                change(
                  index,
                  { on: e.target.checked },
                  `${NAMES[kind]} ${e.target.checked ? "on" : "off"}`,
                  true,
                )
              }
            />
            {kind === "tone_curve" && (
              <ToneCurve
                tone={{
                  shoulder: (numbers.shoulder as number) ?? 0.6,
                  toe: (numbers.toe as number) ?? 0.2,
                  stops_above: (numbers.stops_above as number) ?? 3,
                }}
                histogram={header?.histogram ?? null}
                lift={liftOf(treatments)}
                disabled={t.on === false}
                change={(patch, done) => change(index, { ...patch }, NAMES[kind], done)}
              />
            )}
            {FIELDS[kind].map(([field, label, min, max, step, unit, normal]) => (
              <Value
                key={field}
                label={label}
                value={(numbers[field] as number | undefined) ?? normal}
                min={min}
                max={max}
                step={step}
                unit={unit}
                kelvin={unit === "K"}
                disabled={t.on === false}
                onChange={(v, done) => change(index, { [field]: v }, NAMES[kind], done)}
              />
            ))}
          </section>
        );
      })}
    </>
  );
}

/** Stops by which the exposure treatments before the tone curve lift the picture. */
function liftOf(treatments: Treatment[]): number {
  const before = treatments.slice(
    0,
    treatments.findIndex((t) => t.kind === "tone_curve"),
  );
  return before.reduce((sum, t) => sum + (t.kind === "exposure" && t.on !== false ? (t.stops ?? 0) : 0), 0);
}
