import { describe, expect, it } from "vitest";

import type { CutOut, CutOutOffer, Project, View } from "../src/api/client";
import {
  along,
  copied,
  crowd,
  cutOutsAt,
  facing,
  movedTo,
  placed,
  type Point,
  turnOf,
} from "../src/compose/cutouts";
import { withChanges } from "../src/state/changes";

const view = { key: "v", name: "v", position: [0, -10, 1.6], target: [0, 0, 1.6] } as View;
const offer = (key: string): CutOutOffer => ({
  key,
  name: key,
  group: "People",
  made: { family: "person", parameters: {} },
  height_m: 1.7,
});
const project = { name: "p", cutouts: [] as CutOut[] } as unknown as Project;
const stood = (...places: Point[]): Project => {
  let now = project;
  for (const place of places)
    now = { ...now, cutouts: [...now.cutouts!, placed(now, view, offer("a"), place)] };
  return now;
};

describe("turns", () => {
  it("count from -Y, anticlockwise", () => {
    expect(turnOf(facing([0, 0, 0], [0, -1, 0]))).toBe(0);
    expect(turnOf(facing([0, 0, 0], [1, 0, 0]))).toBe(90);
    expect(turnOf(facing([0, 0, 0], [-1, 0, 0]))).toBe(-90);
    expect(Math.abs(turnOf(facing([0, 0, 0], [0, 1, 0])))).toBe(180);
  });
  it("stay within half a turn to either side", () => {
    for (const deg of [-720, -541, -180, 0, 179.6, 181, 360, 1000]) {
      expect(turnOf(deg)).toBeGreaterThanOrEqual(-180);
      expect(turnOf(deg)).toBeLessThanOrEqual(180);
      expect(Math.abs(Math.sin(((turnOf(deg) - deg) * Math.PI) / 180))).toBeLessThan(0.01);
    }
  });
});

describe("cut-outs", () => {
  it("have keys and names of their own, and look past the lens", () => {
    const now = stood([0, 0, 0], [1, 0, 0], [2, 0, 0]);
    expect(new Set(now.cutouts!.map((c) => c.key)).size).toBe(3);
    expect(now.cutouts!.map((c) => c.name)).toEqual(["a", "a 2", "a 3"]);
    expect(now.cutouts![0].turn_deg).toBe(35);
    expect(now.cutouts![0].view).toBe("v");
  });
  it("are there at their view and occasion alone", () => {
    const now = stood([0, 0, 0], [1, 0, 0]);
    now.cutouts![1] = { ...now.cutouts![1], hidden_at: ["noon"] };
    expect(cutOutsAt(now, "v", "noon")).toHaveLength(1);
    expect(cutOutsAt(now, "v", "night")).toHaveLength(2);
    expect(cutOutsAt(now, "w", "night")).toHaveLength(0);
  });
  it("move together by as much as the first, but for those that are locked", () => {
    const now = stood([0, 0, 0], [1, 2, 0], [5, 5, 0]);
    now.cutouts![2] = { ...now.cutouts![2], locked: true };
    const moved = withChanges(now, movedTo(now.cutouts!, [3, 1, 0.5]));
    expect(moved.cutouts!.map((c) => c.place)).toEqual([
      [3, 1, 0.5],
      [4, 3, 0.5],
      [5, 5, 0],
    ]);
    expect(movedTo([now.cutouts![2]], [0, 0, 0])).toEqual([]);
  });
  it("are copied aside under other names", () => {
    const now = stood([0, 0, 0]);
    const { changes, keys } = copied(now, now.cutouts!, [1, 0, 0]);
    const after = withChanges(now, changes);
    expect(after.cutouts!.map((c) => c.key)).toEqual([now.cutouts![0].key, keys[0]]);
    expect(after.cutouts![1].place).toEqual([0.8, 0, 0]);
    expect(after.cutouts![1].name).toBe("a 2");
  });
});

describe("a crowd", () => {
  it("stands evenly along its path, around corners too", () => {
    const spots = along(
      [
        [0, 0, 0],
        [10, 0, 0],
        [10, 6, 1],
      ],
      2,
    );
    expect(spots).toHaveLength(9);
    expect(spots.slice(0, 6).every((s) => s.turn === 90)).toBe(true);
    expect(Math.abs(turnOf(spots[8].turn))).toBe(180);
    expect(spots[8].place[2]).toBeCloseTo(1);
    for (const s of spots.slice(0, 6)) expect(Math.abs(s.place[1])).toBeLessThan(0.5);
  });
  it("needs a path", () => {
    expect(along([], 1)).toEqual([]);
    expect(along([[0, 0, 0]], 1)).toEqual([]);
    expect(
      along(
        [
          [1, 1, 0],
          [1, 1, 0],
        ],
        1,
      ),
    ).toEqual([]);
  });
  it("mixes those who walk, of whom half go back, in one group", () => {
    const path: Point[] = [
      [0, 0, 0],
      [0, 12, 0],
    ];
    const offers = ["a", "b", "c"].map(offer);
    const made = crowd(project, view, offers, path, 1, true).map((c) => c.value as CutOut);
    expect(made).toHaveLength(13);
    expect(new Set(made.map((c) => c.key)).size).toBe(13);
    expect(new Set(made.map((c) => c.group)).size).toBe(1);
    expect(new Set(made.map((c) => c.name.replace(/ \d+$/, ""))).size).toBe(3);
    const back = made.filter((c) => Math.abs(c.turn_deg!) < 90).length;
    expect(back).toBeGreaterThanOrEqual(5);
    expect(back).toBeLessThanOrEqual(8);
    expect(crowd(project, view, offers, path, 1, true)).toEqual(crowd(project, view, offers, path, 1, true));
  });
});
