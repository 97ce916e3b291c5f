// @vitest-environment jsdom
import { cleanup, fireEvent, render, screen, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, describe, expect, it, vi } from "vitest";

import { api, Refusal, type StageSurface, type Surface } from "../src/api/client";
import { useStore } from "../src/state/store";
import { fromHex, luminous, toHex } from "../src/surfaces/colours";
import { unitsIn } from "../src/surfaces/courses";
import { BRICKS, Layout } from "../src/surfaces/Layout";
import { Pictures } from "../src/surfaces/Pictures";
import { Placeholders } from "../src/surfaces/Placeholders";

afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

const areaOf = (corners: [number, number][]) =>
  Math.abs(
    corners.reduce((sum, [x, y], k) => {
      const [u, v] = corners[(k + 1) % corners.length];
      return sum + x * v - u * y;
    }, 0),
  ) / 2;

describe("drawn units", () => {
  const size = { ...BRICKS, length_m: 0.21, height_m: 0.065, joint_m: 0.01 };
  const [pitch, rise, half] = [0.22, 0.075, 0.1];
  // The share that units fill, by the area of one and of the field it stands in; as the tracer's are tested.
  it.each([
    ["stack", (0.21 * 0.065) / (pitch * rise)],
    ["running", (0.21 * 0.065) / (pitch * rise)],
    ["third", (0.21 * 0.065) / (pitch * rise)],
    ["random", (0.21 * 0.065) / (pitch * rise)],
    ["english", ((0.21 + 2 * half) * 0.065) / (2 * pitch * rise)],
    ["flemish", ((0.21 + half) * 0.065) / (1.5 * pitch * rise)],
    ["herringbone", ((3 * rise - 0.01) * 0.065) / (3 * rise * rise)],
    ["hexagon", (0.065 / rise) ** 2],
  ] as const)("of %s fill their share of a wall", (bond, share) => {
    const units = unitsIn({ ...size, bond }, [-6, -6], [6, 6], 50_000);
    const inside = units.filter(({ corners }) => {
      const [x, y] = corners.reduce(
        ([a, b], [c, d]) => [a + c / corners.length, b + d / corners.length],
        [0, 0],
      );
      return Math.abs(x) < 5.5 && Math.abs(y) < 5.5;
    });
    const filled = inside.reduce((sum, u) => sum + areaOf(u.corners), 0);
    expect(filled / 11 ** 2).toBeCloseTo(share, 1);
    expect(new Set(units.map((u) => u.corners.join())).size).toBe(units.length);
    expect(Math.min(...units.map((u) => u.shade))).toBeGreaterThanOrEqual(0);
  });

  it("are left out where they would be too many to see", () => {
    expect(unitsIn({ ...BRICKS, length_m: 0.001, height_m: 0.001, joint_m: 0 }, [0, 0], [5, 5])).toEqual([]);
  });
});

it("colours go to the browser and come back", () => {
  expect(toHex([1, 0, 0.2140411])).toBe("#ff007f");
  expect(fromHex("#ff007f")[2]).toBeCloseTo(0.2122, 3);
  expect(luminous([1, 1, 1])).toBeCloseTo(1);
});

const plain: Surface = { base: [0.4, 0.2, 0.1] } as Surface;
const laid = { by: "box" as const, tile_m: 1, turn_deg: 0, shift_m: [0, 0] as [number, number] };

describe("the layout", () => {
  const shown = (surface: Surface) => {
    const put = vi.fn();
    render(<Layout surface={surface} put={put} />);
    const svg = screen.queryByRole("group", { name: /Layout on the surface/ });
    if (svg) svg.getBoundingClientRect = () => ({ left: 0, top: 0, width: 248, height: 150 }) as DOMRect;
    return { put, svg };
  };

  it("lays bricks where there was one piece, and takes them up again", async () => {
    const { put } = shown(plain);
    await userEvent.selectOptions(screen.getByRole("combobox", { name: "Layout of units" }), "flemish");
    const [patch, what, done] = put.mock.lastCall!;
    expect(patch.courses).toMatchObject({ bond: "flemish", length_m: 0.215, height_m: 0.065 });
    expect(patch.laying).toEqual(laid);
    expect([what, done]).toEqual(["Layout", true]);
    cleanup();
    const again = shown({ ...plain, courses: patch.courses, laying: laid });
    await userEvent.selectOptions(screen.getByRole("combobox", { name: "Layout of units" }), "");
    expect(again.put).toHaveBeenLastCalledWith({ courses: null }, "Layout", true);
  });

  it("is dragged about, turned by its arm and pulled larger by its corner", () => {
    const courses = { ...BRICKS, bond: "stack" as const, length_m: 0.24, height_m: 0.1 };
    const { put, svg } = shown({ ...plain, courses, laying: laid });
    const span = (2.25 * Math.hypot(0.24, 0.1) * 248) / 150;
    const perPixel = span / 248;
    const drag = (on: Element, from: [number, number], to: [number, number]) => {
      on.setPointerCapture = () => undefined;
      fireEvent.pointerDown(on, { button: 0, pointerId: 1, clientX: from[0], clientY: from[1] });
      fireEvent.pointerMove(on, { buttons: 1, pointerId: 1, clientX: to[0], clientY: to[1] });
      fireEvent.pointerUp(on, { pointerId: 1, clientX: to[0], clientY: to[1] });
    };
    drag(svg!, [100, 100], [140, 80]);
    // What lay under the pointer goes with it: the layout's zero moves right and up.
    const done = put.mock.lastCall![2];
    let [patch, what] = put.mock.lastCall!;
    expect(patch.laying.shift_m[0]).toBeCloseTo(-40 * perPixel, 2);
    expect(patch.laying.shift_m[1]).toBeCloseTo(-20 * perPixel, 2);
    expect([what, done]).toEqual(["Shift", true]);
    drag(screen.getByTestId("turn-grip"), [184, 75], [124 + 40, 75 - 40]);
    [patch, what] = put.mock.lastCall!;
    expect([patch.laying.turn_deg, what]).toEqual([45, "Turn"]);
    drag(screen.getByTestId("size-grip"), [0, 0], [124 + 0.3 / perPixel, 75 - 0.15 / perPixel]);
    [patch, what] = put.mock.lastCall!;
    expect(patch.courses.length_m).toBeCloseTo(0.3, 2);
    expect(patch.courses.height_m).toBeCloseTo(0.15, 2);
    const calls = put.mock.calls.length;
    drag(svg!, [100, 100], [100, 100]);
    expect(put.mock.calls.slice(calls).every(([, , over]) => over === false)).toBe(true);
  });

  it("is typed as well", async () => {
    const { put } = shown({
      ...plain,
      pictures: { colour: "a".repeat(64), height_m: 0.01 },
      laying: laid,
    } as Surface);
    const field = screen.getByRole("textbox", { name: "Width of a tile, m" });
    await userEvent.clear(field);
    await userEvent.type(field, "60 cm{Enter}");
    expect(put).toHaveBeenLastCalledWith({ laying: { ...laid, tile_m: 0.6 } }, "Tile", true);
    const up = screen.getByRole("textbox", { name: "Shift up, m" });
    await userEvent.clear(up);
    await userEvent.type(up, "0.2{Enter}");
    expect(put).toHaveBeenLastCalledWith({ laying: { ...laid, shift_m: [0, 0.2] } }, "Shift", true);
    await userEvent.selectOptions(screen.getByRole("combobox", { name: "How it is laid" }), "sides");
    expect(put).toHaveBeenLastCalledWith({ laying: { ...laid, by: "sides" } }, "Laid", true);
  });
});

