// @vitest-environment jsdom
import { act, cleanup, render, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import { api, type Occasion, type Placement, type Project } from "../src/api/client";
import type { Hands } from "../src/bench/useBench";
import { queries } from "../src/state/server";
import { useStore } from "../src/state/store";
import { useHand } from "../src/things/hand";
import { isAmong, layersOf, takenAway, withLayer } from "../src/things/layers";
import { Layers } from "../src/things/Layers";
import { placeThing } from "../src/things/placing";
import { noon } from "./room";

const GARDEN = { key: "garden", name: "Garden", in_models: "planting" };
const TREES = { key: "trees", name: "Trees", in_models: null };
const oak = { key: "oak", name: "Oak", made: { family: "oak" }, layer: "trees" } as unknown as Placement;
const project = {
  name: "Room",
  stage: { boxed: ["trees"] },
  layers: [GARDEN, TREES],
  placements: [oak, { ...oak, key: "elm", name: "Elm", layer: null }],
  occasions: [noon, { ...noon, key: "night", hidden_layers: ["trees", "snow"] }],
} as unknown as Project;
const weight = (layer: string, pieces: number, triangles: number, kept = triangles) => ({
  layer,
  pieces,
  triangles,
  kept,
});

beforeEach(() => {
  queries.clear();
  useHand.setState({ layer: null, chosen: [], armed: null, tab: "layers" });
});
afterEach(() => {
  cleanup();
  useHand.setState({ layer: null, chosen: [], tab: "models" });
  vi.restoreAllMocks();
});

describe("layers", () => {
  it("are those of the project, then those that models alone know", () => {
    const listed = layersOf([GARDEN, TREES], ["snow", "garden"]);
    expect(listed.map((l) => [l.key, l.name, l.inModels, l.listed])).toEqual([
      ["garden", "Garden", true, true],
      ["trees", "Trees", false, true],
      ["snow", "snow", true, false],
    ]);
    expect(layersOf([], [])).toEqual([]);
    const crossed = [
      { key: "snow", name: "Snow", in_models: "winter" },
      { key: "winter", name: "Winter", in_models: null },
    ];
    expect(layersOf(crossed, []).map((l) => l.names)).toEqual([["snow"], ["winter"]]);
  });

  it("are named once in a list, whatever name they stood under", () => {
    const [garden] = layersOf([GARDEN], []);
    expect(isAmong(["planting"], garden)).toBe(true);
    expect(withLayer(["planting", "snow"], garden, true)).toEqual(["garden", "snow"]);
    expect(withLayer(["planting", "garden", "snow"], garden, false)).toEqual(["snow"]);
  });

  it("go with all that named them, and what stood on them stays", () => {
    const trees = layersOf(project.layers!, [])[1];
    expect(takenAway(project, trees)).toEqual([
      { part: "placement", key: "oak", at: ["layer"], value: null },
      { part: "occasion", key: "night", at: ["hidden_layers"], value: ["snow"] },
      { part: "stage", at: ["boxed"], value: [] },
      { part: "layer", key: "trees", value: null },
    ]);
  });
});

describe("the sheet of layers", () => {
  const shown = async (some: Partial<Project> = {}, occasion: Occasion = noon) => {
    const changes = vi.fn();
    const weights = [weight("garden", 1, 900), weight("snow", 2, 40), weight("trees", 3, 6000, 2000)];
    vi.spyOn(api, "stage").mockResolvedValue({ layers: ["garden", "snow", "trees"], weights } as never);
    const hands = { changes } as unknown as Hands;
    render(<Layers slug="room" project={{ ...project, ...some }} occasion={occasion} hands={hands} />);
    await screen.findByText("3 pieces, boxes for 6,000 triangles");
    return changes;
  };
  const line = (name: string) => within(screen.getByRole("listitem", { name }));

  it("tells what each costs, and what boxes spare", async () => {
    await shown();
    expect(line("Garden").getByText("1 piece, 900 triangles")).toBeTruthy();
    expect(screen.getByText(/^5,964 triangles less in the live picture/)).toBeTruthy();
  });

  it("has boxes stand for what is heavy, and shows it again", async () => {
    const changes = await shown();
    await userEvent.click(line("Garden").getByRole("checkbox", { name: "As boxes" }));
    const boxed = (value: string[]) => [{ part: "stage", at: ["boxed"], value }];
    expect(changes).toHaveBeenLastCalledWith("Stand as boxes", boxed(["garden", "trees"]), true);
    await userEvent.click(line("Trees").getByRole("checkbox", { name: "As boxes" }));
    expect(changes).toHaveBeenLastCalledWith("Stand in their shape", boxed([]), true);
  });

  it("shows and hides at the occasion alone", async () => {
    const changes = await shown();
    await userEvent.click(line("Trees").getByRole("checkbox", { name: "Shown at Noon" }));
    const change = { part: "occasion", key: "noon", at: ["hidden_layers"], value: ["trees"] };
    expect(changes).toHaveBeenLastCalledWith("Hide Trees", [change], true);
  });

  it("makes one under a key of its own, and new things stand on it", async () => {
    const changes = await shown();
    await userEvent.click(screen.getByRole("button", { name: "Make a layer" }));
    const field = screen.getByRole("textbox", { name: "Name of the new layer" });
    await userEvent.clear(field);
    await userEvent.type(field, "Trees{Enter}");
    const value = { key: "trees-2", name: "Trees", in_models: null };
    expect(changes).toHaveBeenLastCalledWith(
      "Make layer Trees",
      [{ part: "layer", key: "trees-2", value }],
      true,
    );
    expect(useHand.getState().layer).toBe("trees-2");
  });

  it("renames a model's own layer as if it were ours", async () => {
    const changes = await shown();
    await userEvent.click(screen.getByRole("button", { name: "More: layer “snow”" }));
    await userEvent.click(screen.getByRole("button", { name: "Rename…" }));
    const field = screen.getByRole("textbox", { name: "Name of layer “snow”" });
    await userEvent.clear(field);
    await userEvent.type(field, "Deep snow{Enter}");
    const value = { key: "deep-snow", name: "Deep snow", in_models: "snow" };
    expect(changes.mock.lastCall![1]).toEqual([{ part: "layer", key: "deep-snow", value }]);
  });

  it("puts in order, takes what is chosen, and chooses what stands on one", async () => {
    useHand.setState({ chosen: ["elm"] });
    const changes = await shown();
    const act = async (name: string) => {
      await userEvent.click(screen.getByRole("button", { name: "More: layer “Trees”" }));
      await userEvent.click(screen.getByRole("button", { name }));
    };
    await act("Up");
    expect(changes).toHaveBeenLastCalledWith("Move layer", [{ part: "layer", key: "trees", place: 0 }], true);
    await act("Put what is chosen here");
    const change = { part: "placement", key: "elm", at: ["layer"], value: "trees" };
    expect(changes).toHaveBeenLastCalledWith("Put on Trees", [change], true);
    await act("Choose what stands on it");
    expect(useHand.getState()).toMatchObject({ chosen: ["oak"], tab: "objects" });
  });

  it("keeps layers that a model brings", async () => {
    await shown();
    await userEvent.click(screen.getByRole("button", { name: "More: layer “Garden”" }));
    const away = screen.getByRole("button", { name: "Take away" });
    await waitFor(() => expect(away.className).toContain("disabled"));
  });
});

describe("a new thing", () => {
  it("stands on the active layer while there is such a one", async () => {
    const saved = { slug: "room", revision: 1, description: project } as never;
    const place = vi.spyOn(api, "placeThing").mockResolvedValue({ key: "x", project: saved } as never);
    useStore.setState({ saved });
    const wanted = { family: "oak", parameters: {}, position: [0, 0, 0] } as never;
    for (const [layer, got] of [
      [null, null],
      ["trees", "trees"],
      ["gone", null],
    ] as const) {
      act(() => useHand.setState({ layer }));
      await placeThing("room", wanted);
      expect(place.mock.lastCall![1]).toMatchObject({ family: "oak", layer: got });
    }
    useStore.setState({ saved: null, draft: [] });
  });
});
