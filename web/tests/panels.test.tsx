// @vitest-environment jsdom
import { cleanup, render, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import { api, type Occasion, type Plate, type Project } from "../src/api/client";
import { PlateStrip } from "../src/bench/PlateStrip";
import type { Hands } from "../src/bench/useBench";
import { Groups } from "../src/fixtures/Groups";
import type { FixturesProps } from "../src/fixtures/Fixtures";
import { SeasonTab } from "../src/air/SeasonTab";
import { StageInstrument } from "../src/instruments/StageInstrument";
import { queries } from "../src/state/server";
import { useStore } from "../src/state/store";
import { noon, project } from "./room";

function hands() {
  const made = {
    occasion: vi.fn(),
    changes: vi.fn(),
    view: vi.fn(),
    lens: vi.fn(),
    look: vi.fn(),
    fixtures: vi.fn(),
  };
  return { ...made, all: made as unknown as Hands };
}

beforeEach(() => queries.clear());
const { commit: ownCommit, load: ownLoad } = useStore.getState();
afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
  useStore.setState({ commit: ownCommit, load: ownLoad, notices: [] });
});

describe("groups of fixtures", () => {
  const shown = (more: Partial<FixturesProps> = {}) => {
    const hand = hands();
    const acts = { choose: vi.fn(), openPlan: vi.fn(), setAlone: vi.fn(), chooseKind: vi.fn() };
    const props = {
      slug: "room",
      project,
      occasion: noon,
      header: { shares: { Ceiling: 0.42, Shelves: 0.001 } },
      hands: hand.all,
      chosen: [],
      alone: null,
      kind: null,
      ...acts,
      ...more,
    } as unknown as FixturesProps;
    render(<Groups {...props} />);
    return { ...hand, ...acts };
  };

  it("tell how many they are, and what each gives to the picture", () => {
    shown();
    expect(screen.getByText("4 in 2 groups. Choose one here or on the plan.")).toBeTruthy();
    expect(screen.getByText("42 %")).toBeTruthy();
    expect(screen.getByRole("note").textContent).toBe("Shelves: 2 lamps deliver 0.1 % of this picture.");
  });

  it("are switched without touching the levels of others", async () => {
    const { occasion } = shown();
    await userEvent.click(screen.getByRole("checkbox", { name: "Ceiling on" }));
    expect(occasion).toHaveBeenLastCalledWith("Switch Ceiling", { levels: { Ceiling: 0 } }, true);
    await userEvent.click(screen.getByRole("checkbox", { name: "Shelves on" }));
    expect(occasion).toHaveBeenLastCalledWith(
      "Switch Shelves",
      { levels: { Ceiling: 80, Shelves: 0 } },
      true,
    );
  });

  it("are seen alone, and together again", async () => {
    const { setAlone } = shown({ alone: "Ceiling" });
    await userEvent.click(screen.getByRole("button", { name: "Shelves alone" }));
    await userEvent.click(screen.getByRole("button", { name: "Ceiling alone" }));
    expect(setAlone.mock.calls).toEqual([["Shelves"], [null]]);
  });

  it("are chosen whole", async () => {
    const { choose } = shown();
    await userEvent.click(screen.getByRole("button", { name: /^Ceiling 2$/ }));
    expect(choose).toHaveBeenLastCalledWith(["a", "b"]);
  });

  it("are set by scenes, which say when they hold", async () => {
    const { occasion, changes } = shown();
    const dinner = screen.getByText("Dinner").parentElement!;
    expect(within(dinner).getByText("now")).toBeTruthy();
    expect(within(screen.getByText("Work").parentElement!).queryByText("now")).toBeNull();
    await userEvent.click(screen.getByRole("button", { name: "Set scene Work" }));
    const levels = { Ceiling: 100, Shelves: 50 };
    expect(occasion).toHaveBeenLastCalledWith("Scene Work", { levels }, true);
    await userEvent.click(screen.getByRole("button", { name: "Take away scene Work" }));
    expect(changes.mock.lastCall![1]).toEqual([{ part: "scene", key: "work", value: null }]);
  });

  it("are kept as a scene under a key of its own", async () => {
    const { changes } = shown();
    await userEvent.type(screen.getByRole("textbox", { name: "Name of a new scene" }), "  Dinner {Enter}");
    const value = { key: "dinner-2", name: "Dinner", levels: { Ceiling: 80, Shelves: 100 } };
    expect(changes).toHaveBeenLastCalledWith(
      "Keep scene Dinner",
      [{ part: "scene", key: "dinner-2", value }],
      true,
    );
  });

  it("say what to do when there are none", () => {
    shown({ project: { ...project, fixtures: [], scenes: [] } as Project });
    expect(screen.getByText(/^None yet. Open the ceiling plan/)).toBeTruthy();
    expect(screen.queryByText("Scenes")).toBeNull();
  });
});

