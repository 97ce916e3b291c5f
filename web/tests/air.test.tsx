// @vitest-environment jsdom
import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import { moved } from "../src/air/FogDrawing";
import { boxMoved, densityAt, fallThrough, lengthText, sideMoved } from "../src/air/fog";
import { GroundProfile } from "../src/air/GroundProfile";
import { LeafStrip } from "../src/air/LeafStrip";
import { Recipes } from "../src/air/Recipes";
import { WindDial } from "../src/air/WindDial";
import { api, type Air, type Weather } from "../src/api/client";
import type { Hands } from "../src/bench/useBench";
import { stateOf } from "../src/bench/steps";
import { plantingOf } from "../src/instruments/Yearline";
import { queries } from "../src/state/server";
import { noon, project } from "./room";

beforeEach(() => queries.clear());
afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

const box = {
  extent: "box",
  low: [0, 0, 0],
  high: [4, 3, 2],
  base_height_m: 0.5,
  fall_m: 2,
} as unknown as Air;

describe("the box of the fog", () => {
  it("is brought by its sides, never past the side across", () => {
    expect(sideMoved(box, 0, "low", 1.234)).toEqual({ low: [1.23, 0, 0], high: [4, 3, 2] });
    expect(sideMoved(box, 0, "low", 9).low![0]).toBeCloseTo(3.9);
    expect(sideMoved(box, 2, "high", -5).high![2]).toBeCloseTo(0.1);
  });
  it("is moved as a whole", () => {
    expect(boxMoved(box, [1, -1, 0])).toEqual({ low: [1, -1, 0], high: [5, 2, 2] });
    expect(moved(box, "all", [3, 2], [1, 1], undefined)).toEqual({ low: [2, 1, 0], high: [6, 4, 2] });
  });
  it("is set by its grips in plan and section", () => {
    expect(moved(box, "east", [7, 0], [0, 0], undefined).high).toEqual([7, 3, 2]);
    expect(moved(box, "south", [0, -2], [0, 0], undefined).low).toEqual([0, -2, 0]);
    expect(moved(box, "roof", [0, 5], [0, 0], undefined).high).toEqual([4, 3, 5]);
    expect(moved(box, "base", [0, 1.237], [0, 0], undefined)).toEqual({ base_height_m: 1.24 });
  });
});

describe("density by height", () => {
  it("is even up to its base, falls above it, and ends with its box", () => {
    expect(densityAt(box, 0.2)).toBe(1);
    expect(densityAt(box, 1.5)).toBeCloseTo(Math.exp(-0.5));
    expect(densityAt(box, 2.5)).toBe(0);
    expect(densityAt({ ...box, extent: "everywhere" }, 2.5)).toBeCloseTo(Math.exp(-1));
    expect(densityAt({ ...box, fall_m: null }, 1.9)).toBe(1);
  });
  it("is bent to pass through a place", () => {
    const fall = fallThrough(box, 3, 0.4)!;
    expect(densityAt({ ...box, extent: "everywhere", fall_m: fall }, 3)).toBeCloseTo(0.4, 2);
    expect(fallThrough(box, 3, 0.99)).toBeNull();
    expect(fallThrough(box, 0.5, 0.4)).toBeNull();
    expect(moved(box, "fall", [0.4, 3], [0, 0], (a) => a).fall_m).toBe(fall);
  });
});

it("sight is told in metres or kilometres", () => {
  expect(lengthText(70.83)).toBe("70.8 m");
  expect(lengthText(2612)).toBe("2.61 km");
});

const dry = {} as Weather;

describe("the profile of the ground", () => {
  it("takes snow and puddles by keys, and what has puddles is wet", () => {
    const set = vi.fn();
    render(<GroundProfile weather={dry} set={set} />);
    fireEvent.keyDown(screen.getByRole("slider", { name: "Depth of the snow" }), {
      key: "ArrowUp",
      shiftKey: true,
    });
    expect(set.mock.lastCall![1].snow.depth_cm).toBe(10);
    fireEvent.keyDown(screen.getByRole("slider", { name: "Puddles" }), { key: "ArrowUp" });
    expect(set.mock.lastCall![1].rain).toMatchObject({ puddles: 0.05, wet: 0.6 });
  });
  it("never goes below nothing", () => {
    const set = vi.fn();
    render(<GroundProfile weather={dry} set={set} />);
    fireEvent.keyDown(screen.getByRole("slider", { name: "Depth of the snow" }), { key: "ArrowDown" });
    expect(set.mock.lastCall![1].snow.depth_cm).toBe(0);
  });
});

