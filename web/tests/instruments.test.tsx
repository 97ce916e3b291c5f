// @vitest-environment jsdom
import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, beforeAll, beforeEach, describe, expect, it, vi } from "vitest";

import { api, type Occasion, type Project } from "../src/api/client";
import type { Hands } from "../src/bench/useBench";
import { Dayline } from "../src/instruments/Dayline";
import { Yearline } from "../src/instruments/Yearline";
import { useStore } from "../src/state/store";
import { DateField } from "../src/ui/DateField";
import { NumberField } from "../src/ui/NumberField";
import { Tabs } from "../src/ui/Tabs";
import { useDrag } from "../src/ui/useDrag";
import { useKeys } from "../src/ui/useKeys";
import { Value } from "../src/ui/Value";

beforeAll(() => {
  // What jsdom has no layout for.
  Element.prototype.setPointerCapture = () => undefined;
});
beforeEach(() => {
  vi.spyOn(api, "sun").mockRejectedValue(new Error("no sun here"));
  vi.spyOn(api, "year").mockRejectedValue(new Error("no year here"));
  Element.prototype.getBoundingClientRect = () => ({ left: 100, width: 240, top: 0, height: 40 }) as DOMRect;
});
afterEach(cleanup);

const noon = { key: "noon", name: "Noon", when: "2024-02-28T12:00:00" } as unknown as Occasion;
const project = { occasions: [noon] } as unknown as Project;

function hands() {
  const occasion = vi.fn();
  return { occasion, all: { occasion } as unknown as Hands };
}

describe("the ribbon of hours", () => {
  const at = (when: string) => {
    const { occasion, all } = hands();
    render(<Dayline slug="room" project={project} occasion={{ ...noon, when }} hands={all} />);
    return { slider: screen.getByRole("slider", { name: "Hour of the day" }), occasion };
  };

  it.each([
    ["{ArrowRight}", "12:05"],
    ["{ArrowDown}", "11:55"],
    ["{Shift>}{ArrowRight}{/Shift}", "13:00"],
    ["{PageDown}", "11:00"],
    ["{Home}", "00:00"],
    ["{End}", "23:55"],
  ])("moves by %s", async (keys, hour) => {
    const { slider, occasion } = at("2024-02-28T12:00:00");
    slider.focus();
    await userEvent.keyboard(keys);
    expect(occasion).toHaveBeenLastCalledWith("Hour", { when: `2024-02-28T${hour}:00` }, "soon");
  });

  it("stays within its day, and leaves commands alone", async () => {
    const { slider, occasion } = at("2024-02-28T23:58:00");
    slider.focus();
    await userEvent.keyboard("{ArrowRight}{PageUp}{Control>}{ArrowLeft}{/Control}a");
    expect(occasion).not.toHaveBeenCalled();
  });

  it("follows a drag by five minutes, and is saved when it is let go of", () => {
    const { slider, occasion } = at("2024-02-28T12:00:00");
    fireEvent.pointerDown(slider, { pointerId: 1, button: 0, clientX: 100 });
    fireEvent.pointerMove(slider, { pointerId: 1, buttons: 1, clientX: 181 });
    fireEvent.pointerUp(slider, { pointerId: 1, clientX: 400 });
    expect(occasion.mock.calls.map((c) => [c[1].when.slice(11, 16), c[2]])).toEqual([
      ["00:00", false],
      ["08:05", false],
      ["23:59", true],
    ]);
  });

  it("says the hour in words", () => {
    expect(at("2024-02-28T07:05:00").slider.getAttribute("aria-valuetext")).toBe("07:05");
  });
});

