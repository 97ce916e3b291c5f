// @vitest-environment jsdom
import { cleanup, fireEvent, render, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, beforeAll, beforeEach, describe, expect, it, vi } from "vitest";

import { api, type Treatment } from "../src/api/client";
import { CurveEditor } from "../src/catalogue/CurveEditor";
import { ToneCurve } from "../src/finish/ToneCurve";
import { queries } from "../src/state/server";

beforeAll(() => {
  // What jsdom has no layout for.
  Element.prototype.setPointerCapture = () => undefined;
});
beforeEach(() => {
  Element.prototype.getBoundingClientRect = () => ({ left: 100, width: 240, top: 0, height: 40 }) as DOMRect;
});
afterEach(cleanup);

describe("the tone curve", () => {
  const treatment = {
    kind: "tone_curve",
    on: true,
    shoulder: 0.5,
    toe: 0.2,
    stops_above: 3,
  } as unknown as Treatment;
  const number = (field: string, low: number, high: number, step: number) => ({
    field,
    label: field,
    low,
    high,
    step,
    normal: low,
    unit: "",
  });
  const numbers = [
    number("shoulder", 0, 1, 0.02),
    number("toe", 0, 1, 0.02),
    number("stops_above", 0.5, 8, 0.1),
  ];
  const drawn = {
    treatment,
    points: [
      [-8, 0],
      [0, 0.6],
      [8, 1],
    ],
    handles: [
      { field: "toe", title: "Toe", stops: -4, value: 0.05 },
      { field: "shoulder", title: "Shoulder", stops: -0.8, value: 0.5 },
      { field: "stops_above", title: "White point", stops: 3, value: 1 },
    ],
  };
  const shown = async (more: Partial<Parameters<typeof ToneCurve>[0]> = {}) => {
    const change = vi.fn();
    const props = { treatment, numbers, histogram: null, lift: 0, change };
    const made = render(<ToneCurve {...props} {...more} />);
    await screen.findByRole("slider", { name: "Toe" });
    return { change, props, ...made };
  };
  beforeEach(() => {
    queries.clear();
    vi.spyOn(api, "curve").mockResolvedValue(drawn as never);
    vi.stubGlobal(
      "DOMPoint",
      class {
        constructor(
          public x: number,
          public y: number,
        ) {}
        matrixTransform = () => this;
      },
    );
    (SVGElement.prototype as unknown as { getScreenCTM: unknown }).getScreenCTM = () => ({
      inverse: () => null,
    });
  });

  it.each([
    ["Shoulder", "{ArrowUp}", { shoulder: 0.52 }],
    ["Shoulder", "{End}", { shoulder: 1 }],
    ["Toe", "{PageDown}", { toe: 0 }],
    ["White point", "{Shift>}{ArrowRight}{/Shift}", { stops_above: 4 }],
    ["White point", "{Home}", { stops_above: 0.5 }],
  ])("%s moves by %s", async (name, keys, patch) => {
    const { change } = await shown();
    screen.getByRole("slider", { name }).focus();
    await userEvent.keyboard(keys);
    expect(change).toHaveBeenLastCalledWith(patch, "soon");
  });

  it("is out of reach where the look leaves it off", async () => {
    const { change } = await shown({ disabled: true });
    const handle = screen.getByRole("slider", { name: "Toe" });
    expect(handle.getAttribute("tabindex")).toBe("-1");
    fireEvent.keyDown(handle, { key: "End" });
    expect(change).not.toHaveBeenCalled();
  });

  it("is drawn through the points that the server gives", async () => {
    const { container } = await shown();
    const curve = [...container.querySelectorAll("path")].at(-1)!.getAttribute("d")!;
    expect(curve.startsWith("M10,116L130,")).toBe(true);
    expect(curve.endsWith("250,8")).toBe(true);
  });

  it("lies over the histogram, moved by what the look lifts", async () => {
    const histogram = { from: -8, to: 8, shares: [0, 0.5, 0.5, 0] };
    const { container, props, rerender } = await shown({ histogram });
    const before = container.querySelector("path")!.getAttribute("d");
    rerender(<ToneCurve {...props} histogram={histogram} lift={1} />);
    expect(container.querySelector("path")!.getAttribute("d")).not.toBe(before);
  });

  it("is bent by the server: the newest place of the pointer, one at a time", async () => {
    const { change, container } = await shown();
    const svg = container.querySelector("svg")!;
    let answer: (made: unknown) => void = () => undefined;
    vi.mocked(api.curve).mockReset();
    vi.mocked(api.curve).mockImplementation(() => new Promise((done) => (answer = done as never)));
    fireEvent.pointerDown(svg, { pointerId: 1, button: 0, clientX: 172, clientY: 8 });
    fireEvent.pointerMove(svg, { pointerId: 1, buttons: 1, clientX: 180, clientY: 8 });
    fireEvent.pointerMove(svg, { pointerId: 1, buttons: 1, clientX: 190, clientY: 8 });
    const bends = () => vi.mocked(api.curve).mock.calls.map((c) => c[1]!);
    expect(bends()).toEqual([{ field: "stops_above", stops: expect.closeTo(2.8), value: 1 }]);
    answer({ ...drawn, treatment: { ...treatment, stops_above: 2.8 } });
    await waitFor(() => expect(change).toHaveBeenLastCalledWith({ stops_above: 2.8 }, false));
    expect(bends()[1].stops).toBeCloseTo(4);
    expect(bends().length).toBe(2); // the place between was passed over
    change.mockReset();
    fireEvent.keyDown(window, { key: "Escape" });
    answer({ ...drawn, treatment: { ...treatment, stops_above: 4 } });
    await Promise.resolve();
    expect(change).not.toHaveBeenCalled();
  });
});

describe("the curve of a distribution", () => {
  const curve = (along: number[] | null) => {
    const set = { across: vi.fn(), along: vi.fn() };
    render(
      <CurveEditor
        angles={[0, 45, 90]}
        across={[1, 0.5, 0]}
        along={along}
        setAcross={set.across}
        setAlong={set.along}
      />,
    );
    return set;
  };

  it.each([
    ["{ArrowUp}", 0.52],
    ["{ArrowLeft}", 0.48],
    ["{PageUp}", 0.7],
    ["{Home}", 0],
    ["{End}", 1],
  ])("is bent by %s", async (keys, value) => {
    const set = curve(null);
    screen.getByRole("slider", { name: "C0, 45 degrees" }).focus();
    await userEvent.keyboard(keys);
    expect(set.across).toHaveBeenLastCalledWith([1, value, 0]);
  });

  it("has a second plane of its own, or mirrors the first and is one stop less", async () => {
    const set = curve([1, 0.2, 0.1]);
    const point = screen.getByRole("slider", { name: "C90, 90 degrees" });
    point.focus();
    await userEvent.keyboard("{ArrowDown}");
    expect(set.along).toHaveBeenLastCalledWith([1, 0.2, 0.08]);
    cleanup();
    curve(null);
    expect(screen.getByRole("slider", { name: "C90, 90 degrees" }).getAttribute("tabindex")).toBe("-1");
  });

  it("stays between nothing and all", async () => {
    const set = curve(null);
    screen.getByRole("slider", { name: "C0, 90 degrees" }).focus();
    await userEvent.keyboard("{ArrowDown}");
    expect(set.across).toHaveBeenLastCalledWith([1, 0.5, 0]);
  });
});
