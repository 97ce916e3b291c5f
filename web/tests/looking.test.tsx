// @vitest-environment jsdom
import { cleanup, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, beforeAll, describe, expect, it, vi } from "vitest";

import type { ScopesRead } from "../src/api/client";
import { Comparison } from "../src/judge/Comparison";
import { atPixels, FIT, panned, zoomed } from "../src/judge/looking";
import { Histogram, Zones } from "../src/judge/Scopes";

beforeAll(() => {
  Element.prototype.setPointerCapture = () => undefined;
  Element.prototype.getBoundingClientRect = () =>
    ({ left: 0, width: 800, top: 0, height: 450, right: 800, bottom: 450 }) as DOMRect;
});
afterEach(() => {
  cleanup();
  vi.useRealTimers();
});

describe("looking closely", () => {
  it("zooms about the place that is pointed at, and never shows what is beside the picture", () => {
    const near = zoomed(FIT, 2, [0.25, 0.75]);
    expect(near).toEqual({ scale: 2, x: -0.25, y: -0.75 });
    // The place pointed at is where it was: 0.25 = x + scale * u with u = 0.25.
    expect(near.x + near.scale * 0.25).toBeCloseTo(0.25);
    expect(zoomed(near, 0.1, [0.9, 0.1])).toEqual(FIT);
    expect(panned(near, 5, -5)).toEqual({ scale: 2, x: 0, y: -1 });
    expect(panned(FIT, 0.3, 0.3)).toEqual(FIT);
    expect(zoomed(FIT, 1e9, [0.5, 0.5]).scale).toBe(32);
  });
  it("shows one pixel on one of the screen", () => {
    expect(atPixels(FIT, 1600, 800, 1).scale).toBe(2);
    expect(atPixels({ scale: 5, x: -2, y: -2 }, 3200, 800, 2).scale).toBeCloseTo(2);
    expect(atPixels(FIT, 400, 800, 1).scale).toBe(1); // it is fitted larger already
    expect(atPixels(FIT, 0, 800, 1)).toBe(FIT);
  });
});

describe("compared pictures", () => {
  const pictures = ["a", "b", "c"].map((name) => ({ url: `/${name}.png`, told: name, alt: `Plate ${name}` }));
  const shown = () => render(<Comparison pictures={pictures} aspect={16 / 9} />);

  it("two under a slider, the second at the left", async () => {
    shown();
    expect(screen.getAllByRole("img").map((i) => i.getAttribute("src"))).toEqual(["/a.png", "/b.png"]);
    expect(screen.getByRole("slider", { name: "Slider between the two pictures" })).toBeTruthy();
  });
  it("all side by side, and zoomed together", async () => {
    shown();
    await userEvent.click(screen.getByRole("button", { name: "Side by side" }));
    expect(screen.getAllByRole("img")).toHaveLength(3);
    screen.getByRole("group", { name: /^Compared pictures/ }).focus();
    await userEvent.keyboard("++");
    const moves = screen.getAllByRole("img").map((i) => i.style.transform);
    expect(new Set(moves).size).toBe(1);
    expect(moves[0]).toContain("scale(1.5625)");
    await userEvent.click(screen.getByRole("button", { name: "Fit" }));
    expect(screen.getAllByRole("img")[0].style.transform).toContain("scale(1)");
  });
  it("by turns, held by Space", async () => {
    shown();
    await userEvent.click(screen.getByRole("button", { name: "By turns" }));
    const front = () =>
      screen
        .getAllByRole("img", { hidden: true })
        .findIndex((i) => i.parentElement!.style.visibility === "visible");
    const before = front();
    screen.getByRole("group", { name: /^Compared pictures/ }).focus();
    await userEvent.keyboard(" ");
    expect(front()).toBe((before + 1) % 3);
    expect(screen.getByRole("button", { name: "Hold" }).getAttribute("aria-pressed")).toBe("true");
  });
  it("their difference, strengthened", async () => {
    shown();
    await userEvent.click(screen.getByRole("button", { name: "Difference" }));
    const [first, second] = screen.getAllByRole("img");
    expect([first.getAttribute("src"), second.getAttribute("src")]).toEqual(["/a.png", "/b.png"]);
    await userEvent.click(screen.getByRole("button", { name: "16 ×" }));
    expect(first.parentElement!.style.filter).toBe("brightness(16)");
  });
});

describe("instruments", () => {
  const read = {
    red: [0, 0.5, 0.5],
    green: [1, 0, 0],
    blue: [0, 0, 1],
    luma: [0.2, 0.3, 0.5],
    zones: [0.1, 0, 0, 0, 0, 0.9, 0, 0, 0, 0, 0],
  } as unknown as ScopesRead;
  it("draw each channel over the luma", () => {
    render(<Histogram read={read} />);
    expect(screen.getByRole("img", { name: "Histogram" }).querySelectorAll("path")).toHaveLength(4);
  });
  it("name the zones, as many as a screen has and more where there are any", () => {
    render(<Zones read={read} />);
    expect(screen.getByTitle("Zone V: 90.0 %")).toBeTruthy();
    expect(screen.getByText("VII")).toBeTruthy();
    expect(screen.queryByText("VIII")).toBeNull();
  });
});
