// @vitest-environment jsdom
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import { api, type Change, type ProjectState, Refusal } from "../src/api/client";
import { hearEdit, useStore } from "../src/state/store";

const hour = (value: string): Change => ({ part: "occasion", key: "noon", at: ["when"], value });
const level = (value: number): Change => ({ part: "occasion", key: "noon", at: ["levels", "A"], value });

function saved(revision: number, when = "12:00", levels: Record<string, number> = {}): ProjectState {
  const description = { name: "Room", occasions: [{ key: "noon", name: "Noon", when, levels }] };
  return { slug: "room", revision, description, undo: null, redo: null } as unknown as ProjectState;
}

/** A server that answers in its own time: what was asked, and a way to answer the oldest that waits. */
function slowServer() {
  const asked: { label: string; changes: Change[]; base: number | null }[] = [];
  const answers: { good: (s: ProjectState) => void; bad: (e: Error) => void }[] = [];
  vi.spyOn(api, "edit").mockImplementation((_, label, changes, base) => {
    asked.push({ label, changes, base });
    return new Promise((good, bad) => answers.push({ good, bad }));
  });
  return { asked, next: () => answers.shift()! };
}

const store = () => useStore.getState();
const when = () => store().settled()!.occasions![0].when;
const soon = () => vi.advanceTimersByTimeAsync(0);

beforeEach(() => {
  vi.useFakeTimers();
  useStore.setState({
    saved: saved(1),
    draft: [],
    dragging: false,
    notices: [],
    missing: null,
    offline: false,
  });
});
afterEach(async () => {
  store().setDraft([]);
  await vi.runOnlyPendingTimersAsync();
  vi.useRealTimers();
});

describe("edits", () => {
  it("on their way are waited for by those who ask, refused or not; those that may still grow are not", async () => {
    const server = slowServer();
    expect(store().answered()).toBeNull();
    store().commitSoon("Level", [level(40)]);
    expect(store().answered()).toBeNull();
    void store().commit("Hour", [hour("13:00")]);
    const done = vi.fn();
    void store().answered()!.then(done);
    await soon();
    server.next().good(saved(2, "12:00", { A: 40 }));
    await soon();
    expect(done).not.toHaveBeenCalled();
    server.next().bad(new Refusal(422, "no such hour"));
    await soon();
    expect(done).toHaveBeenCalled();
    expect(store().answered()).toBeNull();
  });

  it("are seen at once and sent one after the other", async () => {
    const server = slowServer();
    void store().commit("Hour", [hour("13:00")]);
    void store().commit("Level", [level(40)]);
    await soon();
    expect(when()).toBe("13:00");
    expect(server.asked).toHaveLength(1);
    server.next().good(saved(2, "13:00"));
    await soon();
    expect(server.asked.map((a) => a.label)).toEqual(["Hour", "Level"]);
    server.next().good(saved(3, "13:00", { A: 40 }));
    await soon();
    expect(store().saved!.revision).toBe(3);
    expect(store().draft).toEqual([]);
  });

  it("of one key held are one step, sent when it rests; others do not wait for it", async () => {
    const server = slowServer();
    for (const minute of ["05", "10", "15"]) {
      store().commitSoon("Hour", [hour(`12:${minute}`)]);
      await vi.advanceTimersByTimeAsync(100);
    }
    expect(server.asked).toEqual([]);
    expect(when()).toBe("12:15");
    await vi.advanceTimersByTimeAsync(500);
    expect(server.asked).toHaveLength(1);
    expect(server.asked[0].changes[0].value).toBe("12:15");
    server.next().good(saved(2, "12:15"));
    store().commitSoon("Hour", [hour("12:20")]);
    store().commitSoon("Level", [level(3)]);
    await soon();
    expect(server.asked.map((a) => a.label)).toEqual(["Hour", "Hour"]);
    server.next().good(saved(3, "12:20"));
    await vi.advanceTimersByTimeAsync(500);
    expect(server.asked.map((a) => a.label)).toEqual(["Hour", "Hour", "Level"]);
    server.next().good(saved(4, "12:20", { A: 3 }));
    await soon();
  });

  it("of a drag are drawn, but sent only when it is let go of", async () => {
    const server = slowServer();
    store().setDraft([hour("15:00")]);
    expect(store().dragging).toBe(true);
    expect(store().draft[0].value).toBe("15:00");
    expect(when()).toBe("12:00");
    await vi.advanceTimersByTimeAsync(5000);
    expect(server.asked).toEqual([]);
    store().setDraft([]);
    expect(store().draft).toEqual([]);
  });

  it("that were refused are taken back, with the server's words", async () => {
    const server = slowServer();
    const done = store().commit("Hour", [hour("99:00")]);
    await soon();
    server.next().bad(new Refusal(422, "Occasion Noon: no such hour."));
    expect(await done).toBe(false);
    expect(when()).toBe("12:00");
    expect(store().notices[0].text).toBe("Occasion Noon: no such hour.");
  });

  it("wait for a server that is gone, and say so", async () => {
    const server = slowServer();
    void store().commit("Hour", [hour("13:00")]);
    await soon();
    server.next().bad(new Refusal(0, "The server does not answer."));
    await soon();
    expect(store().offline).toBe(true);
    expect(when()).toBe("13:00");
    await vi.advanceTimersByTimeAsync(1100);
    server.next().good(saved(2, "13:00"));
    await soon();
    expect(store().offline).toBe(false);
    expect(server.asked).toHaveLength(2);
  });
});

