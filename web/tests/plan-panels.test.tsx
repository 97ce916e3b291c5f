// @vitest-environment jsdom
import { cleanup, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { MemoryRouter } from "react-router";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import { type KindFigures, type Occasion, type Project } from "../src/api/client";
import { stateOf, STEPS } from "../src/bench/steps";
import { Thread } from "../src/bench/Thread";
import { KindStrip } from "../src/plan/KindStrip";
import { PlanLegend } from "../src/plan/PlanLegend";
import { queries } from "../src/state/server";
import { useStore } from "../src/state/store";
import { classesOf } from "../src/ui/classes";
import { noon, project, view } from "./room";

beforeEach(() => queries.clear());
const { commit: ownCommit } = useStore.getState();
afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
  useStore.setState({ commit: ownCommit, notices: [] });
});

describe("kinds within reach", () => {
  const kind = (key: string, beam: [number, number]) =>
    ({
      kind: { key, name: key },
      beam_deg: beam,
      lumens: 812.4,
      peak_cd: 100,
      warnings: [],
      source_format: "LM-63",
      gamma_deg: [0, 90],
      across_cd: [1, 0],
      along_cd: [1, 0],
    }) as unknown as KindFigures;

  it("tell their flux and spread, and are put back by a second press", async () => {
    const choose = vi.fn();
    const kinds = [kind("spot", [24.4, 23.6]), kind("line", [90, 60]), kind("globe", [360, 200])];
    render(
      <MemoryRouter>
        <KindStrip slug="room" kinds={kinds} kind="line" choose={choose} />
      </MemoryRouter>,
    );
    expect(screen.getByText("812 lm 24°")).toBeTruthy();
    expect(screen.getByText("812 lm 90°×60°")).toBeTruthy();
    expect(screen.getByText("812 lm diffuse")).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: /spot/ }));
    await userEvent.click(screen.getByRole("button", { name: /line/ }));
    expect(choose.mock.calls).toEqual([["spot"], [null]]);
  });

  it("and the plan's legend says what the hand does", () => {
    const { rerender } = render(<PlanLegend tool="one" places={false} room={null as never} />);
    expect(screen.getByText(/^drag to move/)).toBeTruthy();
    rerender(<PlanLegend tool="one" places room={{ average: 311.6, greatest: 740.2 } as never} />);
    expect(screen.getByText(/^click where it hangs/)).toBeTruthy();
    expect(screen.getByText(/mean 312 lx, greatest 740 lx/)).toBeTruthy();
  });
});

describe("the order of work", () => {
  it("tells the state of each step in a few words", () => {
    const told = STEPS.map((step) => stateOf(step, project, view, noon, 61.7));
    // EV = log2(N² / t) at ISO 100: log2(64 × 60) = 11.9.
    expect(told).toEqual(["1 model", "12:30, 62°", "3 of 4 on", "autumn", "EV 11.9", "Plain", "empty"]);
    const stood = { ...project, cutouts: [{ view: view.key }, { view: "elsewhere" }] } as unknown as Project;
    expect(stateOf("compose", stood, view, noon, null)).toBe("1 cut-out");
    const dark = { ...noon, levels: { Ceiling: 0, Shelves: 0 } } as Occasion;
    expect(stateOf("fixtures", project, view, dark, null)).toBe("4 off");
    expect(stateOf("daylight", project, view, noon, null)).toBe("12:30");
    const card = { ...project, stage: { white_card: true }, placements: [{}, {}] } as unknown as Project;
    expect(stateOf("stage", card, view, noon, null)).toBe("2 models, card");
    expect(stateOf("stage", { ...project, placements: [] } as Project, view, noon, null)).toBe("empty");
  });

  it("marks what changed since the plate, and undoes what it names", async () => {
    const acts = { choose: vi.fn(), onStep: vi.fn(), zones: vi.fn() };
    render(
      <Thread
        current="lens"
        changed={new Set(["daylight"])}
        project={project}
        view={view}
        occasion={noon}
        altitude={10}
        undo="Hour"
        redo={null}
        toggles={[["Zones", "Z", true, acts.zones]]}
        {...acts}
      />,
    );
    expect(screen.getByRole("button", { name: /Lens/ }).getAttribute("aria-current")).toBe("step");
    await userEvent.click(screen.getByRole("button", { name: /Daylight.*changed since the plate/ }));
    expect(acts.choose).toHaveBeenCalledWith("daylight");
    const undo = screen.getByRole("button", { name: /^Undo/ });
    expect(undo.title).toBe("Hour");
    await userEvent.click(undo);
    expect(acts.onStep).toHaveBeenCalledWith("undo");
    expect((screen.getByRole("button", { name: /^Redo/ }) as HTMLButtonElement).disabled).toBe(true);
    await userEvent.click(screen.getByRole("button", { name: /^Zones/, pressed: true }));
    expect(acts.zones).toHaveBeenCalled();
  });
});

describe("class names", () => {
  it("are a component's where its sheets know them, and hold everywhere else", () => {
    const cls = classesOf({ strip: "PlateStrip_strip" }, { plan: "plan_plan" });
    expect(cls("strip quiet  plan")).toBe("PlateStrip_strip quiet plan_plan");
    expect(cls(`strip ${false ? "x" : ""}`)).toBe("PlateStrip_strip");
    expect([cls(undefined), cls(false), cls("")]).toEqual(["", "", ""]);
  });
});
