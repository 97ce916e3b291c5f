import { Form } from "react-bootstrap";

import type { Fixture, Occasion, Project } from "../api/client";
import type { Hands } from "../bench/useBench";
import { useKinds } from "../plan/useKinds";
import type { Done } from "../state/store";
import { Button } from "../ui/Button";
import { Value } from "../ui/Value";
import { PolarCurve } from "./PolarCurve";

interface Props {
  slug: string;
  project: Project;
  occasion: Occasion;
  hands: Hands;
  selected: string | null;
  select: (key: string | null) => void;
  openPlan: () => void;
}

/** One fixture: its profile, flux, level, colour and aim; or the list of groups when none is chosen. */
export function Fixtures({ slug, project, occasion, hands, selected, select, openPlan }: Props) {
  const kinds = useKinds(slug, project);
  const fixtures = project.fixtures ?? [];
  const fixture = fixtures.find((f) => f.key === selected);
  if (!fixture) return <Groups {...{ project, occasion, hands, select, openPlan }} />;
  const figures = kinds.find((k) => k.kind.key === fixture.kind);
  const name = (project.kinds ?? []).find((k) => k.key === fixture.kind)?.name ?? fixture.kind;
  const change = (label: string, patch: Partial<Fixture>, done: Done) =>
    hands.fixtures(label, [{ ...fixture, ...patch }], done);
  const both = (label: string, make: (v: number) => Partial<Fixture>) => ({
    onChange: (v: number, done: Done) => change(label, make(v), done),
  });
  const own = figures?.lumens ?? 1000;
  const kelvin = fixture.kelvin ?? figures?.kind.kelvin ?? 3000;
  const at = (point: readonly number[], axis: number, v: number) =>
    point.map((old, k) => (k === axis ? v : old)) as [number, number, number];
  const percentText = (v: number) => `${Math.round(v)} %`;
  const readPercent = (t: string) => {
    const n = Number(t.replace("%", "").trim());
    return t.trim() !== "" && Number.isFinite(n) ? n : null;
  };
  return (
    <>
      <div className="d-flex align-items-baseline justify-content-between">
        <h2>{name}</h2>
        <Button variant="link" size="sm" onClick={() => select(null)}>
          all fixtures
        </Button>
      </div>
      <p className="lead">
        {fixture.key}, group {fixture.group}
      </p>
      {figures && (
        <>
          <p className="number quiet mb-1">
            beam {figures.beam_deg.map((b) => Math.round(b)).join("° × ")}°, field{" "}
            {figures.field_deg.map((b) => Math.round(b)).join("° × ")}°, flux {Math.round(figures.lumens)} lm
          </p>
          <PolarCurve figures={figures} />
          {figures.warnings.map((w) => (
            <p key={w} className="error-text mb-1">
              {w}
            </p>
          ))}
        </>
      )}
      <Form.Check
        type="switch"
        id="fixture-on"
        label="On"
        checked={fixture.on !== false}
        onChange={(e) => change("Switch fixture", { on: e.target.checked }, true)}
      />
      <Value
        label="Flux"
        value={fixture.lumens ?? own}
        min={1}
        max={50000}
        step={10}
        unit="lm"
        log
        format={(v) => `${Math.round(v)} lm`}
        {...both("Flux", (v) => ({ lumens: v }))}
      />
      <Value
        label="Level"
        value={fixture.percent ?? 100}
        min={0}
        max={400}
        step={1}
        format={percentText}
        parse={readPercent}
        {...both("Level", (v) => ({ percent: v }))}
      />
      <Value
        label="Colour"
        value={kelvin}
        min={1800}
        max={10000}
        step={50}
        unit="K"
        kelvin
        format={(v) => `${Math.round(v)} K`}
        {...both("Colour temperature", (v) => ({ kelvin: Math.round(v) }))}
      />
      <Value
        label="Turn"
        value={fixture.turn_deg ?? 0}
        min={-180}
        max={180}
        step={1}
        unit="°"
        {...both("Turn fixture", (v) => ({ turn_deg: v }))}
      />
      <h3>Place, in metres</h3>
      {["X", "Y", "Height"].map((label, axis) => (
        <Value
          key={label}
          label={label}
          value={fixture.position[axis]}
          min={-200}
          max={200}
          step={0.05}
          unit="m"
          {...both("Move fixture", (v) => ({ position: at(fixture.position, axis, v) }))}
        />
      ))}
      <h3>Aim, in metres</h3>
      {["X", "Y", "Height"].map((label, axis) => (
        <Value
          key={label}
          label={label}
          value={fixture.aim[axis]}
          min={-200}
          max={200}
          step={0.05}
          unit="m"
          {...both("Aim fixture", (v) => ({ aim: at(fixture.aim, axis, v) }))}
        />
      ))}
      <div className="row-actions">
        <Button
          size="sm"
          variant="outline-dark"
          onClick={() => {
            const alike = fixtures.filter((f) => f.kind === fixture.kind);
            hands.fixtures(
              `All ${name} alike`,
              alike.map((f) => ({
                ...f,
                lumens: fixture.lumens,
                percent: fixture.percent,
                kelvin: fixture.kelvin,
                on: fixture.on,
              })),
              true,
            );
          }}
        >
          All of this kind alike
        </Button>
        <Button
          size="sm"
          variant="outline-dark"
          onClick={() => {
            hands.changes("Take fixture away", [{ part: "fixture", key: fixture.key, value: null }], true);
            select(null);
          }}
        >
          Take away
        </Button>
      </div>
    </>
  );
}

function Groups({ project, occasion, hands, select, openPlan }: Omit<Props, "slug" | "selected">) {
  const fixtures = project.fixtures ?? [];
  const groups = [...new Set(fixtures.map((f) => f.group ?? "Fixtures"))];
  return (
    <>
      <h2>Fixtures</h2>
      <p className="lead">
        {fixtures.length === 0
          ? "None yet. Open the ceiling plan, choose a kind and click where it hangs."
          : `${fixtures.length} in ${groups.length} groups. Choose one here or on the plan.`}
      </p>
      {groups.map((group) => {
        const level = occasion.levels?.[group] ?? 100;
        const members = fixtures.filter((f) => (f.group ?? "Fixtures") === group);
        return (
          <div key={group} className="d-flex align-items-center gap-2 py-1 border-bottom">
            <Form.Check
              type="switch"
              aria-label={`${group} on`}
              checked={level > 0}
              onChange={(e) =>
                hands.occasion(
                  `Switch ${group}`,
                  { levels: { ...occasion.levels, [group]: e.target.checked ? 100 : 0 } },
                  true,
                )
              }
            />
            <Button
              variant="link"
              size="sm"
              className="flex-grow-1 text-start"
              onClick={() => select(members[0].key)}
            >
              {group}
            </Button>
            <span className="number quiet">
              {members.length} · {Math.round(level)} %
            </span>
          </div>
        );
      })}
      <div className="row-actions">
        <Button variant="outline-dark" onClick={openPlan}>
          Open the ceiling plan
        </Button>
      </div>
    </>
  );
}
