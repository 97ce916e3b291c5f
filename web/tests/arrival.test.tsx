// @vitest-environment jsdom
import { cleanup, fireEvent, render, screen, waitFor, within } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import { api, type Arrival } from "../src/api/client";
import { ArrivalSheet, proposal } from "../src/arrival/ArrivalSheet";
import { useArrivals } from "../src/arrival/arrivals";
import { lengthText, pathOf, projection } from "../src/arrival/projected";

afterEach(cleanup);

const IDENTITY = [
  [1, 0, 0],
  [0, 1, 0],
  [0, 0, 1],
];
const Y_UP = [
  [1, 0, 0],
  [0, 0, -1],
  [0, 1, 0],
];

function arrival(some: Partial<Arrival["sheet"]> = {}, replaces: string | null = null): Arrival {
  return {
    key: "a".repeat(64),
    replaces,
    units: [
      ["m", 1],
      ["mm", 0.001],
    ],
    axes: { z: IDENTITY, y: Y_UP, x: IDENTITY, "-z": IDENTITY, "-y": IDENTITY, "-x": IDENTITY },
    sheet: {
      name: "house.obj",
      unit: { unit: "mm", metres: 0.001, reason: "2 doors are 2100 high.", stated: false, doubtful: true },
      up: { up: "z", reason: "Nothing speaks against it.", doubtful: false },
      low: [0, 0, 0],
      high: [8000, 5000, 3000],
      frame: [
        [0, 0, 0],
        [8000, 5000, 3000],
      ],
      far: null,
      objects: 2,
      triangles: 24,
      memory_bytes: 10_000_000,
      layers: ["Walls"],
      materials: ["oak", "oak 2"],
      doubts: [
        {
          kind: "flipped",
          text: "One faces the other way.",
          about: "wall",
          box: [
            [0, 0, 0],
            [10, 10, 10],
          ],
        },
        { kind: "said", text: "A picture is missing.", about: "", box: null },
      ],
      lines: [[0, 0, 0, 8000, 0, 0]],
      cameras: [{ name: "Hall", position: [0, 0, 1], ahead: [0, 1, 0], height_deg: 40, aspect: null }],
      lights: [],
      site: null,
      compared: null,
      ...some,
    },
  } as unknown as Arrival;
}

describe("what a file holds on the drawing", () => {
  const { sheet } = arrival();
  it("is set upright and scaled, its foot at zero and its middle over it", () => {
    const shown = projection(sheet, IDENTITY, 0.001, 0);
    expect(shown.size).toEqual([8, 5, 3]);
    expect(shown.at([0, 0, 0])).toEqual([-4, -2.5, 0]);
    expect(shown.at([8000, 5000, 3000])).toEqual([4, 2.5, 3]);
  });
  it("lies on its side where another axis is taken", () => {
    const shown = projection(sheet, Y_UP, 0.001, 0);
    expect(shown.size).toEqual([8, 3, 5]);
    expect(shown.at([0, 5000, 0])[2]).toBeCloseTo(5);
  });
  it("turns about its middle without another size", () => {
    const shown = projection(sheet, IDENTITY, 0.001, 90);
    expect(shown.size).toEqual([8, 5, 3]);
    const [x, y] = shown.at([8000, 0, 0]);
    expect([x, y].map((v) => Number(v.toFixed(6)))).toEqual([2.5, 4]);
  });
  it("is drawn with its extent", () => {
    expect(pathOf([[0, 0, 3, 4]])).toEqual({
      d: "M0 0L3 -4",
      extent: { left: 0, right: 3, low: 0, high: 4 },
    });
  });
  it.each([
    [12345, "12.3 km"],
    [38, "38 m"],
    [2.1, "2.1 m"],
    [0.0692, "69.2 mm"],
    [0, "0 m"],
  ])("tells %f m as %s", (metres, text) => expect(lengthText(metres)).toBe(text));
});

describe("the arrival sheet", () => {
  beforeEach(() => useArrivals.setState({ arrivals: [] }));
  afterEach(() => vi.restoreAllMocks());

  it("proposes what was found, and for a newer file the likely materials", () => {
    expect(proposal(arrival())).toMatchObject({ metres: 0.001, up: "z", to_middle: false, as_before: false });
    const compared = {
      new: [],
      gone: [],
      kept: 2,
      lost: [
        { name: "old", likely: "oak" },
        { name: "x", likely: null },
      ],
    };
    expect(proposal(arrival({ compared, far: [1, 2, 3] }, "house"))).toMatchObject({
      to_middle: true,
      as_before: true,
      renamed: { old: "oak" },
    });
  });

  it("sends what was overruled, and says what the server refuses", async () => {
    const take = vi.spyOn(api, "takeArrival").mockRejectedValue(new Error("the same file stands already"));
    useArrivals.getState().add("mill", arrival());
    render(<ArrivalSheet slug="mill" arrival={arrival()} />);
    const sheet = within(screen.getByRole("dialog"));
    expect(sheet.getByRole("radio", { name: "mm" }).getAttribute("aria-checked")).toBe("true");
    fireEvent.click(sheet.getByRole("radio", { name: "m" }));
    fireEvent.click(sheet.getByRole("radio", { name: "y" }));
    fireEvent.click(sheet.getByRole("checkbox", { name: /1 camera, as views: Hall/ }));
    const dial = sheet.getByRole("slider", { name: "North on the plan" });
    fireEvent.keyDown(dial, { key: "ArrowLeft", shiftKey: true });
    expect(dial.getAttribute("aria-valuenow")).toBe("15");
    fireEvent.click(sheet.getByRole("button", { name: "Put it on the stage" }));
    await waitFor(() => expect(sheet.getByRole("alert").textContent).toContain("stands already"));
    expect(take).toHaveBeenCalledWith(
      "mill",
      "a".repeat(64),
      expect.objectContaining({ metres: 1, up: "y", cameras: [0], north_deg: 15 }),
    );
    expect(useArrivals.getState().arrivals).toHaveLength(1);
    fireEvent.click(sheet.getByRole("button", { name: "Leave it" }));
    expect(useArrivals.getState().arrivals).toHaveLength(0);
  });

  it("shows where a doubtful thing is, and puts that away again", () => {
    render(<ArrivalSheet slug="mill" arrival={arrival()} />);
    const doubt = screen.getByRole("button", { name: /One faces the other way/ });
    const marks = () => document.querySelectorAll("svg [data-pointed]").length;
    expect(marks()).toBe(0);
    fireEvent.click(doubt);
    expect(marks()).toBe(2);
    fireEvent.click(doubt);
    expect(marks()).toBe(0);
    expect(screen.queryByRole("button", { name: "A picture is missing." })).toBeNull();
  });

  it("lets a lost surface go to another material, or to none", () => {
    const compared = { new: ["roof"], gone: [], kept: 2, lost: [{ name: "old", likely: "oak" }] };
    render(<ArrivalSheet slug="mill" arrival={arrival({ compared }, "house")} />);
    const box = screen.getByRole("combobox", { name: /“old” goes to/ });
    expect((box as HTMLInputElement).value).toBe("oak");
    fireEvent.change(box, { target: { value: "oak 2" } });
    expect((box as HTMLInputElement).value).toBe("oak 2");
    expect(screen.getByText(/New: roof\./)).toBeTruthy();
  });
});
