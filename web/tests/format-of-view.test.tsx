// @vitest-environment jsdom
import { cleanup, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, describe, expect, it, test, vi } from "vitest";

import { FormatChooser } from "../src/lens/FormatChooser";
import { formatText, readFormat } from "../src/ui/reading";

afterEach(cleanup);

describe("formats as people type them", () => {
  test.each<[string, [number, number] | null]>([
    ["16:9", [16, 9]],
    ["32:18", [16, 9]],
    ["3 x 2", [3, 2]],
    ["4×5", [4, 5]],
    ["4/5", [4, 5]],
    ["2 to 3", [2, 3]],
    ["2,39 : 1", [239, 100]],
    ["1.5", [3, 2]],
    ["8:1", [8, 1]],
    ["8.1:1", null],
    ["1:9", null],
    ["0:1", null],
    ["wide", null],
    ["3:", null],
    ["-3:2", null],
    ["", null],
  ])("%s", (typed, meant) => expect(readFormat(typed)).toEqual(meant));

  it("is told as it is read", () => {
    expect(formatText([1920, 1080])).toBe("16:9");
    expect(formatText([239, 100])).toBe("2.39:1");
    expect(formatText([100, 239])).toBe("1:2.39");
    for (const f of [
      [16, 9],
      [239, 100],
      [5, 7],
    ] as const)
      expect(readFormat(formatText(f))).toEqual(f);
  });
});

describe("choosing a format", () => {
  const chooser = (value: [number, number]) => {
    const take = vi.fn();
    render(<FormatChooser value={value} onChange={take} />);
    return take;
  };

  it("by its shape, by key", async () => {
    const take = chooser([16, 9]);
    expect(screen.getByRole("radio", { name: "Format 16:9" })).toHaveProperty("checked", true);
    screen.getByRole("radio", { name: "Format 16:9" }).focus();
    await userEvent.keyboard("{ArrowRight}");
    expect(take).toHaveBeenCalledWith([3, 2]);
  });

  it("typed, taken with Enter, put back with Escape, refused with the remedy", async () => {
    const take = chooser([16, 9]);
    const field = screen.getByRole("textbox", { name: "Format, typed" });
    await userEvent.clear(field);
    await userEvent.type(field, "20:1");
    expect(screen.getByRole("alert").textContent).toContain("at most 8:1");
    await userEvent.keyboard("{Escape}");
    expect(field).toHaveProperty("value", "16:9");
    expect(take).not.toHaveBeenCalled();
    await userEvent.clear(field);
    await userEvent.type(field, "2.39:1{Enter}");
    expect(take).toHaveBeenCalledWith([239, 100]);
  });

  it("does not ask for what is there already", async () => {
    const take = chooser([16, 9]);
    await userEvent.clear(screen.getByRole("textbox", { name: "Format, typed" }));
    await userEvent.type(screen.getByRole("textbox", { name: "Format, typed" }), "32:18{Enter}");
    expect(take).not.toHaveBeenCalled();
  });
});