describe("layers of an occasion", () => {
  const shown = async (occasion: Occasion, onStage = ["garden", "snow"]) => {
    const hand = hands();
    vi.spyOn(api, "stage").mockResolvedValue({ layers: onStage } as never);
    render(<SeasonTab slug="room" project={project} occasion={occasion} hands={hand.all} />);
    await waitFor(() => expect(api.stage).toHaveBeenCalled());
    return hand;
  };

  it("are hidden by their keys", async () => {
    const { changes } = await shown(noon);
    const hides = (value: string[]) => [{ part: "occasion", key: "noon", at: ["hidden_layers"], value }];
    await userEvent.click(await screen.findByRole("checkbox", { name: "snow" }));
    expect(changes).toHaveBeenLastCalledWith("Hide snow", hides(["snow"]), true);
    await userEvent.click(screen.getByRole("checkbox", { name: "Garden" }));
    expect(changes).toHaveBeenLastCalledWith("Hide Garden", hides(["garden"]), true);
  });

  it.each([["garden"], ["planting"]])("are shown again, hidden as %s", async (name) => {
    const { changes } = await shown({ ...noon, hidden_layers: [name, "snow"] } as Occasion);
    const garden = await screen.findByRole("checkbox", { name: "Garden" });
    expect((garden as HTMLInputElement).checked).toBe(false);
    await userEvent.click(garden);
    const change = { part: "occasion", key: "noon", at: ["hidden_layers"], value: ["snow"] };
    expect(changes).toHaveBeenLastCalledWith("Show Garden", [change], true);
  });

  it("set the season apart from what is hidden", async () => {
    const { occasion } = await shown(noon);
    await userEvent.selectOptions(screen.getByRole("combobox", { name: "Season" }), "winter");
    expect(occasion).toHaveBeenLastCalledWith("Season", { season: "winter" }, true);
  });
});

describe("the stage", () => {
  const shown = async (stage: Partial<Project> = {}) => {
    const hand = hands();
    const figures = {
      objects: 12,
      triangles: 3456,
      size_m: [6, 4, 3],
      notes: ["A word about it."],
      layers: [],
    };
    vi.spyOn(api, "stage").mockResolvedValue(figures as never);
    vi.spyOn(api, "surfaces").mockResolvedValue([] as never);
    const made = { ...project, ...stage } as Project;
    render(
      <StageInstrument
        slug="room"
        view="inside"
        occasion="noon"
        project={made}
        hands={hand.all}
        surface={null}
        object={null}
        chooseSurface={vi.fn()}
      />,
    );
    await screen.findByText("A word about it.");
    return hand;
  };

  it("takes a thing away as a whole", async () => {
    const { changes } = await shown();
    await userEvent.click(screen.getByRole("button", { name: "Take away room.glb" }));
    const gone = [{ part: "placement", key: "room", value: null }];
    expect(changes).toHaveBeenLastCalledWith("Take room.glb away", gone, true);
  });

  it("turns white card on by that field alone", async () => {
    const { changes } = await shown();
    await userEvent.click(screen.getByRole("checkbox", { name: /White card/ }));
    const on = [{ part: "stage", at: ["white_card"], value: true }];
    expect(changes).toHaveBeenLastCalledWith("White card", on, true);
  });

  it("sets where a thing stands, field by field", async () => {
    const { changes } = await shown();
    await userEvent.click(screen.getByText("at 1, 2, 0 m, in mm"));
    const said = () => changes.mock.lastCall!.slice(0, 2);
    const change = (field: string, value: unknown) => [
      { part: "placement", key: "room", at: [field], value },
    ];
    const type = async (name: RegExp, text: string) => {
      await userEvent.clear(screen.getByRole("textbox", { name }));
      await userEvent.type(screen.getByRole("textbox", { name }), `${text}{Enter}`);
    };
    await type(/^y of room.glb/, "-4.5");
    expect(said()).toEqual(["Place of room.glb", change("position", [1, -4.5, 0])]);
    await type(/^Turn of room.glb/, "30");
    expect(said()).toEqual(["Turn of room.glb", change("turn_deg", 30)]);
    await type(/^Scale of room.glb/, "0.5");
    expect(said()).toEqual(["Scale of room.glb", change("scale", 0.5)]);
    await userEvent.selectOptions(screen.getByRole("combobox", { name: "Unit of the file" }), "ft");
    expect(said()).toEqual(["Unit of room.glb", change("scale", 0.3048)]);
    await userEvent.selectOptions(screen.getByRole("combobox", { name: "Layer" }), "garden");
    expect(said()).toEqual(["Layer of room.glb", change("layer", "garden")]);
  });

  it("says when nothing stands there", async () => {
    await shown({ placements: [] });
    expect(screen.getByText("Nothing yet: open a model.")).toBeTruthy();
    expect(within(screen.getByRole("list", { name: "Models" })).queryByText("room.glb")).toBeNull();
  });
});

