// @vitest-environment jsdom
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import { LiveLink } from "../src/api/live";

class FakeSocket {
  static made: FakeSocket[] = [];
  static readonly OPEN = 1;
  readyState = 0;
  sent: Record<string, unknown>[] = [];
  binaryType = "";
  onopen: () => void = () => undefined;
  onclose: () => void = () => undefined;
  onmessage: (event: { data: unknown }) => void = () => undefined;
  constructor(readonly url: string) {
    FakeSocket.made.push(this);
  }
  send(text: string) {
    this.sent.push(JSON.parse(text));
  }
  close() {
    this.readyState = 3;
    this.onclose();
  }
  open() {
    this.readyState = 1;
    this.onopen();
  }
  tell(message: object) {
    this.onmessage({ data: JSON.stringify(message) });
  }
  /** A picture as the server sends it: length of the header, the header, the image. */
  show(header: object, image: number[] = []) {
    const text = new TextEncoder().encode(JSON.stringify(header));
    const bytes = new Uint8Array(4 + text.length + image.length);
    new DataView(bytes.buffer).setUint32(0, text.length);
    bytes.set(text, 4);
    bytes.set(image, 4 + text.length);
    this.onmessage({ data: bytes.buffer });
  }
}

const wish = (view: string, dragging = false) => ({ view, occasion: "noon", draft: [], dragging });
let link: LiveLink;
const socket = () => FakeSocket.made[FakeSocket.made.length - 1];
const events = {
  picture: vi.fn(),
  fault: vi.fn(),
  away: vi.fn(),
  connection: vi.fn(),
  project: vi.fn(),
  job: vi.fn(),
  refused: vi.fn(),
};

beforeEach(() => {
  vi.useFakeTimers();
  vi.stubGlobal("WebSocket", FakeSocket);
  FakeSocket.made = [];
  for (const event of Object.values(events)) event.mockClear();
  link = new LiveLink("room", events);
  socket().open();
});
afterEach(() => {
  link.close();
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

describe("wishes", () => {
  it("are sent in order with rising numbers, at most every 60 ms, the last one always", () => {
    for (const view of ["a", "b", "c"]) link.show(wish(view));
    vi.advanceTimersByTime(60);
    expect(socket().sent).toEqual([{ type: "show", serial: 1, ...wish("c") }]);
    link.show(wish("d"));
    vi.advanceTimersByTime(59);
    expect(socket().sent).toHaveLength(1);
    vi.advanceTimersByTime(1);
    expect(socket().sent[1]).toMatchObject({ serial: 2, view: "d" });
  });

  it("of a drag keep one ahead of the picture in hand, and go on when it comes", () => {
    for (const view of ["a", "b", "c"]) {
      link.show(wish(view, true));
      vi.advanceTimersByTime(60);
    }
    expect(socket().sent.map((s) => s.view)).toEqual(["a", "b"]);
    socket().show({ serial: 1 });
    vi.advanceTimersByTime(60);
    expect(socket().sent.map((s) => s.view)).toEqual(["a", "b", "c"]);
  });

  it("of a drag do not wait for ever", () => {
    for (const view of ["a", "b", "c"]) {
      link.show(wish(view, true));
      vi.advanceTimersByTime(60);
    }
    vi.advanceTimersByTime(500);
    expect(socket().sent.map((s) => s.view)).toEqual(["a", "b", "c"]);
  });

  it("that are refused count as answered", () => {
    link.show(wish("a", true));
    vi.advanceTimersByTime(60);
    link.show(wish("b", true));
    vi.advanceTimersByTime(60);
    link.show(wish("c", true));
    socket().tell({ type: "refused", detail: "no such view" });
    expect(events.refused).toHaveBeenCalledWith("no such view");
    vi.advanceTimersByTime(60);
    expect(socket().sent).toHaveLength(3);
  });
});

describe("what comes", () => {
  it("is a picture with its header, or why there is none", () => {
    socket().show({ serial: 3, width: 480 }, [1, 2, 3]);
    const [header, image] = events.picture.mock.calls[0];
    expect(header).toEqual({ serial: 3, width: 480 });
    expect((image as Blob).size).toBe(3);
    socket().show({ serial: 4, error: "no light" });
    expect(events.fault).toHaveBeenCalledWith("no light");
    expect(events.picture).toHaveBeenCalledTimes(1);
  });

  it("is told to whom it concerns", () => {
    socket().tell({ type: "project", revision: 9, hand: "x" });
    socket().tell({ type: "job", id: 4, status: "done" });
    expect(events.project).toHaveBeenCalledWith(expect.objectContaining({ revision: 9 }));
    expect(events.job).toHaveBeenCalledWith(expect.objectContaining({ id: 4 }));
    socket().tell({ type: "away" });
    expect(events.away).toHaveBeenCalledTimes(1);
  });
});

describe("a connection", () => {
  it("that is lost is opened again, and the last wish repeated", () => {
    link.show(wish("a"));
    vi.advanceTimersByTime(60);
    socket().close();
    expect(events.connection).toHaveBeenLastCalledWith("lost");
    vi.advanceTimersByTime(1000);
    expect(FakeSocket.made).toHaveLength(2);
    socket().open();
    expect(socket().sent).toEqual([expect.objectContaining({ view: "a" })]);
    expect(events.connection).toHaveBeenLastCalledWith("open");
  });

  it("whose renderer began anew asks again when that is ready", () => {
    link.show(wish("a"));
    vi.advanceTimersByTime(60);
    socket().tell({ type: "worker", state: "restarting" });
    expect(events.connection).toHaveBeenLastCalledWith("restarting");
    socket().tell({ type: "worker", state: "ready" });
    expect(socket().sent).toHaveLength(2);
  });

  it("that was closed by the page stays closed", () => {
    link.close();
    vi.advanceTimersByTime(5000);
    expect(FakeSocket.made).toHaveLength(1);
  });
});
