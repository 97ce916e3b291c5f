import { describe, expect, it } from "vitest";

import type { Occasion, Plate, Project, Scene } from "../src/api/client";
import {
  asFactors,
  bands,
  type Light,
  percentOf,
  pulledTo,
  recalled,
  settingOf,
  settingsOfPlate,
  snapshotOf,
  withSettings,
} from "../src/balance/lights";

const occasion = {
  key: "dusk",
  sun: { level_stops: -20, size: 2 },
  sky: { model: "clear", level_stops: 0.5, picture: { asset: "a", background_stops: -1 } },
  levels: { Ceiling: 50, Shelves: 0 },
  surfaces_stops: 1,
  colours: { Ceiling: 2700 },
} as unknown as Occasion;
const light = (name: string, share: number, stops: number | null = 0): Light => ({
  name,
  share,
  stops,
  kelvin: null,
  own: null,
  colour: "#fff",
});

describe("what a light is set to", () => {
  it("is read from where an occasion keeps it", () => {
    expect(settingOf(occasion, "sun")).toEqual({ stops: null, kelvin: null });
    expect(settingOf(occasion, "sky").stops).toBe(0.5);
    expect(settingOf(occasion, "backdrop").stops).toBe(-1);
    expect(settingOf(occasion, "surfaces").stops).toBe(1);
    expect(settingOf(occasion, "Ceiling")).toEqual({ stops: -1, kelvin: 2700 });
    expect(settingOf(occasion, "Shelves").stops).toBeNull();
    expect(settingOf(occasion, "Pendants").stops).toBe(0);
  });

  it("is written there, and what was not set stays", () => {
    const patch = withSettings(occasion, {
      sun: { stops: 1, kelvin: 5000 },
      sky: { stops: null, kelvin: null },
      backdrop: { stops: 2, kelvin: null },
      surfaces: { stops: null, kelvin: null },
      Ceiling: { stops: null, kelvin: null },
      Pendants: { stops: 1, kelvin: null },
    });
    expect(patch.sun).toEqual({ level_stops: 1, size: 2 });
    expect(patch.sky).toMatchObject({
      model: "clear",
      level_stops: -20,
      picture: { asset: "a", background_stops: 2 },
    });
    expect(patch.surfaces_stops).toBe(-20);
    expect(patch.levels).toEqual({ Ceiling: 0, Shelves: 0, Pendants: 200 });
    expect(patch.colours).toEqual({ sun: 5000 });
    for (const name of ["sun", "sky", "backdrop", "surfaces", "Ceiling", "Pendants"])
      expect(settingOf({ ...occasion, ...patch } as Occasion, name).stops).toBe(
        { sun: 1, sky: null, backdrop: 2, surfaces: null, Ceiling: null, Pendants: 1 }[name],
      );
    // A draft that holds it already is still to be kept.
    expect(withSettings(occasion, { Ceiling: { stops: -1, kelvin: 2700 } })).toEqual({
      levels: occasion.levels,
      colours: occasion.colours,
    });
  });

  it("goes to the server as factors, and comes from a plate as they were", () => {
    const settings = { sun: { stops: -1, kelvin: null }, Ceiling: { stops: null, kelvin: 3000 } };
    const { levels, colours } = asFactors(settings);
    expect(levels).toEqual({ sun: 0.5, Ceiling: 0 });
    expect(colours).toEqual({ Ceiling: 3000 });
    const plate = { levels, colours } as unknown as Plate;
    expect(settingsOfPlate(plate, ["sun", "Ceiling", "sky"])).toEqual({
      ...settings,
      sky: { stops: 0, kelvin: null },
    });
  });
});

describe("a snapshot", () => {
  it("holds all lights and is recalled at another occasion", () => {
    const kept = snapshotOf("a", "A", [
      light("sun", 0.1, null),
      light("sky", 0.2, 1),
      { ...light("Ceiling", 1, -1), kelvin: 3000 },
    ]);
    expect(kept).toMatchObject({
      levels: { Ceiling: 50 },
      sun_stops: -20,
      sky_stops: 1,
      surfaces_stops: null,
      colours: { Ceiling: 3000 },
    });
    const project = { fixtures: [{ group: "Ceiling" }, { group: "Desk" }] } as unknown as Project;
    const patch = recalled(kept, project, {
      key: "o",
      levels: { Gone: 30 },
      sun: { size: 3 },
    } as unknown as Occasion);
    expect(patch).toMatchObject({
      levels: { Gone: 30, Ceiling: 50, Desk: 100 },
      sun: { size: 3, level_stops: -20 },
      sky: { level_stops: 1 },
      colours: { Ceiling: 3000 },
    });
    expect("surfaces_stops" in patch).toBe(false);
    const old = { key: "b", name: "B", levels: { Desk: 20 } } as unknown as Scene;
    expect(Object.keys(recalled(old, project, occasion))).toEqual(["levels"]);
  });
});

describe("the column of amounts", () => {
  it("gives every light that shines its share, the first lowest, and keeps the least in reach", () => {
    const lights = [light("sun", 0.6), light("sky", 0.4), light("off", 0, null), light("spark", 0.0001)];
    const made = bands(lights, 305);
    expect(made.map((b) => b.name)).toEqual(["sun", "sky", "spark"]);
    expect(made.reduce((all, b) => all + b.height, 0)).toBeCloseTo(305);
    expect(made[0].top + made[0].height).toBeCloseTo(305);
    expect(made[2].height).toBeGreaterThanOrEqual(5);
    expect((made[0].height - 5) / (made[1].height - 5)).toBeCloseTo(1.5);
  });
  it("turns a pull into stops: twice as tall is a stop more, half as tall one less", () => {
    expect(pulledTo(0, 40, 80)).toBe(1);
    expect(pulledTo(0.5, 40, 20)).toBe(-0.5);
    expect(pulledTo(0, 40, 4000)).toBe(2);
    expect(pulledTo(0, 40, -10)).toBe(-10);
    expect(percentOf(1)).toBe(200);
    expect(percentOf(null)).toBe(0);
  });
});
