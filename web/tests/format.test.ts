import { describe, expect, it, test } from "vitest";

import {
  bytesText,
  clamp,
  dayFromIndex,
  dayOfYear,
  dayText,
  freeKey,
  hourOf,
  hourText,
  lux,
  momentText,
  shutterText,
  timeLeft,
  withHour,
} from "../src/ui/format";

describe("hours and days", () => {
  it("writes every five minutes of a day and reads them back", () => {
    for (let k = 0; k < 288; k += 1) {
      const when = withHour("2026-06-21T13:20:00", k / 12);
      expect(hourOf(when)).toBeCloseTo(k / 12, 6);
      expect(when).toBe(`2026-06-21T${hourText(k / 12)}:00`);
    }
  });

  it("stays within its day", () => {
    expect(withHour("2026-06-21T00:00:00", 24)).toBe("2026-06-21T23:59:00");
    expect(hourText(23.9999)).toBe("00:00");
  });

  test.each(["2023", "2024", "2100"])("counts the days of %s there and back", (year) => {
    const leap = year === "2024";
    expect(dayOfYear(`${year}-12-31`)).toBe(leap ? 365 : 364);
    for (let k = 0; k <= (leap ? 365 : 364); k += 1) expect(dayOfYear(dayFromIndex(year, k))).toBe(k);
    expect(dayFromIndex(year, 59)).toBe(leap ? `${year}-02-29` : `${year}-03-01`);
  });

  it("names a day", () => {
    expect(dayText("2026-01-01T09:00:00")).toBe("1 Jan");
    expect(dayText("2026-12-31")).toBe("31 Dec");
  });

  it("says today for today, and the date of another", () => {
    const now = new Date();
    expect(momentText(now.toISOString())).toMatch(/^today \d\d:\d\d$/);
    expect(momentText("2021-11-03T12:00:00Z")).toBe("3 Nov 2021");
  });
});

describe("quantities", () => {
  test.each([
    [1 / 60, "1/60 s"],
    [0.004, "1/250 s"],
    [0.5, "0.5 s"],
    [30, "30 s"],
  ])("a shutter of %d s", (seconds, text) => expect(shutterText(seconds)).toBe(text));

  test.each([
    [0.034, "0.034 lx"],
    [47.2, "47 lx"],
    [512.4, "512 lx"],
    [12345, "12.3 klx"],
  ])("%d lx", (value, text) => expect(lux(value)).toBe(text));

  test.each<[number | null | undefined, string]>([
    [undefined, "time not known yet"],
    [null, "time not known yet"],
    [0, "1 s"],
    [89, "89 s"],
    [90, "2 min"],
    [3600, "60 min"],
  ])("%s s left", (seconds, text) => expect(timeLeft(seconds)).toBe(text));

  test.each([
    [0, "0 kB"],
    [999_999, "1000 kB"],
    [3_400_000, "3.4 MB"],
    [34_000_000, "34 MB"],
    [2_500_000_000, "2.5 GB"],
  ])("%d bytes", (bytes, text) => expect(bytesText(bytes)).toBe(text));

  it("keeps a number within its range", () => {
    expect([clamp(-1, 0, 1), clamp(0.5, 0, 1), clamp(2, 0, 1)]).toEqual([0, 0.5, 1]);
  });
});

describe("keys of new parts", () => {
  test.each([
    ["Long view", "long-view"],
    ["Größe & Höhe", "gro-e-hohe"],
    ["  --  ", "part"],
    ["日本", "part"],
  ])("%s", (name, key) => expect(freeKey(name, new Set())).toBe(key));

  it("counts on where a name is taken, and keeps within what the server takes", () => {
    expect(freeKey("View", new Set(["view", "view-2"]))).toBe("view-3");
    expect(freeKey("x".repeat(200), new Set()).length).toBeLessThanOrEqual(48);
  });
});
