// @vitest-environment jsdom
import { act, cleanup, fireEvent, render, renderHook, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import { api, type Look, type Plate, type Project, type TreatmentLine } from "../src/api/client";
import { SavePlates } from "../src/bench/SavePlates";
import type { Hands } from "../src/bench/useBench";
import { Finish } from "../src/finish/Finish";
import { LimitEditor } from "../src/finish/LimitEditor";
import type { Limit } from "../src/finish/treatments";
import { useFinishPointer } from "../src/finish/useFinishPointer";
import { queries } from "../src/state/server";
import { useStore } from "../src/state/store";
import { noon, project as room, view } from "./room";

const number = (field: string, label: string, low: number, high: number, step: number, unit = "") => ({
  field,
  label,
  normal: 0,
  low,
  high,
  step,
  unit,
});
const line = (kind: string, title: string, place: number, numbers: ReturnType<typeof number>[]) =>
  ({
    kind,
    title,
    place,
    about: `${title} does what it does.`,
    numbers,
    at_first: {
      kind,
      on: true,
      strength: 1,
      limit: null,
      ...Object.fromEntries(numbers.map((n) => [n.field, 0])),
    },
  }) as unknown as TreatmentLine;
const KINDS = [
  line("vignette", "Vignette", 16, [number("stops", "Corners", -3, 1, 0.05, "stops")]),
  line("exposure", "Exposure", 20, [number("stops", "Stops", -4, 4, 0.05)]),
  line("white_balance", "White balance", 30, [number("kelvin", "White", 2000, 12000, 50, "K")]),
  line("contrast", "Contrast", 50, [number("amount", "Amount", -1, 1, 0.02)]),
];
const look = {
  key: "plain",
  name: "Plain",
  treatments: [
    { kind: "exposure", on: true, stops: 0 },
    { kind: "contrast", on: false, amount: 0.2 },
  ],
} as unknown as Look;
const project = { ...room, looks: [look] } as unknown as Project;
const ready = { key: "graphite", name: "Graphite", treatments: [] } as unknown as Look;
const header = { width: 480, samples: 1, altitude_deg: 30, shares: {}, histogram: null } as never;

const hands = () => ({ look: vi.fn(), view: vi.fn(), changes: vi.fn() }) as unknown as Hands;
const pointer = () =>
  ({
    look,
    inPicture: null,
    setInPicture: vi.fn(),
    acts: { press: vi.fn(), drag: vi.fn(), point: vi.fn() },
  }) as never;
const laid = (given: Hands) => vi.mocked(given.look).mock.lastCall![1].treatments!;

const { answered } = useStore.getState();

beforeEach(() => {
  queries.clear();
  useStore.setState({ answered: () => null } as never);
  vi.spyOn(api, "treatments").mockResolvedValue(KINDS);
  vi.spyOn(api, "readyLooks").mockResolvedValue([ready]);
  vi.spyOn(api, "tryLooks").mockImplementation(async (_s, _v, _o, looks) =>
    looks.map((_, k) => `data:,${k}`),
  );
});
afterEach(() => {
  cleanup();
  useStore.setState({ answered });
  vi.restoreAllMocks();
});

async function shown(given = hands(), mark = vi.fn()) {
  render(
    <Finish
      slug="room"
      project={project}
      view={view}
      occasion={noon}
      plate={null}
      header={header}
      hands={given}
      pointer={pointer()}
      marked={null}
      mark={mark}
    />,
  );
  await screen.findByRole("region", { name: "Exposure" });
  return given;
}

describe("the look", () => {
  it("shows what it holds, what is off in a line, and the rest as names to add", async () => {
    const given = await shown();
    expect(screen.getByRole("textbox", { name: "Stops" })).toBeTruthy();
    const contrast = screen.getByRole("region", { name: "Contrast" });
    expect(within(contrast).queryByRole("textbox")).toBeNull();
    const add = screen.getByRole("region", { name: "Add to the look" });
    expect(
      within(add)
        .getAllByRole("button")
        .map((b) => b.textContent),
    ).toEqual(["Vignette", "White balance"]);
    await userEvent.click(within(add).getByText("Vignette"));
    expect(laid(given).map((t) => t.kind)).toEqual(["vignette", "exposure", "contrast"]);
    await userEvent.click(within(contrast).getByRole("checkbox"));
    expect(laid(given)[1]).toMatchObject({ kind: "contrast", on: true, amount: 0.2 });
  });

  it("is chosen between three pictures of the number in hand", async () => {
    const given = await shown();
    fireEvent.focus(screen.getByRole("textbox", { name: "Stops" }));
    const strip = await screen.findByRole("region", { name: "Exposure: Stops, by eye" });
    await waitFor(() => expect(strip.querySelectorAll("img")).toHaveLength(3));
    const tried = vi.mocked(api.tryLooks).mock.lastCall![3];
    expect(tried.map((l) => (l.treatments![0] as { stops: number }).stops)).toEqual([-0.65, 0, 0.65]);
    await userEvent.click(within(strip).getByText("0.65"));
    expect(laid(given)[0]).toMatchObject({ stops: 0.65 });
    await userEvent.click(within(strip).getByRole("button", { name: "Close the three values" }));
    expect(screen.queryByRole("region", { name: "Exposure: Stops, by eye" })).toBeNull();
  });

  it("is taken out, doubled and put back from its menu", async () => {
    const given = await shown();
    const menu = async (item: string) => {
      await userEvent.click(screen.getByRole("button", { name: "More: Exposure" }));
      await userEvent.click(await screen.findByText(item));
    };
    await menu("Another one");
    expect(laid(given).filter((t) => t.kind === "exposure")).toHaveLength(2);
    await menu("Take out of the look");
    expect(laid(given).map((t) => t.kind)).toEqual(["contrast"]);
    await menu("Reset");
    expect(laid(given)[0]).toMatchObject({ strength: 1, limit: null, stops: 0 });
  });

  it("of those that ship is taken into the project when it is chosen by eye", async () => {
    const commit = vi.fn(async () => true);
    const before = useStore.getState().commit;
    useStore.setState({ commit } as never);
    await shown();
    await userEvent.click(screen.getByRole("button", { name: "Looks by eye" }));
    const tiles = screen.getByRole("group", { name: "Looks by eye" });
    await userEvent.click(await within(tiles).findByRole("button", { name: "Graphite" }));
    expect(commit).toHaveBeenCalledWith("Look Graphite", [
      expect.objectContaining({ part: "look", key: "graphite" }),
      expect.objectContaining({ part: "view", at: ["look_at", "noon"], value: "graphite" }),
    ]);
    useStore.setState({ commit: before });
  });
});

describe("the limit of a treatment", () => {
  const edited = (limit: Limit | null) => {
    const change = vi.fn();
    const lay = vi.fn();
    render(
      <LimitEditor
        limit={limit}
        groups={["sun", "Ceiling"]}
        change={change}
        laying={null}
        lay={lay}
        shown={false}
        show={vi.fn()}
      />,
    );
    return { change, lay };
  };

  it("is laid in the picture, or narrowed by measures and lights", async () => {
    const { change, lay } = edited(null);
    await userEvent.click(screen.getByRole("button", { name: "Gradient" }));
    expect(lay).toHaveBeenCalledWith("gradient");
    await userEvent.click(screen.getByText("Distance"));
    expect(change.mock.lastCall![0]).toMatchObject({ distance_m: { low: 0, high: 5 } });
    await userEvent.selectOptions(screen.getByLabelText("Where a light falls"), "sun");
    expect(change.mock.lastCall![0]).toEqual({ groups: ["sun"] });
    expect(screen.queryByLabelText("Turned over")).toBeNull();
  });

  it("is typed, turned over, and let go part by part", async () => {
    const { change } = edited({ surfaces: ["oak"], stops: { low: -3, high: 0, soft: 1 } });
    const low = screen.getByLabelText("Tones, from");
    await userEvent.clear(low);
    await userEvent.type(low, "-5{Enter}");
    expect(change.mock.lastCall![0]).toMatchObject({ stops: { low: -5, high: 0, soft: 1 } });
    await userEvent.click(screen.getByLabelText("Turned over"));
    expect(change.mock.lastCall![0]).toMatchObject({ elsewhere: true });
    await userEvent.click(screen.getByText("oak ×"));
    expect(change.mock.lastCall![0]).toEqual({ stops: { low: -3, high: 0, soft: 1 } });
    await userEvent.click(screen.getByRole("button", { name: "No tones" }));
    expect(change.mock.lastCall![0]).toEqual({ surfaces: ["oak"] });
  });
});

describe("the hand in the picture", () => {
  const held = (given: Hands) => {
    const settled = useStore.getState().settled;
    useStore.setState({ settled: () => project } as never);
    const made = renderHook(() =>
      useFinishPointer({ slug: "room", view: "inside", occasion: "noon", project, hands: given }),
    );
    return { made, done: () => useStore.setState({ settled }) };
  };
  const ready = () => waitFor(() => expect(api.treatments).toHaveBeenCalled());

  it("makes a surface lighter by the way it goes up, in one treatment of its own", async () => {
    vi.spyOn(api, "pick").mockResolvedValue({ material: "oak", object: "Table" } as never);
    const given = hands();
    const { made, done } = held(given);
    await ready();
    act(() => made.result.current.setInPicture({ tool: "exposure" }));
    act(() => made.result.current.acts.press(0.5, 0.8, false));
    await act(async () => Promise.resolve());
    act(() => made.result.current.acts.drag(0.5, 0.6));
    act(() => made.result.current.acts.point(0.5, 0.55));
    const treatments = laid(given);
    expect(treatments.filter((t) => t.kind === "exposure")).toHaveLength(2);
    expect(treatments.find((t) => t.limit)).toMatchObject({ stops: 1.5, limit: { surfaces: ["oak"] } });
    expect(vi.mocked(given.look).mock.lastCall![2]).toBe(true);
    // With Shift the whole picture.
    act(() => made.result.current.acts.press(0.5, 0.8, true));
    act(() => made.result.current.acts.point(0.5, 0.9));
    expect(laid(given)[0]).toMatchObject({ kind: "exposure", stops: -0.6 });
    done();
  });

  it("lays gradients and strokes for the treatment it works on, and names what it points at", async () => {
    vi.spyOn(api, "pick").mockResolvedValue({ material: "oak", object: "Table" } as never);
    const given = hands();
    const { made, done } = held(given);
    await ready();
    act(() => made.result.current.setInPicture({ laying: "gradient", number: 0 }));
    act(() => made.result.current.acts.press(0.1, 0.2, false));
    act(() => made.result.current.acts.point(0.6, 0.7));
    expect(laid(given)[0].limit).toEqual({ gradient: { start: [0.1, 0.2], end: [0.6, 0.7] } });
    act(() => made.result.current.setInPicture({ laying: "brush", number: 0 }));
    act(() => made.result.current.acts.press(0.1, 0.2, true));
    act(() => made.result.current.acts.drag(0.2, 0.2));
    act(() => made.result.current.acts.point(0.3, 0.2));
    expect(laid(given)[0].limit!.strokes![0]).toMatchObject({ radius: 0.08, away: false });
    act(() => made.result.current.setInPicture({ laying: "objects", number: 0 }));
    act(() => made.result.current.acts.press(0.1, 0.2, false));
    await act(async () => made.result.current.acts.point(0.1, 0.2));
    await waitFor(() => expect(laid(given)[0].limit).toEqual({ objects: ["Table"] }));
    done();
  });

  it("sets the white balance by what should be grey", async () => {
    vi.spyOn(api, "meter").mockResolvedValue({ grey: { kelvin: 3100, tint: 0.1 } } as never);
    const given = hands();
    const { made, done } = held(given);
    await ready();
    act(() => made.result.current.setInPicture({ tool: "grey" }));
    await act(async () => made.result.current.acts.point(0.4, 0.4));
    await waitFor(() => expect(given.look).toHaveBeenCalled());
    expect(laid(given).find((t) => t.kind === "white_balance")).toMatchObject({
      kelvin: 3100,
      tint: 0.1,
      on: true,
    });
    expect(made.result.current.inPicture).toBeNull();
    done();
  });
});

describe("saving plates", () => {
  const plate = { id: 7, name: "", quality: "proof", created: "2026-06-21T09:20:00Z" } as unknown as Plate;

  it("asks for the form, the size and the names, and says what is refused", async () => {
    const close = vi.fn();
    const save = vi.spyOn(api, "exportPlates");
    save.mockRejectedValueOnce(new Error("{moon} stands for nothing."));
    save.mockResolvedValueOnce({
      name: "a.tif",
      url: "/api/exports/x/a.tif",
      sizes: [[842, 474]],
      enlarged: 1.3,
    } as never);
    vi.spyOn(HTMLAnchorElement.prototype, "click").mockImplementation(() => {});
    render(<SavePlates slug="room" plates={[plate, { ...plate, id: 8 }]} shown={7} close={close} />);
    await userEvent.selectOptions(screen.getByLabelText("Form"), "tiff16");
    await userEvent.selectOptions(screen.getByLabelText("Size"), "a4");
    await userEvent.click(screen.getByRole("button", { name: "Save" }));
    expect(await screen.findByRole("alert")).toHaveProperty("textContent", "{moon} stands for nothing.");
    await userEvent.click(screen.getAllByRole("checkbox")[1]);
    await userEvent.click(screen.getByRole("button", { name: "Save 2 as a zip" }));
    await waitFor(() => expect(close).toHaveBeenCalled());
    expect(save.mock.lastCall![1]).toMatchObject({ plates: [7, 8], form: "tiff16", fit: "a4", dpi: 300 });
  });
});
