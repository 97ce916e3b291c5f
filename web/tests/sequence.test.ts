import { describe, expect, it } from "vitest";

import type { CourseMoment, Project, Run, Sequence, Station, View } from "../src/api/client";
import { ahead, begun, boxOf, momentAt, moved, stationOf, withStation } from "../src/sequence/edits";
import { frameAt, secondOf } from "../src/sequence/times";

const view = { key: "hall", name: "Hall", position: [1, 2, 1.5], target: [1, 12, 1.5], focal_mm: 24 } as View;
const project = { name: "p", sequences: [] as Sequence[] } as unknown as Project;
const moment = (second: number, x: number): CourseMoment => ({
  second,
  position: [x, 0, 1.5],
  target: [x, 10, 1.5],
  focal_mm: 24,
  speed_m_s: 0,
  when: "2026-06-21T12:00:00",
  altitude_deg: 60,
  azimuth_deg: 180,
  levels: {},
});

describe("a new sequence", () => {
  it("goes forward from the lens of its view, on the level", () => {
    const made = begun(project, view, "noon");
    expect(made.stations!.map((s) => s.position)).toEqual([
      [1, 2, 1.5],
      [1, 3.5, 1.5],
    ]);
    expect(made.stations![1].target).toEqual([1, 13.5, 1.5]);
    expect([made.view, made.occasion, made.key]).toEqual(["hall", "noon", "hall"]);
  });
  it("has a name and a key of its own", () => {
    const taken = { ...project, sequences: [begun(project, view, "noon")] } as Project;
    const second = begun(taken, view, "noon");
    expect([second.name, second.key]).toEqual(["Hall 2", "hall-2"]);
  });
  it("looks down a slope without going down it", () => {
    const down: Station = { position: [0, 0, 2], target: [3, 4, 0], focal_mm: 20, rest_s: 0 };
    expect(ahead(down, 5).position).toEqual([3, 4, 2]);
    expect(ahead(down, 5).target).toEqual([6, 8, 0]);
  });
});

describe("stations", () => {
  const stations = [stationOf(moment(0, 0)), stationOf(moment(4, 8))];
  const sequence = { ...begun(project, view, "noon"), stations };
  it("come between those before and after a moment", () => {
    const made = withStation(sequence, moment(1, 2), [0, 4]);
    expect(made.stations!.map((s) => s.position[0])).toEqual([0, 2, 8]);
  });
  it("go on from the last at the end", () => {
    const made = withStation(sequence, moment(4, 8), [0, 4]);
    expect(made.stations!.map((s) => s.position)).toEqual([
      [0, 0, 1.5],
      [8, 0, 1.5],
      [8, 1.5, 1.5],
    ]);
  });
  it("begin a path where there was none", () => {
    expect(withStation({ ...sequence, stations: [] }, moment(0, 3), []).stations).toHaveLength(2);
  });
  it("that are moved look on as before, and turned they stay", () => {
    const [first] = moved(stations, [0, "position"], [1, 1]);
    expect([first.position, first.target]).toEqual([
      [1, 1, 1.5],
      [1, 11, 1.5],
    ]);
    const [, second] = moved(stations, [1, "target"], [0, 5]);
    expect([second.position, second.target]).toEqual([
      [8, 0, 1.5],
      [0, 5, 1.5],
    ]);
  });
});

describe("the plan", () => {
  it("shows the path with room about it, and never less than a room", () => {
    const [x, y, w, h] = boxOf([
      [0, 0],
      [20, 0],
    ]);
    expect([x, w]).toEqual([-3, 26]);
    expect(h / w).toBeCloseTo(0.8);
    expect(y).toBeCloseTo(-h / 2);
    expect(boxOf([[5, 5]])[2]).toBe(9);
    const tall = boxOf([
      [0, 0],
      [0, 40],
    ]);
    expect(tall[3]).toBeCloseTo(46);
  });
});

describe("time", () => {
  it("goes evenly over the frames", () => {
    expect([0, 71, 143].map((n) => secondOf(6, 144, n))).toEqual([0, (6 * 71) / 143, 6]);
    expect(secondOf(1, 1, 0)).toBe(0);
  });
  it("finds the made frame next to a moment", () => {
    const run = { numbers: [0, 2, 4, 6, 8], made: [0, 2, 8] } as Run;
    expect([0, 0.3, 0.6, 0.7, 1].map((s) => run.made[frameAt(run, s)])).toEqual([0, 2, 2, 8, 8]);
    expect(frameAt({ numbers: [0, 1], made: [] as number[] } as Run, 0.5)).toBe(-1);
  });
  it("finds the moment next to a second", () => {
    expect(momentAt([moment(0, 0), moment(1, 1), moment(2, 4)], 1.4)!.second).toBe(1);
    expect(momentAt([], 1)).toBeUndefined();
  });
});
