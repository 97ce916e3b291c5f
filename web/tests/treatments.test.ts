import { describe, expect, it } from "vitest";

import type { Treatment, TreatmentLine } from "../src/api/client";
import { changedTreatments, inOrder } from "../src/instruments/treatments";

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
const [, exposure, contrast] = KINDS;
const held = (kind: string, more: object = {}) => ({ kind, on: true, ...more }) as unknown as Treatment;
const names = (list: [TreatmentLine, Treatment | undefined][]) =>
  list.map(([k, t]) => (t ? k.kind : `(${k.kind})`));

describe("the treatments of a look", () => {
  it("stand in the look's own order, what it does not hold where meaning puts it", () => {
    expect(names(inOrder(KINDS, [held("contrast"), held("exposure")]))).toEqual([
      "(bloom)",
      "contrast",
      "exposure",
      "(saturation)",
    ]);
    expect(names(inOrder(KINDS, []))).toEqual(["(bloom)", "(exposure)", "(contrast)", "(saturation)"]);
  });

  it("of a kind nobody knows are not shown, and none before the kinds are known", () => {
    expect(names(inOrder(KINDS, [held("mystery"), held("contrast")]))).toContain("contrast");
    expect(inOrder([], [held("contrast")])).toEqual([]);
  });

  it("change one by one", () => {
    const was = [held("exposure", { stops: 1 }), held("contrast", { amount: 0.2 })];
    expect(changedTreatments(KINDS, was, contrast, { amount: 0.5 })).toEqual([
      held("exposure", { stops: 1 }),
      held("contrast", { amount: 0.5 }),
    ]);
  });

  it("are put in their place when they are first touched, off unless they were switched on", () => {
    const was = [held("contrast")];
    expect(changedTreatments(KINDS, was, exposure, { stops: 2 })).toEqual([
      { kind: "exposure", on: false, amount: 1, stops: 2 },
      held("contrast"),
    ]);
    expect(changedTreatments(KINDS, was, exposure, { on: true })[0]).toMatchObject({
      kind: "exposure",
      on: true,
    });
  });
});
