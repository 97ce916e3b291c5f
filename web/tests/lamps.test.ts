// @vitest-environment jsdom
import { describe, expect, it } from "vitest";

import type { Change, Fixture, Placement, Project } from "../src/api/client";
import { withLamps } from "../src/things/lamps";

const lamp = {
  key: "lamp",
  name: "Lamp",
  position: [1, 2, 0],
  turn_deg: 0,
  scale: 1,
  lamp: "bulb",
  made: { family: "x" },
};
const bulb = { key: "bulb", kind: "opal", position: [1.5, 2, 1.4], aim: [1.5, 2, 0.4], on: true };
const project = {
  placements: [lamp, { ...lamp, key: "chair", lamp: null }],
  fixtures: [bulb, { ...bulb, key: "other" }],
} as unknown as Project;
const set = (field: string, value: unknown, key = "lamp"): Change => ({
  part: "placement",
  key,
  at: [field],
  value,
});
const fixture = (at: string, value: unknown): Change => ({ part: "fixture", key: "bulb", at: [at], value });

describe("the fixture within a lamp", () => {
  it("goes along with it, its aim too", () => {
    const move = set("position", [2, 2, 0.5]);
    expect(withLamps(project, [move])).toEqual([
      move,
      fixture("position", [2.5, 2, 1.9]),
      fixture("aim", [2.5, 2, 0.9]),
    ]);
  });

  it("turns about it, and goes farther out where it grows, in one movement", () => {
    const changes = withLamps(project, [set("turn_deg", 90), set("scale", 2)]);
    expect(changes.slice(2)).toEqual([fixture("position", [1, 3, 2.8]), fixture("aim", [1, 3, 0.8])]);
    expect(withLamps(project, [set("mirrored", true)])[1]).toEqual(fixture("position", [0.5, 2, 1.4]));
  });

  it("is put out with it, taken away with it", () => {
    expect(withLamps(project, [set("hidden", true)])[1]).toEqual(fixture("on", false));
    const away: Change = { part: "placement", key: "lamp", value: null };
    expect(withLamps(project, [away])).toEqual([away, { part: "fixture", key: "bulb", value: null }]);
  });

  it("is another one in a copy, where that stands", () => {
    const value = { ...lamp, key: "lamp-2", position: [1.5, 2.5, 0] } as unknown as Placement;
    const [copy, made] = withLamps(project, [{ part: "placement", key: "lamp-2", value }]);
    const key = (copy.value as Placement).lamp!;
    expect(key).not.toBe("bulb");
    expect(made).toMatchObject({ part: "fixture", key, value: { kind: "opal", position: [2, 2.5, 1.4] } });
    expect((made.value as Fixture).key).toBe(key);
  });

  it("is left alone by what does not move it, and others are by all of it", () => {
    for (const change of [
      set("name", "Reading lamp"),
      set("position", [5, 5, 5], "chair"),
      { part: "placement", key: "chair", value: null } as Change,
      { part: "placement", key: "lamp", place: 1 } as Change,
      { part: "site", at: ["north_deg"], value: 3 } as Change,
    ])
      expect(withLamps(project, [change])).toEqual([change]);
    const none = { ...project, fixtures: [] } as Project;
    expect(withLamps(none, [set("position", [0, 0, 0])])).toHaveLength(1);
  });
});