describe("another hand at the same field", () => {
  it("is told of, and both are offered", async () => {
    const server = slowServer();
    vi.spyOn(api, "project").mockResolvedValue(saved(5, "09:00"));
    void store().commit("Hour", [hour("13:00")]);
    await soon();
    const conflict = { revision: 5, label: "Hour", now: [{ value: "09:00" }] };
    server.next().bad(new Refusal(409, "changed elsewhere", "", conflict as never));
    await soon();
    const notice = store().notices[0];
    expect(notice.text).toContain("It is 09:00 now; yours was 13:00");
    expect(when()).toBe("09:00");
    notice.choices!.find((c) => c.label === "Put mine instead")!.act();
    await soon();
    expect(server.asked[1]).toMatchObject({ base: 5, label: "Hour" });
    server.next().good(saved(6, "13:00"));
    await soon();
    expect(when()).toBe("13:00");
  });

  it("is heard of, and its edit loaded, unless it is older than what is held", async () => {
    const load = vi.spyOn(api, "project").mockResolvedValue(saved(2, "08:00"));
    hearEdit("room", { revision: 2, label: "Hour", hand: "another" });
    await soon();
    expect(when()).toBe("08:00");
    expect(store().notices[0].text).toBe("Changed elsewhere: Hour.");
    hearEdit("room", { revision: 2, label: "Hour", hand: "another" });
    await soon();
    expect(load).toHaveBeenCalledTimes(1);
  });

  it("never brings back what stood before by an answer that comes late", async () => {
    store().adopt(saved(7, "20:00"));
    store().adopt(saved(6, "06:00"));
    expect(when()).toBe("20:00");
  });
});

describe("undo", () => {
  it("comes after the edit before it", async () => {
    const server = slowServer();
    const undo = vi.spyOn(api, "undo").mockResolvedValue(saved(3));
    store().commitSoon("Hour", [hour("13:00")]);
    const undone = store().step("undo");
    await soon();
    expect(undo).not.toHaveBeenCalled();
    server.next().good({ ...saved(2, "13:00"), undo: "Hour" });
    await soon();
    await undone;
    expect(undo).toHaveBeenCalledWith("room", 2);
    expect(when()).toBe("12:00");
  });

  it("asks nothing where nothing is to be undone", async () => {
    const undo = vi.spyOn(api, "undo");
    await store().step("undo");
    expect(undo).not.toHaveBeenCalled();
  });
});

describe("leaving the page", () => {
  it("sends at once, as one, what waits", async () => {
    const server = slowServer();
    store().commitSoon("Hour", [hour("13:00")]);
    store().leave();
    expect(server.asked).toHaveLength(1);
    expect(server.asked[0]).toMatchObject({ label: "Hour", base: 1 });
    server.next().good(saved(2, "13:00"));
    await vi.advanceTimersByTimeAsync(1000);
    expect(server.asked).toHaveLength(1);
  });
});

describe("notices", () => {
  it("put themselves away, but not errors and questions; the same words stand once, four at most", async () => {
    store().notify("done");
    store().notify("wrong", "error");
    store().notify("wrong", "error");
    expect(store().notices.map((n) => n.text)).toEqual(["done", "wrong"]);
    await vi.advanceTimersByTimeAsync(9000);
    expect(store().notices.map((n) => n.text)).toEqual(["wrong"]);
    for (const text of ["a", "b", "c", "d"]) store().notify(text, "error");
    expect(store().notices.map((n) => n.text)).toEqual(["a", "b", "c", "d"]);
    store().dismiss(store().notices[0].id);
    expect(store().notices).toHaveLength(3);
  });
});
