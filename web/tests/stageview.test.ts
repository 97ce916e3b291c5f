import { describe, expect, it } from "vitest";

import { LEAST, MOST, paced, readMesh } from "../src/stageview/mesh";

/** A mesh as the server packs it: two faces of a wall, and a pane. */
function packed(): ArrayBuffer {
  const names = new TextEncoder().encode(JSON.stringify(["wall", "window"]));
  const corners = [
    [0, 0, 0, 4, 0, 0, 4, 0, 3],
    [0, 0, 0, 4, 0, 3, 0, 0, 3],
    [1, 1, 1, 2, 1, 1, 2, 2, 1],
  ];
  const data = new ArrayBuffer(32 + 42 * 3 + names.length);
  new Float64Array(data, 0, 3).set([1000, 2000, 3]);
  new Uint32Array(data, 24, 2).set([3, names.length]);
  new Float32Array(data, 32, 27).set(corners.flat());
  new Uint8Array(data, 32 + 36 * 3, 12).set([200, 100, 50, 255, 200, 100, 50, 255, 90, 90, 90, 70]);
  new Uint16Array(data, 32 + 40 * 3, 3).set([0, 0, 1]);
  new Uint8Array(data, 32 + 42 * 3).set(names);
  return data;
}

describe("the mesh of the stage view", () => {
  const mesh = readMesh(packed());

  it("is read with its panes apart, about its own place", () => {
    expect(mesh.origin).toEqual([1000, 2000, 3]);
    expect(mesh.opaque.getAttribute("position").count).toBe(6);
    expect(mesh.panes.getAttribute("position").count).toBe(3);
    expect([mesh.objectOf(0), mesh.objectOf(1), mesh.objectOf(9)]).toEqual(["wall", "wall", ""]);
    expect(mesh.low[0]).toBeGreaterThanOrEqual(1000);
    expect(mesh.high[2]).toBeLessThanOrEqual(6);
  });

  it("is shaded by how its faces lie to the light, its hue kept", () => {
    const wall = mesh.opaque.getAttribute("color").array as Uint8Array;
    const [r, g, b] = wall;
    // A wall that faces south, under light from (-0.36, -0.48, 0.8).
    expect(r).toBe(Math.floor(200 * (0.52 + 0.48 * 0.48)));
    expect(r / g).toBeCloseTo(2, 1);
    expect(g / b).toBeCloseTo(2, 1);
  });

  it("of nothing is nothing", () => {
    const empty = new ArrayBuffer(34);
    new Uint32Array(empty, 24, 2).set([0, 2]);
    new Uint8Array(empty, 32).set([0x5b, 0x5d]);
    expect(readMesh(empty).opaque.getAttribute("position").count).toBe(0);
  });
});

describe("the pace of a movement", () => {
  it("finds what a machine draws in time", () => {
    for (const perTriangle of [0.00002, 0.004, 0.02]) {
      let triangles = 16_000;
      for (let k = 0; k < 60; k++) triangles = paced(triangles, 4 + perTriangle * triangles);
      expect(triangles).toBeGreaterThanOrEqual(LEAST);
      expect(triangles).toBeLessThanOrEqual(MOST);
      expect(4 + perTriangle * triangles <= 61 || triangles === LEAST).toBe(true);
      expect(4 + perTriangle * triangles >= 24 || triangles === MOST).toBe(true);
    }
  });
});
