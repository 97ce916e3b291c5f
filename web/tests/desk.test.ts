import { describe, expect, it, test } from "vitest";

import { changed, type Desk, EMPTY, SURROUNDS } from "../src/bench/desk";

const FULL: Desk = {
  ...EMPTY,
  kind: "spot",
  metering: true,
  comparing: true,
  fixtures: ["a", "b"],
  surface: "oak",
  balancing: true,
};

describe("what lies on the bench", () => {
  it("is put away by Escape, what was taken last first, and then nothing more", () => {
    const order: string[] = [];
    let desk = FULL;
    for (let k = 0; k < 8; k += 1) {
      const next = changed(desk, "put away");
      const gone = (Object.keys(desk) as (keyof Desk)[]).filter((name) => desk[name] !== next[name]);
      order.push(gone.join());
      desk = next;
    }
    expect(order).toEqual(["kind", "metering", "comparing", "fixtures", "surface", "balancing", "", ""]);
    expect(desk).toEqual({ ...EMPTY });
  });

  it("stays the same object where nothing is in hand, so that nothing is drawn anew", () => {
    expect(changed(EMPTY, "put away")).toBe(EMPTY);
  });

  test.each(["comparing", "balancing", "metering"] as const)("is turned on and off: %s", (name) => {
    const on = changed(EMPTY, { turn: name });
    expect(on).toEqual({ ...EMPTY, [name]: true });
    expect(changed(on, { turn: name })).toEqual(EMPTY);
  });

  it("takes with Balance and Judge what they alone offer", () => {
    const solo = { ...EMPTY, balancing: true, alone: "Ceiling" };
    expect(changed(solo, { turn: "balancing" })).toEqual(EMPTY);
    expect(changed(solo, "put away")).toEqual(EMPTY);
    const grey: Desk = {
      ...EMPTY,
      judging: true,
      mode: "grey",
      proof: { sha256: "a", paperWhite: false },
    };
    expect(changed(grey, { turn: "judging" })).toEqual(EMPTY);
    expect(changed(grey, "put away")).toEqual(EMPTY);
    const clipped: Desk = { ...EMPTY, judging: true, mode: "clipped" };
    expect(changed(clipped, { turn: "judging" }).mode).toBe("clipped");
    expect(changed(grey, { turn: "comparing" }).mode).toBe("grey");
  });

  it("goes round the surrounds", () => {
    let desk = EMPTY;
    const seen = SURROUNDS.map(() => (desk = changed(desk, "next surround")).surround);
    expect(seen).toEqual([1, 2, 0]);
  });

  it("keeps all else when something is put", () => {
    expect(changed(FULL, { put: { quality: "press", other: 7 } })).toEqual({
      ...FULL,
      quality: "press",
      other: 7,
    });
    expect(FULL.quality).toBe("proof");
  });
});