describe("the ribbon of days", () => {
  const at = (when: string) => {
    const { occasion, all } = hands();
    render(<Yearline slug="room" project={project} occasion={{ ...noon, when }} hands={all} />);
    return { slider: screen.getByRole("slider", { name: "Day of the year" }), occasion };
  };

  it.each([
    ["{ArrowRight}", "2024-02-29"],
    ["{Shift>}{ArrowLeft}{/Shift}", "2024-02-18"],
    ["{PageUp}", "2024-03-29"],
    ["{Home}", "2024-01-01"],
    ["{End}", "2024-12-31"],
  ])("moves by %s, and keeps the hour", async (keys, day) => {
    const { slider, occasion } = at("2024-02-28T12:00:00");
    slider.focus();
    await userEvent.keyboard(keys);
    expect(occasion).toHaveBeenLastCalledWith("Date", { when: `${day}T12:00:00` }, "soon");
  });

  it("ends with its year, a leap year too", async () => {
    const { slider, occasion } = at("2024-12-31T12:00:00");
    expect(slider.getAttribute("aria-valuemax")).toBe("366");
    slider.focus();
    await userEvent.keyboard("{ArrowRight}");
    expect(occasion).toHaveBeenLastCalledWith("Date", { when: "2024-12-31T12:00:00" }, "soon");
  });
});

describe("a value", () => {
  const value = (props: Partial<Parameters<typeof Value>[0]> = {}) => {
    const onChange = vi.fn();
    render(
      <Value label="Level" value={40} min={0} max={100} step={1} unit="%" onChange={onChange} {...props} />,
    );
    return {
      onChange,
      rule: screen.getByRole("slider", { name: "Level, rule" }),
      field: screen.getByRole("textbox", { name: "Level" }),
    };
  };

  it.each([
    ["ArrowRight", 41],
    ["ArrowDown", 39],
    ["PageUp", 50],
    ["Home", 0],
    ["End", 100],
  ])("moves by %s on its rule", (key, to) => {
    const { onChange, rule } = value();
    fireEvent.keyDown(rule, { key });
    expect(onChange).toHaveBeenLastCalledWith(to, "soon");
  });

  it("moves by shares where its rule is logarithmic", () => {
    const { onChange, rule } = value({ log: true, min: 1, max: 6400, value: 100, unit: "" });
    fireEvent.keyDown(rule, { key: "ArrowRight" });
    expect(onChange).toHaveBeenLastCalledWith(105, "soon");
    fireEvent.keyDown(rule, { key: "PageDown" });
    expect(onChange).toHaveBeenLastCalledWith(75, "soon");
  });

  it("is one step of undo however far it is dragged, and what Escape puts back", () => {
    const { onChange, rule } = value();
    fireEvent.pointerDown(rule);
    fireEvent.change(rule, { target: { value: "55" } });
    fireEvent.change(rule, { target: { value: "70" } });
    fireEvent.pointerUp(rule);
    expect(onChange.mock.calls).toEqual([
      [55, false],
      [70, false],
      [70, true],
    ]);
    fireEvent.pointerDown(rule);
    fireEvent.change(rule, { target: { value: "80" } });
    fireEvent.keyDown(rule, { key: "Escape" });
    expect(onChange).toHaveBeenLastCalledWith(40, false);
    fireEvent.pointerUp(rule);
    expect(onChange).toHaveBeenLastCalledWith(40, false);
  });

  it("is typed with its unit, and not taken where it is out of range", async () => {
    const { onChange, field } = value();
    await userEvent.clear(field);
    await userEvent.type(field, "62,5 %{Enter}");
    expect(onChange).toHaveBeenLastCalledWith(62.5, true);
    await userEvent.clear(field);
    await userEvent.type(field, "300");
    expect(field.getAttribute("aria-invalid")).toBe("true");
    expect(field.getAttribute("title")).toBe("From 0 % to 100 %");
    await userEvent.keyboard("{Enter}");
    expect(onChange).toHaveBeenCalledTimes(1);
  });

  it("typed as it stands changes nothing", async () => {
    const { onChange, field } = value();
    await userEvent.clear(field);
    await userEvent.type(field, "40{Enter}");
    expect(onChange).not.toHaveBeenCalled();
  });
});

