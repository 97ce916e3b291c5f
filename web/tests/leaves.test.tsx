// @vitest-environment jsdom
import { act, cleanup, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import { api, type LeafOffer, type Occasion, type Project, Refusal } from "../src/api/client";
import type { Hands } from "../src/bench/useBench";
import { queries } from "../src/state/server";
import { useStore } from "../src/state/store";
import { useHand } from "../src/things/hand";
import { LeafShadow } from "../src/things/LeafShadow";
import { useThingPointer } from "../src/things/useThingPointer";
import { noon } from "./room";

const spot = {
  point: [1, 2, 0] as [number, number, number],
  normal: [0, 0, 1] as [number, number, number],
  object: "floor",
};
const birch = {
  family: "birch",
  name: "Birch",
  parameters: { height: 7.25, season: 0, seed: 1 },
  height_m: 7.25,
  position: [3, -6, 0],
  distance_m: 8.5,
  edge_m: 0.079,
  shade: 0.42,
  picture: "data:image/png;base64,AA==",
} as LeafOffer;
const { answered } = useStore.getState();

function Shown({ occasion = noon }: { occasion?: Occasion }) {
  const leaves = useHand((s) => s.leaves);
  return leaves && <LeafShadow slug="room" occasion={occasion} wanted={leaves} />;
}

beforeEach(() => {
  queries.clear();
  useStore.setState({ answered: () => null });
  useHand.setState({ leaves: { spot: null, across: 1.6 }, chosen: [], armed: null, tab: "objects" });
});
afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
  useStore.setState({ answered, saved: null, notices: [] });
  useHand.setState({ leaves: null, chosen: [], tab: "models" });
});

describe("leaf shadow", () => {
  it("asks for nothing before it is pointed, then for the place as wide as it is wanted", async () => {
    const ask = vi.spyOn(api, "leafShadow").mockResolvedValue([birch]);
    render(<Shown />);
    expect(screen.getByText(/^Point at the floor or wall/)).toBeTruthy();
    expect(ask).not.toHaveBeenCalled();
    act(() => useHand.setState({ leaves: { spot, across: 1.6 } }));
    expect(screen.getByText(/^Following the sun’s line/)).toBeTruthy();
    await screen.findByRole("button", { name: /^Birch, 7\.3 m high/ });
    expect(ask).toHaveBeenLastCalledWith("room", {
      occasion: "noon",
      point: [1, 2, 0],
      normal: [0, 0, 1],
      reach_m: 0.8,
    });
    const width = screen.getByRole("textbox", { name: /^Width of the place/ });
    await userEvent.clear(width);
    await userEvent.type(width, "3{Enter}");
    await screen.findByRole("button", { name: /^Birch/ });
    expect(ask.mock.lastCall![1].reach_m).toBe(1.5);
  });

  it("tells of each tree what it does, and plants the one that is pressed", async () => {
    vi.spyOn(api, "leafShadow").mockResolvedValue([birch]);
    const saved = { slug: "room", revision: 2, description: { layers: [] } } as never;
    const place = vi.spyOn(api, "placeThing").mockResolvedValue({ key: "birch", project: saved } as never);
    useHand.setState({ leaves: { spot, across: 1.6 } });
    render(<Shown />);
    const offer = await screen.findByRole("button", { name: /^Birch/ });
    expect(offer.textContent).toContain("9 m away; edges 7.9 cm wide; takes 42 % of the sun");
    await userEvent.click(offer);
    expect(place.mock.lastCall![1]).toMatchObject({
      family: "birch",
      parameters: { height: 7.25 },
      position: [3, -6, 0],
      turn_deg: 0,
    });
    expect(useHand.getState()).toMatchObject({ leaves: null, chosen: ["birch"] });
  });

  it("says why there is no sun, and what to do where no tree can stand", async () => {
    const ask = vi
      .spyOn(api, "leafShadow")
      .mockRejectedValue(new Refusal(422, "point: roof stands in its way."));
    useHand.setState({ leaves: { spot, across: 1.6 } });
    const { rerender } = render(<Shown />);
    expect(await screen.findByText("point: roof stands in its way.")).toBeTruthy();
    ask.mockResolvedValue([]);
    rerender(<Shown occasion={{ ...noon, when: "2026-06-21T15:00:00" } as Occasion} />);
    expect(await screen.findByText(/no tree can stand in its way/)).toBeTruthy();
    expect(screen.queryByText("point: roof stands in its way.")).toBeNull();
  });

  it("takes what is pointed at next, chooses nothing by it, and is put away by Escape", async () => {
    const met = { ...spot, material: "oak", thing: "chair", distance_m: 2 };
    vi.spyOn(api, "pick").mockResolvedValue(met as never);
    const otherwise = vi.fn();
    let pointer: ReturnType<typeof useThingPointer>;
    function Pointer() {
      pointer = useThingPointer({
        slug: "room",
        view: "v",
        occasion: "noon",
        project: { placements: [] } as unknown as Project,
        hands: {} as Hands,
        otherwise,
      });
      return null;
    }
    render(<Pointer />);
    await act(() => pointer.point({ picture: [0.5, 0.5] }));
    expect(useHand.getState()).toMatchObject({ leaves: { spot, across: 1.6 }, chosen: [] });
    expect(otherwise).not.toHaveBeenCalled();
    act(() => expect(pointer.putAway()).toBe(true));
    expect(useHand.getState().leaves).toBeNull();
  });
});