it("the wind is turned and quickened by keys", () => {
  const set = vi.fn();
  render(<WindDial wind={{ speed_m_s: 3, from_deg: 358 }} set={set} />);
  const dial = screen.getByRole("slider", { name: "Wind" });
  expect(dial.getAttribute("aria-valuetext")).toBe("3 m/s from 358°");
  fireEvent.keyDown(dial, { key: "ArrowRight" });
  expect(set).toHaveBeenLastCalledWith({ speed_m_s: 3, from_deg: 3 }, "soon");
  fireEvent.keyDown(dial, { key: "ArrowUp" });
  expect(set).toHaveBeenLastCalledWith({ speed_m_s: 3.5, from_deg: 358 }, "soon");
});

describe("the year of a leaf", () => {
  const maple = {
    kind: "maple",
    day: 100,
    held: true,
    stage: "bare",
    year: Array.from({ length: 74 }, (): [string, number] => ["#336611", 1]),
  };
  it("is held on another day and let go", async () => {
    const [hold, letGo] = [vi.fn(), vi.fn()];
    render(<LeafStrip leaf={maple} year="2026" hold={hold} letGo={letGo} />);
    const strip = screen.getByRole("slider", { name: "Day of the maple" });
    expect(strip.getAttribute("aria-valuetext")).toContain("held");
    fireEvent.keyDown(strip, { key: "ArrowRight", shiftKey: true });
    expect(hold).toHaveBeenLastCalledWith(110, "soon");
    fireEvent.keyDown(strip, { key: "PageDown" });
    expect(hold).toHaveBeenLastCalledWith(70, "soon");
    await userEvent.click(screen.getByRole("button", { name: "let go" }));
    expect(letGo).toHaveBeenCalledOnce();
  });
});

it("a recipe is laid without the lines that were left out, each by itself", async () => {
  const line = (says: string, at: string) => ({
    step: "air",
    says,
    changes: [{ part: "occasion", key: "noon", at: [at], value: {}, away: false, place: null }],
  });
  vi.spyOn(api, "recipes").mockResolvedValue([
    { key: "r", name: "First snow", lines: [line("Overcast", "sky"), line("Snow", "weather")] },
  ] as never);
  const changes = vi.fn();
  render(<Recipes slug="room" view="inside" occasion="noon" hands={{ changes } as unknown as Hands} />);
  await userEvent.click(await screen.findByRole("button", { name: "First snow" }));
  await userEvent.click(screen.getByRole("checkbox", { name: "Overcast" }));
  await userEvent.click(screen.getByRole("button", { name: "Set these" }));
  expect(changes).toHaveBeenCalledOnce();
  expect(changes.mock.lastCall![0]).toBe("First snow: Snow");
});

it("the yearline shows the leaf that turns, and twigs where it is bare", () => {
  const kind = (name: string, share: (k: number) => number) => ({
    kind: name,
    day: 1,
    held: false,
    stage: "",
    year: Array.from({ length: 74 }, (_, k): [string, number] => [
      `#0000${String(k).padStart(2, "0")}`,
      share(k),
    ]),
  });
  const band = plantingOf([kind("evergreen", () => 1), kind("maple", (k) => (k > 20 && k < 60 ? 1 : 0))]);
  expect(band).toHaveLength(74);
  expect(band[0]).toBe("#9a9188");
  expect(band[40]).toBe("#000040");
  expect(plantingOf([kind("evergreen", () => 1)])[0]).toBe("#000000");
});

it("the step says what the air is like", () => {
  const told = (more: object) =>
    stateOf("air", project, project.views![0], { ...noon, ...more } as typeof noon, null);
  expect(told({ season: "autumn" })).toBe("autumn");
  expect(told({ air: { on: true }, weather: { snow: { depth_cm: 12 } } })).toBe("fog, 12 cm snow");
  expect(told({ weather: { rain: { wet: 1 } } })).toBe("wet");
  expect(told({ weather: { rain: { wet: 1, mm_h: 4 } } })).toBe("rain");
});
