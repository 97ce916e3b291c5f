// @vitest-environment jsdom
import { act, cleanup, renderHook, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import { api, type CatalogueSurface, type Project } from "../src/api/client";
import type { Hands } from "../src/bench/useBench";
import { queries } from "../src/state/server";
import { useStore } from "../src/state/store";
import { isApart, setApart } from "../src/surfaces/apart";
import { dressed, useSurfaceDrop } from "../src/surfaces/useSurfaceDrop";

const oak = { key: "oak", name: "Oak", surface: { base: [0.4, 0.3, 0.2] } } as unknown as CatalogueSurface;
const apart = [{ object: "table", material: "wood", name: "wood, table" }];
const project = { stage: { apart, surfaces: { wood: { roughness: 0.3 } } } } as unknown as Project;
const met = {
  material: "wood",
  object: "shelf",
  point: [0, 0, 0],
  normal: [0, 0, 1],
  thing: null,
  distance_m: 1,
};
const { answered } = useStore.getState();

beforeEach(() => {
  queries.clear();
  useStore.setState({ answered: () => null, notices: [] });
  vi.spyOn(api, "catalogueSurfaces").mockResolvedValue([oak]);
});
afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
  useStore.setState({ answered, notices: [] });
});

describe("what an object has of a material", () => {
  it("stands apart under a name of its own, and keeps how it was dressed", () => {
    expect(setApart(project, "shelf", "wood")).toEqual({
      name: "wood, shelf",
      changes: [
        {
          part: "stage",
          at: ["apart"],
          value: [...apart, { object: "shelf", material: "wood", name: "wood, shelf" }],
        },
        { part: "stage", at: ["surfaces", "wood, shelf"], value: { roughness: 0.3 } },
      ],
    });
    expect(setApart(project, "table", "wood").name).toBe("wood, table 2");
    expect(setApart({} as Project, "a", "b").changes).toHaveLength(1);
    expect(isApart(project, "wood, table")).toBe(true);
    expect(isApart(project, "wood")).toBe(false);
  });

  it("is dressed alone once, whether it stood apart before or not", () => {
    expect(dressed(project, met, false)).toEqual({ name: "wood", changes: [] });
    expect(dressed(project, met, true).name).toBe("wood, shelf");
    expect(dressed(project, met, true).changes).toHaveLength(1);
    expect(dressed(project, { material: "wood, table", object: "table" }, true).changes).toEqual([]);
    expect(dressed(project, { material: "wood", object: "" }, true)).toEqual({ name: "wood", changes: [] });
  });
});

describe("a surface dropped on the picture", () => {
  const shown = async () => {
    const changes = vi.fn();
    const open = vi.fn();
    const hands = { changes } as unknown as Hands;
    const bench = { slug: "room", view: "v", occasion: "o", project, hands, open };
    const hook = renderHook(() => useSurfaceDrop(bench));
    await waitFor(() => expect(api.catalogueSurfaces).toHaveBeenCalled());
    await waitFor(() => expect(queries.isFetching()).toBe(0));
    return { changes, open, drop: () => hook.result.current };
  };

  it("goes onto what is seen there, everywhere", async () => {
    const pick = vi.spyOn(api, "pick").mockResolvedValue(met as never);
    const { changes, open, drop } = await shown();
    await act(async () => drop().let(0.2, 0.7, "oak", false));
    expect(pick).toHaveBeenLastCalledWith("room", { view: "v", occasion: "o", picture: [0.2, 0.7] });
    expect(changes).toHaveBeenLastCalledWith(
      "Oak on wood",
      [{ part: "stage", at: ["surfaces", "wood"], value: oak.surface }],
      true,
    );
    expect(open).toHaveBeenLastCalledWith("wood");
  });

  it("goes with Shift onto that object alone, in one step", async () => {
    vi.spyOn(api, "pick").mockResolvedValue(met as never);
    const { changes, drop } = await shown();
    await act(async () => drop().let(0.2, 0.7, "oak", true));
    const list = changes.mock.lastCall![1];
    expect(list.map((c: { at: string[] }) => c.at)).toEqual([["apart"], ["surfaces", "wood, shelf"]]);
  });

  it("says on the way what letting go would do", async () => {
    const pick = vi.spyOn(api, "pick").mockResolvedValue(met as never);
    const { drop } = await shown();
    await act(async () => drop().over(0.5, 0.5, false));
    expect(drop().told).toBe("On wood, everywhere; with Shift on shelf alone");
    await act(async () => drop().over(0.5, 0.5, true));
    expect(drop().told).toBe("On shelf alone");
    pick.mockResolvedValue(null as never);
    await act(async () => drop().over(0.5, 0.1, false));
    expect(drop().told).toMatch(/^Nothing of the stage/);
    act(() => drop().leave());
    expect(drop().told).toBeNull();
  });

  it("does nothing on the sky, and nothing where the catalogue has no such surface", async () => {
    vi.spyOn(api, "pick").mockResolvedValue(null as never);
    const { changes, drop } = await shown();
    await act(async () => drop().let(0.5, 0.1, "oak", false));
    await act(async () => drop().let(0.5, 0.1, "gone", false));
    expect(changes).not.toHaveBeenCalled();
    expect(useStore.getState().notices).toHaveLength(1);
  });
});
