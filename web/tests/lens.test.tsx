// @vitest-environment jsdom
import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, beforeAll, describe, expect, it, vi } from "vitest";

import type { LensReading, LensRing, View } from "../src/api/client";
import { ahead, focalFor, inPlan, offAxis, onStage, reachOf, sharpBetween } from "../src/lens/drawing";
import { moved } from "../src/lens/LensDrawing";
import { pulled } from "../src/lens/LensOver";
import { StopRing } from "../src/lens/StopRing";

beforeAll(() => {
  Element.prototype.setPointerCapture = () => undefined;
  Element.prototype.getBoundingClientRect = () => ({ left: 0, width: 210, top: 0, height: 28 }) as DOMRect;
});
afterEach(cleanup);

const view = {
  position: [1, 2, 1.5],
  target: [1, 6, 2.5],
  focal_mm: 24,
  film_width_mm: 36,
  keep_verticals: true,
} as unknown as View;

describe("the drawing of a lens", () => {
  it("has the axis to the right and the left side upwards", () => {
    expect(ahead(view)).toEqual([0, 1]);
    expect(inPlan(view, [1, 6])).toEqual([4, 0]);
    expect(inPlan(view, [0, 2])).toEqual([0, 1]); // to the west of one who looks north
    const there = onStage(view, [3, -2]);
    expect(there).toEqual([3, 5]);
    expect(inPlan(view, there)).toEqual([3, -2]);
  });

  it("leans the section with a lens that is turned up, and only then", () => {
    expect(offAxis(view, 2, 0.5)).toEqual([2, 1]);
    const up = { ...view, keep_verticals: false, target: [1, 6, 5.5] } as View;
    const [along, high] = offAxis(up, 2, 0);
    expect(along).toBeCloseTo(Math.SQRT2);
    expect(high).toBeCloseTo(Math.SQRT2);
  });

  it("reaches past what is looked at and in focus, by steps", () => {
    expect(reachOf(view)).toBeGreaterThan(4 * 1.35 - 1e-9);
    expect(reachOf({ ...view, focus_m: 30 })).toBeGreaterThan(40);
    expect(reachOf({ ...view, focus_m: 30 })).toBe(reachOf({ ...view, focus_m: 31 }));
  });

  it("finds the focal length whose picture ends at an edge", () => {
    expect(focalFor(view, 0.75, "right")).toBe(24);
    expect(focalFor(view, -0.75, "left")).toBe(24);
    expect(focalFor({ ...view, shift_x: 0.5 }, 0.75, "right")).toBe(48);
    expect(focalFor(view, -0.1, "right")).toBeNull();
    expect(focalFor(view, 9, "right")).toBeNull();
  });

  it("shades what is sharp to the end of the paper where there is no far limit", () => {
    const reading = { near_m: 2, far_m: null } as unknown as LensReading;
    expect(sharpBetween(reading, 10, -1, 1, (a, t) => [a, a * t])).toEqual([
      [2, -2],
      [30, -30],
      [30, 30],
      [2, 2],
    ]);
  });

  it("moves the lens with what it looks at, turns it, focuses it, and changes its angle", () => {
    expect(moved(view, "lens", [1, 0.5], [0, 0], "plan")).toEqual({
      position: [0.5, 3, 1.5],
      target: [0.5, 7, 2.5],
    });
    expect(moved(view, "lens", [0, 0.3], [0, 0], "section")).toEqual({
      position: [1, 2, 1.8],
      target: [1, 6, 2.8],
    });
    expect(moved(view, "target", [4, 2], [0, 0], "plan")).toEqual({ target: [-1, 6, 2.5] });
    expect(moved(view, "target", [4, 2], [0, 0], "section")).toEqual({ target: [1, 6, 3.5] });
    expect(moved(view, "target", [0, 0], [0, 0], "plan")).toBeNull();
    expect(moved(view, "focus", [3.2, 9], [0, 0], "plan")).toEqual({ focus_m: 3.2 });
    expect(moved(view, "focus", [-1, 0], [0, 0], "plan")).toBeNull();
    expect(moved(view, "right", [4, -3], [0, 0], "plan")).toEqual({ focal_mm: 24 });
    expect(moved(view, "left", [4, 3], [0, 0], "plan")).toEqual({ focal_mm: 24 });
  });
});

