// @vitest-environment jsdom
import { describe, expect, it } from "vitest";

import type { Placement, Project, ThingLine } from "../src/api/client";
import { grouped, turned, withGroup } from "../src/things/groups";
import { copied } from "../src/things/placing";
import { footprint, footprintsOf, snapped } from "../src/things/snapping";
import { flagged, flagsOf, flagsRenamed } from "../src/things/TakesPart";

const thing = (key: string, some: Partial<Placement> = {}): Placement =>
  ({
    key,
    name: key,
    position: [0, 0, 0],
    turn_deg: 0,
    scale: 1,
    made: { family: "x" },
    ...some,
  }) as Placement;
const line = (key: string, half = 0.5): ThingLine =>
  ({ key, low: [-half, -half / 2, 0], high: [half, half / 2, 1], triangles: 12, count: 1 }) as ThingLine;

describe("what a thing fills from above", () => {
  it("turns and grows with it", () => {
    const turns = footprint(thing("a", { turn_deg: 90, scale: 2 }), line("a"));
    [-0.5, 0.5, -1, 1].forEach((v, k) => expect(turns[k]).toBeCloseTo(v, 9));
    const diagonal = footprint(thing("a", { turn_deg: 45 }), line("a"));
    expect(diagonal[1]).toBeCloseTo(0.75 * Math.SQRT1_2, 9);
  });

  it("is nothing to stand beside where it is hidden, repeated, huge, a model, or carried along", () => {
    const things = [
      thing("a", { position: [3, 1, 0] }),
      thing("b", { hidden: true }),
      thing("c", { repeat: { kind: "row", count: 2, step: [1, 0, 0] } }),
      thing("d"),
      thing("e", { made: null }),
      thing("f"),
    ];
    const lines = [line("a"), line("b"), line("c"), line("d", 40), line("e"), line("f")];
    expect(footprintsOf(things, lines, ["f"])).toEqual([[2.5, 3.5, 0.75, 1.25]]);
  });
});

describe("snapping", () => {
  const own = [-0.5, 0.5, -0.25, 0.25] as [number, number, number, number];
  //            a wall along y at x = 4, from y = 0 to 3
  const wall = [4, 0, 4, 3];

  it("puts an edge against a wall it stands beside, from either side", () => {
    expect(snapped([3.46, 1.02], own, wall, [])).toEqual([3.5, 1]);
    expect(snapped([4.55, 1.02], own, wall, [])).toEqual([4.5, 1]);
    // past the wall's end, and farther off than a hand is unsteady, only the grid counts
    expect(snapped([3.46, 3.6], own, wall, [])).toEqual([3.45, 3.6]);
    expect(snapped([3.39, 1], own, wall, [])).toEqual([3.4, 1]);
  });

  it("puts edges flush with other things, and middles in line", () => {
    const other: [number, number, number, number] = [2, 3, 1, 2];
    expect(snapped([1.46, 1.27], own, [], [other])).toEqual([1.5, 1.25]);
    expect(snapped([2.53, 0.72], own, [], [other])).toEqual([2.5, 0.75]);
    // far from it along the other axis it is nothing to line up with
    expect(snapped([2.53, -2.06], own, [], [other])).toEqual([2.55, -2.05]);
  });

  it("draws each axis to what is nearest, a wall that slants to nothing", () => {
    expect(snapped([3.47, 1], own, [...wall, 4.1, 0, 4.1, 3], [])[0]).toBe(3.5);
    expect(snapped([3.47, 1], own, [3.9, 0, 4.1, 3], [])[0]).toBe(3.45);
  });
});

describe("groups", () => {
  const things = [
    thing("a", { group: "g", position: [1, 1, 0] }),
    thing("b", { group: "g", position: [2, 1, 0.5], turn_deg: 170 }),
    thing("c", { position: [5, 5, 0] }),
  ];

  it("are taken in hand together, the one that was pressed first", () => {
    expect(withGroup(things, "b")).toEqual(["b", "a"]);
    expect(withGroup(things, "c")).toEqual(["c"]);
    expect(withGroup(things, "gone")).toEqual(["gone"]);
  });

  it("turn as one about the first; others each about itself", () => {
    const changes = turned(things.slice(0, 2), 90);
    expect(changes).toContainEqual({ part: "placement", key: "a", at: ["turn_deg"], value: 90 });
    expect(changes).toContainEqual({ part: "placement", key: "b", at: ["turn_deg"], value: -100 });
    expect(changes).toContainEqual({ part: "placement", key: "b", at: ["position"], value: [1, 2, 0.5] });
    expect(turned([things[2], things[0]], 15).every((c) => c.at![0] === "turn_deg")).toBe(true);
    expect(turned([thing("x", { locked: true })], 15)).toEqual([]);
  });

  it("are made under a key of their own, and undone", () => {
    const project = { placements: [thing("z", { group: "group" }), ...things] } as Project;
    expect(grouped(project, [things[2]], true)[0].value).toBe("group-2");
    expect(grouped(project, [things[0]], false)[0].value).toBeNull();
  });

  it("are groups of their own when they are copied", () => {
    const { changes } = copied({ placements: things } as Project, things);
    const groups = changes.map((c) => (c.value as Placement).group);
    expect(groups[0]).toBe(groups[1]);
    expect(groups[0]).not.toBe("g");
    expect(groups[2] ?? null).toBeNull();
  });
});

describe("how a thing takes part", () => {
  const flags = { ...flagsOf({} as Project, "x"), sends: false };
  const project = { stage: { objects: { card: flags } }, placements: [thing("card")] } as unknown as Project;

  it("is said by flags under its name, and by none where it is as ever", () => {
    expect(flagged(project, ["vase"], { seen: false })).toEqual([
      { part: "stage", at: ["objects", "vase"], value: { ...flags, sends: true, seen: false } },
    ]);
    expect(flagged(project, ["card"], { sends: true })).toEqual([
      { part: "stage", at: ["objects", "card"], away: true },
    ]);
    expect(flagged(project, ["vase"], { seen: true })).toEqual([]);
  });

  it("goes along with a new name and to copies, and stays with others of the old name", () => {
    expect(flagsRenamed(project, "card", "hills")).toEqual([
      { part: "stage", at: ["objects", "hills"], value: flags },
      { part: "stage", at: ["objects", "card"], away: true },
    ]);
    const two = { ...project, placements: [thing("card"), thing("b", { name: "card" })] } as Project;
    expect(flagsRenamed(two, "card", "hills")).toHaveLength(1);
    expect(flagsRenamed(project, "vase", "hills")).toEqual([]);
    const { changes } = copied(project, [thing("card")]);
    expect(changes[1]).toEqual({ part: "stage", at: ["objects", "card 2"], value: flags });
  });
});
