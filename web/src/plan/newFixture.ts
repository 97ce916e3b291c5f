import type { Fixture, FixtureKind, Project } from "../api/client";

const HEIGHTS = { ceiling: 2.6, wall: 2.0, table: 1.15, pole: 3.1 };

/** A fixture of a kind at a place, with a free key, in the group of others of its kind, hung as high as they are. */
export function newFixture(project: Project, kind: FixtureKind, x: number, y: number, z?: number): Fixture {
  const all = project.fixtures ?? [];
  const taken = new Set(all.map((f) => f.key));
  let number = 1;
  while (taken.has(`${kind.key}-${number}`.slice(0, 64))) number += 1;
  const like = all.filter((f) => f.kind === kind.key);
  const near = like.sort((a, b) => dist(a, x, y) - dist(b, x, y))[0];
  const height = z ?? near?.position[2] ?? HEIGHTS[kind.mounting ?? "ceiling"];
  const round = (v: number) => Math.round(v * 1000) / 1000;
  return {
    key: `${kind.key}-${number}`.slice(0, 64),
    kind: kind.key,
    group: near?.group ?? kind.name,
    position: [round(x), round(y), round(height)],
    aim: [round(x), round(y), round(Math.min(0, height - 1))],
    turn_deg: near?.turn_deg ?? 0,
    lumens: null,
    percent: 100,
    kelvin: null,
    on: true,
    beam: 0,
    lights_only: [],
  };
}

function dist(f: Fixture, x: number, y: number): number {
  return Math.hypot(f.position[0] - x, f.position[1] - y);
}