describe("the strip of plates", () => {
  const plate = (id: number, rank: number | null = null, name = "") =>
    ({
      id,
      rank,
      name,
      quality: "proof",
      created: "2026-06-21T10:00:00Z",
      width: 8,
      height: 4,
    }) as unknown as Plate;
  const shown = (plates: Plate[], chosen: number | null = null) => {
    const commit = vi.fn().mockResolvedValue(true);
    useStore.setState({ commit });
    const acts = { choose: vi.fn(), keep: vi.fn(), together: vi.fn(), openCell: vi.fn() };
    const live = { url: "blob:1" } as never;
    vi.spyOn(api, "thinning").mockResolvedValue({ plates: [1, 2], rule: "The rule." });
    render(
      <PlateStrip
        live={live}
        plates={plates}
        chosen={chosen}
        others={[]}
        label="Inside"
        slug="room"
        {...acts}
      />,
    );
    return { commit, ...acts };
  };
  const more = async (about: RegExp, item: string) => {
    await userEvent.click(screen.getByRole("button", { name: about }));
    await userEvent.click(await screen.findByRole("button", { name: item }));
  };

  it.each([
    ["between its neighbours", "Left", 2, 6.5],
    ["before the first", "Left", 1, 8],
    ["behind the last", "Right", 1, 4],
  ])("moves one %s", async (_, way, index, rank) => {
    const plates = [plate(7), plate(6), plate(5)];
    const { commit } = shown(plates);
    const name = `More: plate “proof of`;
    const buttons = screen.getAllByRole("button", { name: new RegExp(name) });
    await userEvent.click(buttons[index]);
    await userEvent.click(await screen.findByRole("button", { name: way }));
    const id = String(plates[index].id);
    const change = { part: "plate", key: id, at: ["rank"], value: rank };
    expect(commit).toHaveBeenLastCalledWith("Move plate", [change]);
  });

  it("lets go of the chosen one that is taken away, and offers it back", async () => {
    const { commit, choose } = shown([plate(3, null, "Best")], 3);
    await more(/More: plate “Best”/, "Take away");
    expect(choose).toHaveBeenLastCalledWith(null);
    expect(commit).toHaveBeenLastCalledWith("Take plate away", [{ part: "plate", key: "3", value: null }]);
    await waitFor(() => expect(useStore.getState().notices.at(-1)?.text).toBe("Plate “Best” is taken away."));
  });

  it("stars, compares together by Shift, and brings settings back", async () => {
    const load = vi.fn().mockResolvedValue(undefined);
    useStore.setState({ load });
    const { commit, together, choose, openCell } = shown([plate(3, null, "Best"), plate(4)]);
    await more(/More: plate “Best”/, "Star");
    expect(commit).toHaveBeenLastCalledWith("Star of a plate", [
      { part: "plate", key: "3", at: ["starred"], value: true },
    ]);
    const user = userEvent.setup();
    await user.keyboard("{Shift>}");
    await user.click(screen.getByRole("button", { name: /^Best, Inside/ }));
    await user.keyboard("{/Shift}");
    expect(together).toHaveBeenLastCalledWith(3);
    const back = vi
      .spyOn(api, "settingsBack")
      .mockResolvedValue({ view: "inside-2", occasion: "noon-2", project: {} as never });
    await more(/More: plate “Best”/, "Its settings, over these");
    await waitFor(() => expect(back).toHaveBeenLastCalledWith(3, false));
    expect(openCell).not.toHaveBeenCalled();
    await more(/More: plate “Best”/, "Its settings, as a view of their own");
    await waitFor(() => expect(openCell).toHaveBeenLastCalledWith("inside-2", "noon-2"));
    expect(choose).toHaveBeenLastCalledWith(null);
    const thin = vi.spyOn(api, "thin").mockResolvedValue({} as never);
    await more(/More: plate “Best”/, "Thin old plates (2)");
    expect(thin).toHaveBeenCalledWith("room");
    await waitFor(() =>
      expect(useStore.getState().notices.at(-1)?.text).toBe("2 old plates are put away. The rule."),
    );
  });

  it("says how the first one comes about", async () => {
    const { keep } = shown([]);
    expect(screen.getByText(/^No plate yet/)).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: "Keep live" }));
    expect(keep).toHaveBeenCalled();
  });
});