describe("fields", () => {
  it("of numbers may be empty, move by arrows within their range, and answer eagerly where they filter", async () => {
    const onChange = vi.fn();
    render(<NumberField label="Least" value={null} min={0} max={50} step={5} eager onChange={onChange} />);
    const field = screen.getByRole("textbox", { name: "Least" });
    await userEvent.type(field, "7");
    expect(onChange).toHaveBeenLastCalledWith(7);
    await userEvent.clear(field);
    fireEvent.keyDown(field, { key: "ArrowUp" });
    expect(onChange).toHaveBeenLastCalledWith(5);
    fireEvent.keyDown(field, { key: "ArrowDown", shiftKey: true });
    expect(onChange).toHaveBeenLastCalledWith(0);
  });

  it("of days take any writing of one, and say what is none", async () => {
    const change = vi.fn();
    render(<DateField id="day" value="2026-06-21" change={change} />);
    const field = screen.getByRole("textbox");
    await userEvent.clear(field);
    await userEvent.type(field, "31 april{Enter}");
    expect(screen.getByText(/No such day/)).toBeTruthy();
    expect(change).not.toHaveBeenCalled();
    await userEvent.clear(field);
    await userEvent.type(field, "3 Nov{Enter}");
    expect(change).toHaveBeenCalledWith("2026-11-03");
  });
});

describe("tabs", () => {
  it("are one stop of the Tab key, with arrows, Home and End inside", async () => {
    const choose = vi.fn();
    render(
      <Tabs
        label="Sheets"
        className="tabs"
        tabs={[
          ["a", "A"],
          ["b", "B"],
          ["c", "C"],
        ]}
        current="a"
        choose={choose}
      />,
    );
    await userEvent.tab();
    expect(document.activeElement).toBe(screen.getByRole("tab", { name: "A" }));
    await userEvent.keyboard("{ArrowLeft}");
    expect(choose).toHaveBeenLastCalledWith("c");
    await userEvent.keyboard("{End}");
    expect(choose).toHaveBeenLastCalledWith("c");
    expect(screen.getAllByRole("tab").filter((t) => t.tabIndex === 0)).toHaveLength(1);
  });
});

describe("a drag", () => {
  const acts = { start: vi.fn(), move: vi.fn(), end: vi.fn(), cancel: vi.fn() };
  const Pad = () => <div data-testid="pad" {...useDrag(acts)} />;
  beforeEach(() => Object.values(acts).forEach((act) => act.mockReset()));

  it("that began elsewhere does nothing here", () => {
    render(<Pad />);
    const pad = screen.getByTestId("pad");
    fireEvent.pointerMove(pad, { pointerId: 1, buttons: 1 });
    fireEvent.pointerUp(pad, { pointerId: 1 });
    expect([acts.move, acts.end].map((a) => a.mock.calls.length)).toEqual([0, 0]);
  });

  it("is put away by Escape, once, and by the system", () => {
    render(<Pad />);
    const pad = screen.getByTestId("pad");
    fireEvent.pointerDown(pad, { pointerId: 1, button: 0 });
    fireEvent.keyDown(window, { key: "Escape" });
    fireEvent.keyDown(window, { key: "Escape" });
    fireEvent.pointerUp(pad, { pointerId: 1 });
    expect([acts.cancel, acts.end].map((a) => a.mock.calls.length)).toEqual([1, 0]);
    fireEvent.pointerDown(pad, { pointerId: 2, button: 0 });
    fireEvent.pointerCancel(pad, { pointerId: 2 });
    expect(acts.cancel).toHaveBeenCalledTimes(2);
  });

  it("is of one pointer, with its main button", () => {
    render(<Pad />);
    const pad = screen.getByTestId("pad");
    fireEvent.pointerDown(pad, { pointerId: 1, button: 2 });
    expect(acts.start).not.toHaveBeenCalled();
    fireEvent.pointerDown(pad, { pointerId: 1, button: 0 });
    fireEvent.pointerDown(pad, { pointerId: 2, button: 0 });
    fireEvent.pointerMove(pad, { pointerId: 2, buttons: 1 });
    expect([acts.start, acts.move].map((a) => a.mock.calls.length)).toEqual([1, 0]);
  });
});