describe("the frame to cut to", () => {
  const whole = { left: 0.1, top: 0.1, right: 0.9, bottom: 0.9 };
  it("is pulled at an edge, a corner, or as a whole, and stays in the picture", () => {
    expect(pulled(whole, "e", -0.2, 9, null)).toEqual({ ...whole, right: expect.closeTo(0.7) });
    expect(pulled(whole, "nw", -5, 0.2, null)).toEqual({ ...whole, left: 0, top: expect.closeTo(0.3) });
    expect(pulled(whole, "w", 5, 0, null).left).toBeCloseTo(0.85);
    const put = pulled(whole, "all", 0.5, -0.05, null);
    expect(put.right).toBeCloseTo(1);
    expect(put.top).toBeCloseTo(0.05);
    expect(put.right - put.left).toBeCloseTo(0.8);
  });
  it("is fitted to a format about its middle", () => {
    const e = pulled(whole, "", 0, 0, 0.4);
    expect((e.left + e.right) / 2).toBeCloseTo(0.5);
    expect((e.top + e.bottom) / 2).toBeCloseTo(0.5);
    expect((e.right - e.left) / (e.bottom - e.top)).toBeCloseTo(0.4);
    expect(e.bottom - e.top).toBeCloseTo(1);
  });
  it("keeps its format from whichever grip it is pulled", () => {
    for (const grip of ["n", "ne", "e", "se", "s", "sw", "w", "nw"] as const)
      for (const ratio of [0.4, 1, 1.7]) {
        const e = pulled(whole, grip, 0.07, -0.04, ratio);
        expect((e.right - e.left) / (e.bottom - e.top)).toBeCloseTo(ratio);
        expect(Math.min(e.left, e.top, 1 - e.right, 1 - e.bottom)).toBeGreaterThanOrEqual(-1e-9);
      }
  });
});

describe("a ring of stops", () => {
  const ring: LensRing = {
    stops_of_light: -1 / 3,
    clicks: [4, 5, 6, 7, 8].map((value) => ({ value, label: `f/${value}` })),
  };
  const shown = () => {
    const set = vi.fn();
    render(
      <StopRing
        label="f-number"
        {...{ ring, set, click: 2, written: "f/6", least: 1, most: 32 }}
        parse={(t) => Number(t.replace("f/", "")) || null}
      />,
    );
    return { set, field: screen.getByRole("spinbutton") };
  };
  it("steps by keys and stops at its ends", async () => {
    const { set, field } = shown();
    await userEvent.type(field, "{ArrowUp}");
    expect(set).toHaveBeenLastCalledWith(7, "soon");
    await userEvent.type(field, "{PageDown}");
    expect(set).toHaveBeenLastCalledWith(4, "soon");
  });
  it("takes what is typed, and marks what cannot be", async () => {
    const { set, field } = shown();
    await userEvent.clear(field);
    await userEvent.type(field, "f/6.7{Enter}");
    expect(set).toHaveBeenLastCalledWith(6.7, true);
    await userEvent.clear(field);
    await userEvent.type(field, "wide");
    expect(field.getAttribute("aria-invalid")).toBe("true");
    await userEvent.type(field, "{Escape}");
    expect((field as HTMLInputElement).value).toBe("f/6");
  });
  it("is dragged by the click, and a press beside the middle takes what stands there", () => {
    const { set, field } = shown();
    const face = field.parentElement!;
    const at = (clientX: number) => ({ clientX, clientY: 5, button: 0, buttons: 1, pointerId: 1 });
    fireEvent.pointerDown(face, at(100));
    fireEvent.pointerMove(face, at(58));
    expect(set).toHaveBeenLastCalledWith(7, false);
    fireEvent.pointerUp(face, at(16));
    expect(set).toHaveBeenLastCalledWith(8, true);
    fireEvent.pointerDown(face, at(63));
    fireEvent.pointerUp(face, at(63));
    expect(set).toHaveBeenLastCalledWith(5, true);
  });
});
