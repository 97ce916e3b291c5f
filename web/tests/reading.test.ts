import { describe, expect, it, test } from "vitest";

import { readDate, readHour, readNumber, readShutter } from "../src/ui/reading";

describe("numbers as people type them", () => {
  test.each<[string, string, number | null]>([
    ["47,5", "", 47.5],
    ["47.5 m", "m", 47.5],
    ["120 cm", "m", 1.2],
    ["35 mm", "m", 0.035],
    ["2 m", "mm", 2000],
    ["1 200", "", 1200],
    ["1'200 lm", "lm", 1200],
    ["1.2 klm", "lm", 1200],
    ["1.234.567,8", "", 1234567.8],
    ["1,234,567.8", "", 1234567.8],
    ["1,234,567", "", 1234567],
    ["−3", "", -3],
    ["–0,5 stops", "stops", -0.5],
    [".5", "", 0.5],
    ["1e3", "", 1000],
    ["2700 K", "K", 2700],
    ["30 deg", "°", 30],
    ["", "", null],
    ["tea", "", null],
    ["5 apples", "m", null],
    ["1.2,3.4", "", null],
    ["3 K", "m", null],
  ])("%s in %s", (typed, unit, meant) => expect(readNumber(typed, unit)).toBe(meant));

  it("takes a comma for thousands where a fraction cannot be meant", () => {
    expect(readNumber("2,700", "K", 1000, 20000)).toBe(2700);
    expect(readNumber("2,700", "m", 0, 10)).toBe(2.7);
    expect(readNumber("2.700", "K", 1000, 20000)).toBe(2700);
  });

  it("gives the likelier reading where none is in range, so that the range can be told", () => {
    expect(readNumber("99", "m", 0, 10)).toBe(99);
  });
});

describe("hours", () => {
  test.each<[string, number | null]>([
    ["17", 17],
    ["7:30", 7.5],
    ["7.30", 7.5],
    ["0730", 7.5],
    ["730", 7.5],
    ["7h30", 7.5],
    ["7,5", 7.5],
    ["5pm", 17],
    ["5:15 p.m.", 17.25],
    ["12am", 0],
    ["12 pm", 12],
    ["noon", 12],
    ["Midnight", 0],
    ["23:59", 23 + 59 / 60],
    ["24", null],
    ["7:60", null],
    ["13pm", null],
    ["0pm", null],
    ["-1", null],
    ["", null],
  ])("%s", (typed, hours) => {
    const found = readHour(typed);
    if (hours === null) expect(found).toBeNull();
    else expect(found).toBeCloseTo(hours, 9);
  });
});

describe("days", () => {
  test.each<[string, string | null]>([
    ["2026-06-21", "2026-06-21"],
    ["21.6.2026", "2026-06-21"],
    ["21/6", "2031-06-21"],
    ["6/21/2026", "2026-06-21"],
    ["21 June", "2031-06-21"],
    ["June 21, 2026", "2026-06-21"],
    ["21st june 26", "2026-06-21"],
    ["20260621", "2026-06-21"],
    ["29 feb 2024", "2024-02-29"],
    ["29.2.2023", null],
    ["31.4.", null],
    ["0.6.2026", null],
    ["13.13.2026", null],
    ["June", null],
    ["1 2 3 4", null],
  ])("%s", (typed, day) => expect(readDate(typed, "2031")).toBe(day));
});

describe("shutters", () => {
  test.each<[string, number | null]>([
    ["1/60", 1 / 60],
    ["1/60 s", 1 / 60],
    ["0,5 s", 0.5],
    ["2s", 2],
    ['2"', 2],
    ["2 min", 120],
    ["1/0", null],
    ["0", null],
    ["-1", null],
    ["fast", null],
  ])("%s", (typed, seconds) => expect(readShutter(typed)).toBe(seconds));
});
