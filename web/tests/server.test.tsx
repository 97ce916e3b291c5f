// @vitest-environment jsdom
import { act, cleanup, render, renderHook, screen, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import { queries, useServer } from "../src/state/server";
import { useStore } from "../src/state/store";

const { answered } = useStore.getState();

beforeEach(() => {
  queries.clear();
  useStore.setState({ answered: () => null }); // other tests leave edits that nobody answers
});
afterEach(() => {
  cleanup();
  useStore.setState({ answered });
  vi.useRealTimers();
});

/** A question whose answers come when they are let. */
function held() {
  const answers: ((value: string) => void)[] = [];
  const refusals: ((error: Error) => void)[] = [];
  const ask = vi.fn(
    () =>
      new Promise<string>((resolve, reject) => {
        answers.push(resolve);
        refusals.push(reject);
      }),
  );
  return { ask, answers, refusals };
}

describe("what is asked of the server", () => {
  it("is asked once, however many parts of a page want it", async () => {
    const ask = vi.fn(() => Promise.resolve("clear"));
    const Part = () => <p>{useServer(["sky"], ask) ?? "…"}</p>;
    render(
      <>
        <Part />
        <Part />
        <Part />
      </>,
    );
    await waitFor(() => expect(screen.getAllByText("clear")).toHaveLength(3));
    expect(ask).toHaveBeenCalledTimes(1);
  });

  it("is asked anew when what it depends on changes, and the last answer stands meanwhile", async () => {
    const { ask, answers } = held();
    const { result, rerender } = renderHook(({ day }) => useServer(["sun", day], ask), {
      initialProps: { day: "21 June" },
    });
    expect(result.current).toBeUndefined();
    await act(async () => answers[0]("high"));
    await waitFor(() => expect(result.current).toBe("high"));
    rerender({ day: "21 December" });
    expect(result.current).toBe("high");
    await act(async () => answers[1]("low"));
    await waitFor(() => expect(result.current).toBe("low"));
  });

  it("is not answered by what was asked before it", async () => {
    const { ask, answers } = held();
    const { result, rerender } = renderHook(({ day }) => useServer(["sun", day], ask), {
      initialProps: { day: "first" },
    });
    rerender({ day: "second" });
    await act(async () => answers[1]("second"));
    await act(async () => answers[0]("first"));
    await waitFor(() => expect(result.current).toBe("second"));
  });

  it("leaves nothing of another project where that would mislead", async () => {
    const { ask, answers } = held();
    const { result, rerender } = renderHook(({ slug }) => useServer(["plates", slug], ask, { keep: false }), {
      initialProps: { slug: "mill" },
    });
    await act(async () => answers[0]("the mill's"));
    await waitFor(() => expect(result.current).toBe("the mill's"));
    rerender({ slug: "orchard" });
    expect(result.current).toBeUndefined();
  });

  it("waits until the hand has rested", async () => {
    vi.useFakeTimers();
    const ask = vi.fn(() => Promise.resolve("there"));
    const { rerender } = renderHook(({ x }) => useServer(["meter", x], ask, { afterMs: 500 }), {
      initialProps: { x: 1 },
    });
    await act(() => vi.advanceTimersByTimeAsync(400));
    rerender({ x: 2 });
    await act(() => vi.advanceTimersByTimeAsync(400));
    expect(ask).not.toHaveBeenCalled();
    await act(() => vi.advanceTimersByTimeAsync(200));
    expect(ask).toHaveBeenCalledTimes(1);
  });

  it("is told when it fails where that is wanted, and something may stand in", async () => {
    const notify = vi.spyOn(useStore.getState(), "notify");
    const fails = () => Promise.reject<string[]>(new Error("The stage cannot be read."));
    const silent = renderHook(() => useServer(["quiet"], fails, { otherwise: ["nothing"] }));
    await waitFor(() => expect(silent.result.current).toEqual(["nothing"]));
    expect(notify).not.toHaveBeenCalled();
    const told = renderHook(() => useServer(["loud"], fails, { told: true }));
    await waitFor(() => expect(notify).toHaveBeenCalledWith("The stage cannot be read.", "error"));
    expect(told.result.current).toBeUndefined();
  });

  it("waits for an edit on its way, of which it may be a question", async () => {
    const ask = vi.fn(() => Promise.resolve("its surfaces"));
    let answer = () => {};
    const edit = new Promise<void>((done) => (answer = done));
    useStore.setState({ answered: () => edit });
    const { result } = renderHook(() => useServer(["surfaces", "a view just added"], ask));
    await act(async () => undefined);
    expect(ask).not.toHaveBeenCalled();
    await act(async () => answer());
    await waitFor(() => expect(result.current).toBe("its surfaces"));
  });

  it("is left alone while there is nothing to ask", () => {
    const ask = vi.fn(() => Promise.resolve(""));
    renderHook(() => useServer(["picture", undefined], ask, { ready: false }));
    expect(ask).not.toHaveBeenCalled();
  });
});