describe("a drag on a busy machine", () => {
  const acts = { move: vi.fn(), end: vi.fn(), cancel: vi.fn() };
  const Pad = () => <div data-testid="pad" {...useDrag(acts)} />;
  const moved = (x: number) =>
    fireEvent.pointerMove(screen.getByTestId("pad"), { pointerId: 1, buttons: 1, clientX: x });
  const places = () => acts.move.mock.calls.map((c) => c[0].clientX);
  /** Frames come so far apart. */
  const begin = (frame: number) => {
    vi.useFakeTimers();
    vi.stubGlobal("requestAnimationFrame", (act: () => void) => setTimeout(act, frame));
    Object.values(acts).forEach((act) => act.mockReset());
    render(<Pad />);
    fireEvent.pointerDown(screen.getByTestId("pad"), { pointerId: 1, button: 0 });
  };
  afterEach(() => {
    vi.useRealTimers();
    vi.unstubAllGlobals();
  });

  it("answers every move where frames come in time", () => {
    begin(16);
    for (const x of [1, 2, 3, 4]) {
      moved(x);
      vi.advanceTimersByTime(20);
    }
    expect(places()).toEqual([1, 2, 3, 4]);
  });

  it("answers the newest of those that come too close, and the last where no other follows", () => {
    begin(40);
    moved(1);
    vi.advanceTimersByTime(100);
    for (const x of [2, 3, 4, 5]) {
      moved(x);
      vi.advanceTimersByTime(10);
    }
    expect(places()).toEqual([1, 2]);
    vi.advanceTimersByTime(50);
    expect(places()).toEqual([1, 2, 5]);
  });

  it("moves no more once it is let go of or put away", () => {
    for (const over of ["let go of", "put away"]) {
      begin(40);
      moved(1);
      vi.advanceTimersByTime(100);
      moved(2);
      moved(3);
      if (over === "let go of") fireEvent.pointerUp(screen.getByTestId("pad"), { pointerId: 1, clientX: 9 });
      else fireEvent.keyDown(window, { key: "Escape" });
      vi.advanceTimersByTime(500);
      expect(places()).toEqual([1, 2]);
      expect([acts.end, acts.cancel].map((a) => a.mock.calls.length)).toEqual(
        over === "let go of" ? [1, 0] : [0, 1],
      );
      cleanup();
    }
  });
});

describe("keys of a page", () => {
  const make = vi.fn();
  const undo = vi.fn();
  const Page = () => {
    useKeys({ p: make, "ctrl+z": undo });
    return (
      <>
        <input aria-label="Name" type="text" />
        <input aria-label="Saved" type="text" data-settled="true" readOnly />
      </>
    );
  };
  beforeEach(() => [make, undo].forEach((f) => f.mockReset()));

  it("are one command a press; undo may run on", () => {
    render(<Page />);
    fireEvent.keyDown(document.body, { key: "p" });
    fireEvent.keyDown(document.body, { key: "p", repeat: true });
    fireEvent.keyDown(document.body, { key: "P", altKey: true });
    expect(make).toHaveBeenCalledTimes(1);
    fireEvent.keyDown(document.body, { key: "z", ctrlKey: true });
    fireEvent.keyDown(document.body, { key: "z", metaKey: true, repeat: true });
    expect(undo).toHaveBeenCalledTimes(2);
  });

  it("are letters where one writes, but take back what Enter has just saved", () => {
    render(<Page />);
    fireEvent.keyDown(screen.getByLabelText("Name"), { key: "p" });
    fireEvent.keyDown(screen.getByLabelText("Name"), { key: "z", ctrlKey: true });
    expect([make, undo].map((f) => f.mock.calls.length)).toEqual([0, 0]);
    fireEvent.keyDown(screen.getByLabelText("Saved"), { key: "z", ctrlKey: true });
    expect(undo).toHaveBeenCalledTimes(1);
  });

  it("wait while a sheet lies over the page", () => {
    render(<Page />);
    document.body.insertAdjacentHTML("beforeend", '<div class="modal show"></div>');
    fireEvent.keyDown(document.body, { key: "p" });
    expect(make).not.toHaveBeenCalled();
    document.querySelector(".modal")!.remove();
  });
});

it("the store is left as it was found", () => expect(useStore.getState().draft).toEqual([]));
