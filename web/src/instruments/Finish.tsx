import { Form } from "react-bootstrap";

import type { Occasion, Plate, Project, Treatment, TreatmentLine, View } from "../api/client";
import { lookOf } from "../bench/steps";
import type { Hands } from "../bench/useBench";
import type { LiveHeader } from "../api/live";
import { type Done, useStore } from "../state/store";
import { Button } from "../ui/Button";
import { KeptMenu } from "../ui/KeptMenu";
import { Value } from "../ui/Value";
import { ToneCurve } from "./ToneCurve";
import { changedTreatments, inOrder } from "./treatments";
import { useTreatments } from "./useTreatments";

interface Props {
  slug: string;
  project: Project;
  view: View;
  occasion: Occasion;
  plate: Plate | null;
  header: LiveHeader | null;
  hands: Hands;
}

type Numbers = Record<string, number | boolean | string | undefined>;

/** The look: its treatments in order, each with a switch. */
export function Finish({ slug, project, view, occasion, plate, header, hands }: Props) {
  const commit = useStore((s) => s.commit);
  const look = lookOf(project, view, occasion.key);
  const looks = project.looks ?? [];
  const treatments = look.treatments ?? [];
  const used = (project.views ?? []).flatMap((v) =>
    (project.occasions ?? []).filter((o) => lookOf(project, v, o.key).key === look.key),
  ).length;
  const kinds = useTreatments();
  const change = (kind: TreatmentLine, patch: Numbers, label: string, done: Done) =>
    hands.look(label, { ...look, treatments: changedTreatments(kinds, treatments, kind, patch) }, done);
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
      {inOrder(kinds, treatments).map(([kind, t]) => {
        const numbers = { ...kind.at_first, on: false, ...t } as Numbers;
        const off = numbers.on === false;
        return (
          <section key={kind.kind} aria-label={kind.title}>
            <hr />
            <Form.Check
              type="switch"
              id={`treatment-${kind.kind}`}
              label={<b>{kind.title}</b>}
              title={kind.about}
              checked={!off}
              onChange={(e) =>
                change(
                  kind,
                  { on: e.target.checked },
                  `${kind.title} ${e.target.checked ? "on" : "off"}`,
                  true,
                )
              }
            />
            {kind.kind === "tone_curve" && (
              <ToneCurve
                treatment={numbers as unknown as Treatment}
                numbers={kind.numbers}
                histogram={header?.histogram ?? null}
                lift={liftOf(treatments)}
                disabled={off}
                change={(patch, done) => change(kind, { ...patch }, kind.title, done)}
              />
            )}
            {kind.numbers.map(({ field, label, low, high, step, unit }) => (
              <Value
                key={field}
                label={label}
                value={numbers[field] as number}
                min={low}
                max={high}
                step={step}
                unit={unit}
                kelvin={unit === "K"}
                disabled={off}
                onChange={(v, done) => change(kind, { [field]: v }, kind.title, done)}
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
