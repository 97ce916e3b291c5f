import { describe, expect, it } from "vitest";

import type { LuxGrid, ObjectLine, PlanDrawing, Project } from "../src/api/client";
import { lensForEv } from "../src/bench/exposure";
import { contour } from "../src/plan/contours";
import { home, keptInSight, objectsNear, wallsNear } from "../src/plan/snapping";

function grid(columns: number, rows: number, step: number, of: (x: number, y: number) => number): LuxGrid {
  const lux = Array.from({ length: columns * rows }, (_, k) =>
    of((k % columns) * step, Math.floor(k / columns) * step),
  );
  return { columns, rows, step_m: step, x0: 0, y0: 0, lux } as unknown as LuxGrid;
}

const ends = (path: string) =>
  [...path.matchAll(/[ML]([-\d.]+) ([-\d.]+)/g)].map((m) => [Number(m[1]), -Number(m[2])]);

describe("contours of a grid", () => {
  it("lie on the circle where light falls with the distance", () => {
    const g = grid(41, 41, 0.1, (x, y) => 100 - 20 * Math.hypot(x - 2, y - 2));
    const points = ends(contour(g, 70));
    expect(points.length).toBeGreaterThan(40);
    for (const [x, y] of points) expect(Math.hypot(x - 2, y - 2)).toBeCloseTo(1.5, 1);
  });

  it("are straight where light rises evenly, and close up where a pole stands alone", () => {
    for (const [x] of ends(
      contour(
        grid(5, 4, 1, (x) => 10 * x),
        25,
      ),
    ))
      expect(x).toBe(2.5);
    const pole = ends(
      contour(
        grid(3, 3, 1, (x, y) => (x === 1 && y === 1 ? 10 : 0)),
        5,
      ),
    );
    expect(pole).toHaveLength(5); // one line, closed
    for (const [x, y] of pole) expect(Math.abs(x - 1) + Math.abs(y - 1)).toBeCloseTo(0.5, 9);
  });

  it("are none where no light crosses the level", () => {
    expect(
      contour(
        grid(4, 4, 1, () => 5),
        5,
      ),
    ).toBe("");
    expect(
      contour(
        grid(4, 4, 1, () => 5),
        3,
      ),
    ).toBe("");
  });

  it("are two lines across a saddle", () => {
    const saddle = ends(
      contour(
        grid(2, 2, 1, (x, y) => (x === y ? 10 : 0)),
        5,
      ),
    );
    expect(saddle).toHaveLength(4);
  });
});

// A room of 4 x 3 m: walls as segments x1, y1, x2, y2.
const plan = {
  low: [-10, -10],
  high: [10, 10],
  segments: [0, 0, 4, 0, 4, 0, 4, 3, 4, 3, 0, 3, 0, 3, 0, 0, 1, 1, 1, 1.1],
} as unknown as PlanDrawing;

describe("what the pointer is drawn to", () => {
  it("is a wall near by that runs along the other axis", () => {
    expect(wallsNear(plan, [0.2, 1.5], 0, 0.3)).toEqual([0]);
    expect(wallsNear(plan, [2, 2.9], 1, 0.3)).toEqual([3]);
    expect(wallsNear(plan, [2, 1.5], 0, 0.3)).toEqual([]);
  });

  it("is no stub, and no wall that ends before", () => {
    expect(wallsNear(plan, [1.05, 1.05], 0, 0.3)).toEqual([]);
    expect(wallsNear(plan, [0.1, 5], 0, 0.3)).toEqual([]);
  });

  it("is the middle of furniture it lies over, but not of a house", () => {
    const table = { low: [1, 1, 0], high: [3, 2, 0.75] } as unknown as ObjectLine;
    const house = { low: [-5, -5, 0], high: [5, 5, 3] } as unknown as ObjectLine;
    expect(objectsNear([table, house], [1.2, 1.1], 0)).toEqual([2]);
    expect(objectsNear([table, house], [1.2, 1.1], 1)).toEqual([1.5]);
    expect(objectsNear([table], [0.5, 0.5], 0)).toEqual([]);
  });
});

const at = (key: string, x: number, y: number, z: number, group = "Reading") => ({
  key,
  kind: "spot",
  group,
  position: [x, y, z],
  aim: [x, y, 0],
  turn_deg: 30,
});

describe("the plan at first", () => {
  it("frames the fixtures, without the outliers of many, else the drawing", () => {
    expect(home(plan, { fixtures: [] } as unknown as Project)).toEqual([-10, -10, 20, 20]);
    const row = Array.from({ length: 10 }, (_, k) => at(`f${k}`, k, 0, 2.5));
    const [x, , width] = home(plan, { fixtures: [...row, at("far", 500, 0, 2.5)] } as unknown as Project);
    expect(x).toBe(-2);
    expect(width).toBeLessThan(20);
  });
});

describe("the lens for an exposure value", () => {
  // EV = log2(N^2 / t) - log2(S / 100), ISO 2720.
  const ev = (f: number, lens: { shutter_s?: number; iso?: number }) =>
    Math.log2((f * f) / lens.shutter_s!) - Math.log2(lens.iso! / 100);

  it("has that value, whatever the f-number", () => {
    for (const f of [1.4, 8, 22])
      for (const wanted of [2, 7.5, 15])
        expect(ev(f, lensForEv({ f_number: f, iso: 100, shutter_s: 1 } as never, wanted))).toBeCloseTo(
          wanted,
          9,
        );
  });

  it("raises the speed before the shutter is longer than half a second, as far as speeds go", () => {
    expect(lensForEv({ f_number: 8, iso: 100, shutter_s: 1 } as never, 5).iso).toBe(400);
    expect(lensForEv({ f_number: 22, iso: 100, shutter_s: 1 } as never, -6)).toMatchObject({ iso: 6400 });
    expect(lensForEv(undefined, -40).shutter_s).toBe(3600);
  });
});

describe("a place on the plan that is walked to", () => {
  // A frame of 20 by 10 m whose y runs downwards.
  const frame: [number, number, number, number] = [-10, -5, 20, 10];

  it("leaves the frame where it is while it is well inside", () => {
    expect(keptInSight(frame, [0, 0])).toEqual(frame);
    expect(keptInSight(frame, [8, -4])).toEqual(frame);
  });

  it("takes the frame along at its edges, on each side", () => {
    for (const [x, y] of [
      [30, 0],
      [-30, 0],
      [0, 12],
      [0, -12],
    ] as const) {
      const [left, top, width, height] = keptInSight(frame, [x, y]);
      expect([width, height]).toEqual([20, 10]);
      expect(x).toBeGreaterThan(left);
      expect(x).toBeLessThan(left + width);
      expect(-y).toBeGreaterThan(top);
      expect(-y).toBeLessThan(top + height);
    }
  });
});
