// @vitest-environment jsdom
import { cleanup, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, expect, it, vi } from "vitest";

import { FirstSteps } from "../src/bench/FirstSteps";
import { beginWhereAsked, keepNote, NOTES, readNote, useFirstSteps } from "../src/bench/firstSteps";

afterEach(() => {
  cleanup();
  localStorage.clear();
  history.replaceState(null, "", "/");
});

function Led({ go }: { go: (step: string) => void }) {
  const { note, turn } = useFirstSteps();
  return note === null ? <p>away</p> : <FirstSteps note={note} turn={turn} go={go} />;
}

it("six notes lead on, back, and away, and each goes to its step", async () => {
  keepNote(0);
  const go = vi.fn();
  render(<Led go={go} />);
  expect(NOTES).toHaveLength(6);
  await userEvent.click(screen.getByRole("button", { name: "Next" }));
  expect(go).toHaveBeenLastCalledWith("air");
  await userEvent.click(screen.getByRole("button", { name: "Back" }));
  expect(screen.getByRole("heading").textContent).toContain("Change the hour");
  for (let k = 0; k < 5; k++) await userEvent.click(screen.getByRole("button", { name: "Next" }));
  await userEvent.click(screen.getByRole("button", { name: "Done" }));
  expect(screen.getByText("away")).toBeTruthy();
  expect(readNote()).toBeNull();
});

it("the open note outlasts the page, and an address can ask for the first", () => {
  expect(readNote()).toBeNull();
  keepNote(3);
  expect(readNote()).toBe(3);
  history.replaceState(null, "", "/?first-steps=1");
  beginWhereAsked();
  expect(readNote()).toBe(0);
  localStorage.setItem("valleylight.first-steps", "99");
  expect(readNote()).toBeNull();
  history.replaceState(null, "", "/");
  beginWhereAsked();
  expect(readNote()).toBeNull();
});
