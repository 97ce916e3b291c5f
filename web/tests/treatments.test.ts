import { describe, expect, it } from "vitest";

import type { Treatment, TreatmentLine } from "../src/api/client";
import {
  added,
  beside,
  changedAt,
  changedLimit,
  isOf,
  limitInWords,
  type Limit,
} from "../src/finish/treatments";

const line = (kind: string, place: number, on = true) =>
  ({
    kind,
    place,
    title: kind,
    about: "",
    at_first: { kind, on, amount: 1 },
    numbers: [],
  }) as unknown as TreatmentLine;
const KINDS = [line("bloom", 10, false), line("exposure", 20), line("contrast", 50), line("saturation", 60)];
const [bloom, exposure] = KINDS;
const held = (kind: string, more: object = {}) => ({ kind, on: true, ...more }) as unknown as Treatment;
const kindsOf = (list: Treatment[]) => list.map((t) => t.kind);

describe("the treatments of a look", () => {
  it("are put where meaning puts them, switched on, after others of their kind", () => {
    const was = [held("exposure", { stops: 1 }), held("contrast")];
    const first = added(KINDS, was, bloom);
    expect(kindsOf(first.treatments)).toEqual(["bloom", "exposure", "contrast"]);
    expect(first.index).toBe(0);
    expect(first.treatments[0]).toMatchObject({ on: true, amount: 1 });
    const second = added(KINDS, was, exposure, { stops: -1 });
    expect(second.index).toBe(1);
    expect(second.treatments.map((t) => (t as { stops?: number }).stops)).toEqual([1, -1, undefined]);
    expect(added(KINDS, was, KINDS[3]).index).toBe(2);
    expect(added(KINDS, [], exposure).treatments).toHaveLength(1);
  });

  it("change one by one, by their place, and are taken out", () => {
    const was = [held("exposure"), held("exposure"), held("contrast")];
    expect(changedAt(was, 1, { stops: 2 })).toEqual([
      held("exposure"),
      held("exposure", { stops: 2 }),
      was[2],
    ]);
    expect(kindsOf(changedAt(was, 0, null))).toEqual(["exposure", "contrast"]);
    expect(was).toHaveLength(3);
  });
});

describe("where a treatment holds", () => {
  const limit: Limit = { surfaces: ["oak"], stops: { low: -2, high: 0, soft: 1 } };

  it("is nothing once nothing narrows it, turned over or not", () => {
    expect(changedLimit(limit, { surfaces: [] })).toEqual({ stops: limit.stops });
    expect(changedLimit({ surfaces: ["oak"], elsewhere: true }, { surfaces: [] })).toBeNull();
    expect(changedLimit(null, { elsewhere: true })).toBeNull();
    expect(changedLimit(null, { gradient: { start: [0, 0], end: [1, 1] } })).toEqual({
      gradient: { start: [0, 0], end: [1, 1] },
    });
    expect(changedLimit(limit, { stops: null })).toEqual({ surfaces: ["oak"] });
  });

  it("is said in words", () => {
    expect(limitInWords(null)).toBe("everywhere");
    expect(limitInWords({ ...limit, elsewhere: true })).toBe("all but oak; -2 to 0 stops");
    expect(limitInWords({ groups: ["sun"], hues: { middle_deg: 100, width_deg: 20, soft_deg: 5 } })).toBe(
      "light of sun; hues about 100°",
    );
  });

  it("is told to be of one surface and nothing else", () => {
    expect(isOf({ surfaces: ["oak"], objects: [] }, "oak")).toBe(true);
    expect(isOf(limit, "oak")).toBe(false);
    expect(isOf(null, null)).toBe(true);
    expect(isOf(null, "oak")).toBe(false);
    expect(isOf({ surfaces: ["oak"] }, null)).toBe(false);
  });
});

describe("values beside one another", () => {
  it("lie a twelfth of the rule apart, on its steps, within it", () => {
    expect(beside(0, -4, 4, 0.05)).toEqual([-0.65, 0.65]);
    expect(beside(4, -4, 4, 0.05)).toEqual([3.35, 4]);
    expect(beside(1, 0, 1, 1)).toEqual([0, 1]);
    const [less, more] = beside(6500, 2000, 12000, 50);
    expect([less % 50, more % 50]).toEqual([0, 0]);
  });
});
