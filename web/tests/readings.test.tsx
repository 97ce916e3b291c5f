// @vitest-environment jsdom
import { act, cleanup, render, renderHook, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, describe, expect, it, vi } from "vitest";

import { api, Refusal } from "../src/api/client";
import { useArrivals } from "../src/arrival/arrivals";
import { useOpenModel } from "../src/arrival/OpenModel";
import { Readings } from "../src/arrival/Readings";
import { useStore } from "../src/state/store";

const file = new File(["glTF"], "tower.glb");
const found = [{ path: "tower.glb", file }];

afterEach(() => {
  cleanup();
  vi.useRealTimers();
  vi.restoreAllMocks();
  useArrivals.setState({ readings: [], arrivals: [] });
  useStore.setState({ notices: [] });
});

/** A server that has begun to read and answers when it is let. */
function reading() {
  let answer: { good: (a: never) => void; bad: (e: Error) => void };
  const receive = vi
    .spyOn(api, "receiveModel")
    .mockImplementation(() => new Promise((good, bad) => (answer = { good: good as never, bad })));
  const far = vi.spyOn(api, "howFar").mockResolvedValue({ words: "Reading its shapes", share: 0.25 });
  return { receive, far, answer: () => answer };
}

describe("a model on its way in", () => {
  it("is told of by its own ticket until its sheet is there", async () => {
    const server = reading();
    const { result } = renderHook(() => useOpenModel("room"));
    render(<Readings />);
    act(() => void result.current.openAll(found, "old"));
    await screen.findByText("Sending it");
    const bar = await screen.findByRole("progressbar", { name: "tower.glb: Reading its shapes" });
    expect((bar as HTMLProgressElement).value).toBe(0.25);
    const [slug, sent, ticket, replace] = server.receive.mock.lastCall!;
    expect([slug, sent.name, replace]).toEqual(["room", "tower.glb", "old"]);
    expect(ticket).toMatch(/^[A-Za-z0-9-]{8,64}$/);
    expect(server.far).toHaveBeenLastCalledWith(ticket);
    await act(async () => server.answer().good({ key: "a" } as never));
    await waitFor(() => expect(screen.queryByRole("progressbar")).toBeNull());
    expect(useArrivals.getState().arrivals).toHaveLength(1);
  });

  it("is stopped by its button, and what the server says of that is told", async () => {
    const server = reading();
    const stop = vi.spyOn(api, "stopReading").mockResolvedValue(undefined as never);
    const { result } = renderHook(() => useOpenModel("room"));
    render(<Readings />);
    act(() => void result.current.openAll(found));
    await userEvent.click(await screen.findByRole("button", { name: "Stop reading tower.glb" }));
    expect(stop).toHaveBeenCalledWith(server.receive.mock.lastCall![2]);
    await act(async () => server.answer().bad(new Refusal(422, "tower.glb: reading it was stopped.")));
    await waitFor(() => expect(screen.queryByRole("button")).toBeNull());
    expect(useStore.getState().notices.map((n) => n.text)).toEqual(["tower.glb: reading it was stopped."]);
    expect(useArrivals.getState().arrivals).toEqual([]);
  });

  it("is not brought back by an answer that comes after its end", async () => {
    const server = reading();
    let late: (a: { words: string; share: number }) => void = () => {};
    server.far.mockImplementation(() => new Promise((done) => (late = done)));
    const { result } = renderHook(() => useOpenModel("room"));
    render(<Readings />);
    act(() => void result.current.openAll(found));
    await waitFor(() => expect(server.far).toHaveBeenCalled());
    await act(async () => server.answer().good({ key: "a" } as never));
    await act(async () => late({ words: "Looking it over", share: 0.8 }));
    expect(useArrivals.getState().readings).toEqual([]);
  });

  it("is not lost sight of where it cannot be asked for yet", async () => {
    const server = reading();
    server.far.mockRejectedValue(new Refusal(404, "nothing is on its way"));
    const { result } = renderHook(() => useOpenModel("room"));
    render(<Readings />);
    act(() => void result.current.openAll(found));
    await waitFor(() => expect(server.far).toHaveBeenCalled());
    expect(screen.getByRole("progressbar", { name: "tower.glb: Sending it" })).toBeTruthy();
    expect(useStore.getState().notices).toEqual([]);
    await act(async () => server.answer().good({ key: "a" } as never));
  });
});
