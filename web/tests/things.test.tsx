// @vitest-environment jsdom
import { act, cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import type { FamilyLine, Placement, Project } from "../src/api/client";
import type { Hands } from "../src/bench/useBench";
import { useHand } from "../src/things/hand";
import { Numbers } from "../src/things/Numbers";
import { copied, movedTo, setField } from "../src/things/placing";
import { Repeats } from "../src/things/Repeats";

afterEach(cleanup);

const thing = (some: Partial<Placement> = {}): Placement => ({
  key: "chair",
  name: "Chair",
  asset: "a".repeat(64),
  position: [1, 2, 0],
  turn_deg: 0,
  scale: 1,
  up: "z",
  mirrored: false,
  layer: null,
  made: { family: "chair", parameters: {} },
  repeat: null,
  hidden: false,
  locked: false,
  ...some,
});

describe("moving and copying things", () => {
  it("moves all by as much as the first, and leaves what is locked", () => {
    const list = [thing(), thing({ key: "b", position: [5, 5, 1] }), thing({ key: "c", locked: true })];
    expect(movedTo(list, [2, 2, 0.5])).toEqual([
      { part: "placement", key: "chair", at: ["position"], value: [2, 2, 0.5] },
      { part: "placement", key: "b", at: ["position"], value: [6, 5, 1.5] },
    ]);
    expect(movedTo([thing({ locked: true })], [0, 0, 0])).toEqual([]);
  });

  it("copies under new keys and names, a little aside, sharing the file", () => {
    const project = { placements: [thing(), thing({ key: "chair-2", name: "Chair 2" })] } as Project;
    const { changes, keys } = copied(project, [
      thing({ locked: true }),
      thing({ key: "chair-2", name: "Chair 2" }),
    ]);
    expect(keys).toEqual(["chair-3", "chair-4"]);
    const values = changes.map((c) => c.value as Placement);
    expect(values.map((v) => v.name)).toEqual(["Chair 3", "Chair 4"]);
    expect(values[0]).toMatchObject({ position: [1.5, 2.5, 0], locked: false, asset: "a".repeat(64) });
  });

  it("sets one field of each", () => {
    expect(setField([thing()], "turn_deg", (p) => p.turn_deg! + 10)).toEqual([
      { part: "placement", key: "chair", at: ["turn_deg"], value: 10 },
    ]);
  });
});

describe("the numbers of a family", () => {
  const number = (some: object) => ({
    key: "n",
    name: "N",
    unit: "",
    least: 0,
    most: 9,
    first: 1,
    step: 1,
    words: [],
    ...some,
  });
  const family = {
    key: "table",
    name: "Table",
    group: "Tables",
    grows: false,
    parameters: [
      number({ key: "length", name: "Length", unit: "m", least: 0.6, most: 4, first: 1.8, step: 0.1 }),
      number({ key: "wood", name: "Wood", words: ["oak", "ash"], most: 1, first: 0 }),
    ],
  } as FamilyLine;

  it("are typed within their limits, or chosen by their words", () => {
    const set = vi.fn();
    render(<Numbers family={family} values={{ length: 2 }} set={set} />);
    const field = screen.getByRole("textbox", { name: "Length, 0.6 to 4 m" });
    expect((field as HTMLInputElement).value).toBe("2");
    fireEvent.change(field, { target: { value: "250 cm" } });
    fireEvent.keyDown(field, { key: "Enter" });
    expect(set).toHaveBeenLastCalledWith({ length: 2.5 });
    fireEvent.change(field, { target: { value: "9" } });
    fireEvent.keyDown(field, { key: "Enter" });
    expect(set).toHaveBeenCalledTimes(1);
    fireEvent.change(screen.getByRole("combobox", { name: "Wood" }), { target: { value: "1" } });
    expect(set).toHaveBeenLastCalledWith({ length: 2, wood: 1 });
  });
});

describe("how often a thing stands", () => {
  const changes = vi.fn();
  const hands = { changes } as unknown as Hands;
  beforeEach(() => changes.mockClear());
  afterEach(() => useHand.getState().put({ outline: null, chosen: [], armed: null }));
  const last = () => changes.mock.calls.at(-1)![1][0].value as unknown;

  it("goes into a row and a grid, and back to one", () => {
    const { rerender } = render(<Repeats slug="mill" thing={thing()} hands={hands} />);
    const how = screen.getByRole("combobox", { name: "How often it stands" });
    fireEvent.change(how, { target: { value: "row" } });
    expect(last()).toEqual({ kind: "row", count: 4, step: [1, 0, 0] });
    rerender(
      <Repeats
        slug="mill"
        thing={thing({ repeat: { kind: "row", count: 4, step: [1, 0, 0] } })}
        hands={hands}
      />,
    );
    const step = screen.getByRole("textbox", { name: "Step in y, m" });
    fireEvent.change(step, { target: { value: "0.5" } });
    fireEvent.blur(step);
    expect(last()).toEqual({ kind: "row", count: 4, step: [1, 0.5, 0] });
    fireEvent.change(how, { target: { value: "grid" } });
    expect(last()).toEqual({ kind: "grid", columns: 3, rows: 2, apart: [1, 1] });
    fireEvent.change(how, { target: { value: "once" } });
    expect(last()).toBeNull();
  });

  it("is strewn over an outline drawn first, or stands along it", () => {
    render(<Repeats slug="mill" thing={thing()} hands={hands} />);
    fireEvent.change(screen.getByRole("combobox", { name: "How often it stands" }), {
      target: { value: "strewn" },
    });
    expect(changes).not.toHaveBeenCalled();
    expect(screen.getByRole("button", { name: "Along it" }).hasAttribute("disabled")).toBe(true);
    const outline: [number, number][] = [
      [0, 0],
      [4, 0],
      [4, 3],
    ];
    act(() => useHand.getState().put({ outline }));
    fireEvent.click(screen.getByRole("button", { name: "Along it" }));
    expect(last()).toMatchObject({
      kind: "along",
      points: [
        [0, 0, 0],
        [4, 0, 0],
        [4, 3, 0],
      ],
    });
    act(() => useHand.getState().put({ outline }));
    fireEvent.click(screen.getByRole("button", { name: "Strew over it" }));
    expect(last()).toMatchObject({ kind: "strewn", outline, density_m2: 0.2, on: [], off: [] });
    expect(useHand.getState().outline).toBeNull();
  });

  it("reads names that it stands on, or is kept off", () => {
    const repeat = {
      kind: "strewn",
      outline: [
        [0, 0],
        [4, 0],
        [4, 3],
      ],
      size: [0.8, 1.2],
      on: [],
      off: [],
    } as unknown as Placement["repeat"];
    render(<Repeats slug="mill" thing={thing({ repeat })} hands={hands} />);
    const on = screen.getByRole("textbox", { name: "Only on these objects" });
    fireEvent.change(on, { target: { value: " meadow, , bank " } });
    fireEvent.blur(on);
    expect(last()).toMatchObject({ on: ["meadow", "bank"] });
  });
});
