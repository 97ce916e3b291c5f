import { describe, expect, it } from "vitest";

import type { Change, Project } from "../src/api/client";
import { asFine, touchTheSame, withChanges } from "../src/state/changes";

const project = {
  name: "Room",
  site: { place: "Here", latitude: 47.5, longitude: 8 },
  stage: { openings: [], surfaces: { floor: { base: [0.5, 0.5, 0.5] } } },
  views: [
    { key: "a", name: "A", position: [0, 0, 1], lens: { iso: 100 } },
    { key: "b", name: "B", position: [1, 0, 1], lens: { iso: 200 } },
  ],
  occasions: [{ key: "noon", name: "Noon", levels: { Ceiling: 0 }, when: "2026-06-21T12:00:00" }],
  fixtures: [],
} as unknown as Project;

const view = (p: Project, key: string) =>
  p.views!.find((v) => v.key === key) as unknown as Record<string, unknown>;

describe("changes laid over a project", () => {
  it("sets a field deep within and leaves all else the very same", () => {
    const next = withChanges(project, [{ part: "view", key: "a", at: ["lens", "iso"], value: 400 }]);
    expect(view(next, "a").lens).toEqual({ iso: 400 });
    expect(view(next, "b")).toBe(view(project, "b"));
    expect(next.stage).toBe(project.stage);
    expect(view(project, "a").lens).toEqual({ iso: 100 });
  });

  it("adds, takes away and moves parts", () => {
    const added = withChanges(project, [{ part: "view", key: "c", value: { key: "c", name: "C" } }]);
    expect(added.views!.map((v) => v.key)).toEqual(["a", "b", "c"]);
    const moved = withChanges(added, [{ part: "view", key: "c", place: 0 }]);
    expect(moved.views!.map((v) => v.key)).toEqual(["c", "a", "b"]);
    const gone = withChanges(moved, [{ part: "view", key: "a" }]);
    expect(gone.views!.map((v) => v.key)).toEqual(["c", "b"]);
  });

  it("takes a single field away, of a table and of a list", () => {
    const next = withChanges(project, [
      { part: "occasion", key: "noon", at: ["levels", "Ceiling"], away: true },
      { part: "view", key: "a", at: ["position", 1], away: true },
    ]);
    expect(next.occasions![0].levels).toEqual({});
    expect(view(next, "a").position).toEqual([0, 1]);
  });

  it("lets what leads nowhere be", () => {
    const next = withChanges(project, [
      { part: "view", key: "nobody", at: ["lens", "iso"], value: 1 },
      { part: "view", key: "nobody", place: 0 },
      { part: "plate", key: "7", at: ["note"], value: "x" },
    ]);
    expect(next).toEqual(project);
  });
});

describe("changes as fine as they can be told", () => {
  it("names only the fields that differ", () => {
    const whole = { ...view(project, "a"), name: "Other", lens: { iso: 100 } };
    expect(asFine(project, [{ part: "view", key: "a", value: whole }])).toEqual([
      { part: "view", key: "a", at: ["name"], value: "Other" },
    ]);
    expect(asFine(project, [{ part: "view", key: "a", value: view(project, "a") }])).toEqual([]);
  });

  it("keeps what is no table whole, and a new part too", () => {
    const made: Change = { part: "view", key: "c", value: { key: "c" } };
    expect(
      asFine(project, [made, { part: "name", value: "Room" }, { part: "name", value: "House" }]),
    ).toEqual([made, { part: "name", value: "House" }]);
  });

  it("says the same as the whole, whatever was changed", () => {
    const levels = [{}, { Ceiling: 5 }, { Ceiling: 0, "A group": 1 }, { Other: 3 }];
    for (const after of levels)
      for (const when of ["2026-06-21T12:00:00", "2026-01-01T00:00:00"]) {
        const value = { ...project.occasions![0], levels: after, when };
        const whole: Change[] = [{ part: "occasion", key: "noon", value }];
        const fine = asFine(project, whole);
        expect(fine.every((c) => (c.at?.length ?? 0) > 0)).toBe(true);
        expect(withChanges(project, fine)).toEqual(withChanges(project, whole));
      }
  });
});

describe("a run of the same", () => {
  it("is told by the fields, not by their values or their order", () => {
    const a: Change = { part: "view", key: "a", at: ["lens", "iso"], value: 1 };
    const b: Change = { part: "view", key: "a", at: ["name"], value: "x" };
    expect(touchTheSame([a, b], [b, { ...a, value: 9 }])).toBe(true);
    expect(touchTheSame([a], [{ ...a, key: "b" }])).toBe(false);
    expect(touchTheSame([a], [a, b])).toBe(false);
  });
});