describe("pictures of a surface", () => {
  const file = new File(["x"], "oak.png", { type: "image/png" });

  it("are brought in by channel, laid, and told about", async () => {
    const put = vi.fn();
    const notify = vi.spyOn(useStore.getState(), "notify");
    const take = vi
      .spyOn(api, "takeSurfacePicture")
      .mockResolvedValue({ asset: "b".repeat(64), width: 8, height: 4, words: ["it was 9 x 9"] } as never);
    render(<Pictures surface={plain} put={put} />);
    const well = screen.getByRole("button", { name: "Colour: bring in a picture" });
    fireEvent.drop(well, { dataTransfer: { files: [file], types: ["Files"] } });
    await vi.waitFor(() => expect(put).toHaveBeenCalled());
    expect(take).toHaveBeenCalledWith("colour", file);
    expect(put.mock.lastCall![0]).toMatchObject({
      pictures: { colour: "b".repeat(64) },
      laying: laid,
      base: [1, 1, 1],
    });
    expect(notify).toHaveBeenCalledWith("oak.png: it was 9 x 9", "info");
  });

  it("that are refused leave the surface as it is", async () => {
    const put = vi.fn();
    const notify = vi.spyOn(useStore.getState(), "notify");
    vi.spyOn(api, "takeSurfacePicture").mockRejectedValue(new Refusal(422, "It is no picture"));
    render(<Pictures surface={plain} put={put} />);
    fireEvent.drop(screen.getByRole("button", { name: /^Height/ }), {
      dataTransfer: { files: [file], types: ["Files"] },
    });
    await vi.waitFor(() => expect(notify).toHaveBeenCalledWith("It is no picture", "error"));
    expect(put).not.toHaveBeenCalled();
  });

  it("are taken away one by one", async () => {
    const put = vi.fn();
    const pictures = { colour: "a".repeat(64), height: "c".repeat(64), height_m: 0.02 };
    render(<Pictures surface={{ ...plain, pictures } as Surface} put={put} />);
    expect(within(screen.getByRole("list")).getAllByRole("button", { name: /another picture/ })).toHaveLength(
      2,
    );
    await userEvent.click(screen.getByRole("button", { name: "Take the picture of colour away" }));
    expect(put.mock.lastCall![0].pictures).toEqual({ ...pictures, colour: null });
    cleanup();
    render(
      <Pictures
        surface={{ ...plain, pictures: { colour: "a".repeat(64), height_m: 0.01 } } as Surface}
        put={put}
      />,
    );
    await userEvent.click(screen.getByRole("button", { name: "Take the picture of colour away" }));
    expect(put.mock.lastCall![0]).toEqual({ pictures: null });
  });
});

describe("a word beside the picture", () => {
  const line = (name: string, placeholder: boolean, seen: number) =>
    ({ name, placeholder, seen }) as StageSurface;
  it("tells what of it is lit on placeholders", async () => {
    vi.spyOn(api, "surfaces").mockResolvedValue([
      line("Wall", true, 0.31),
      line("Door", true, 0.02),
      line("Oak", false, 0.4),
    ]);
    const open = vi.fn();
    render(<Placeholders slug="told" view="a" occasion="b" open={open} />);
    await userEvent.click(
      await screen.findByRole("button", { name: /2 placeholders: Wall and 1 more, 33 % of the picture/ }),
    );
    expect(open).toHaveBeenCalledWith("Wall");
  });

  it("says nothing of what is not seen", async () => {
    const asked = vi
      .spyOn(api, "surfaces")
      .mockResolvedValue([line("Far off", true, 0.001), line("Oak", false, 0.4)]);
    const { container } = render(<Placeholders slug="quiet" view="a" occasion="b" open={vi.fn()} />);
    await vi.waitFor(() => expect(asked).toHaveBeenCalled());
    expect(container.innerHTML).toBe("");
  });
});
