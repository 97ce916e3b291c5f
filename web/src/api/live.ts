/** The project's WebSocket: live pictures, progress of plates and word of changes, with reconnection. */
import type { Change } from "./client";
import type { components } from "./schema";

type Schemas = components["schemas"];
export type LiveHeader = Schemas["LiveHeader"];
/** No picture came, and why. */
export type LiveFault = Schemas["LiveFault"];
export type JobNews = Schemas["JobNews"];
export type PictureMode = LiveHeader["mode"];
type News =
  | JobNews
  | Schemas["PreviewNews"]
  | Schemas["ProjectNews"]
  | Schemas["PlatesNews"]
  | Schemas["RunsNews"]
  | Schemas["CatalogueNews"]
  | Schemas["AwayNews"]
  | Schemas["RefusedNews"]
  | Schemas["WorkerNews"];

export interface LiveEvents {
  picture?: (header: LiveHeader, image: Blob) => void;
  /** A picture that was wished for cannot be made. */
  fault?: (detail: string) => void;
  job?: (news: JobNews) => void;
  preview?: (job: number, image: string) => void;
  project?: (news: Schemas["ProjectNews"]) => void;
  plates?: () => void;
  /** A sequence in the making is further on. */
  runs?: () => void;
  /** Pictures of profiles have been made. */
  catalogue?: () => void;
  refused?: (detail: string) => void;
  /** The project has been put away. */
  away?: () => void;
  connection?: (state: "open" | "lost" | "restarting") => void;
}

export interface Wanted {
  view: string;
  occasion: string;
  draft: Change[];
  /** Something is being dragged: pictures may be smaller, but must keep coming. */
  dragging?: boolean;
  mode?: PictureMode;
  /** The only fixture group that is shown. */
  alone?: string | null;
  /** A moment of a sequence, instead of the view and the occasion as they stand. */
  moment?: { sequence: string; second: number } | null;
}

/** Least time between two wishes, and how long a dragged one waits for pictures of those before. */
const LEAST_MS = 60;
const PATIENCE_MS = 500;

export class LiveLink {
  private socket: WebSocket | null = null;
  private serial = 0;
  private wanted: Wanted | null = null;
  private closed = false;
  private timer: number | undefined;
  private lastSent = 0;
  /** The newest wish that was answered by a picture or a refusal, and whether one waits to be sent. */
  private answered = 0;
  private pending = false;

  constructor(
    private readonly slug: string,
    private readonly events: LiveEvents,
  ) {
    this.connect();
  }

  /**
   * Show this from now on; sent at most every 60 ms, the last one always. While something is dragged one wish is under way
   * beside the one in hand, and the next waits: wishes that nobody will see cost the machine the time for those that are seen.
   */
  show(wanted: Wanted): void {
    this.wanted = wanted;
    this.pending = true;
    this.schedule();
  }

  private schedule(): void {
    window.clearTimeout(this.timer);
    const busy = this.wanted?.dragging && this.answered < this.serial - 1;
    const wait = Math.max(0, this.lastSent + (busy ? PATIENCE_MS : LEAST_MS) - performance.now());
    this.timer = window.setTimeout(() => this.send(), wait);
  }

  private answer(serial: number): void {
    this.answered = Math.max(this.answered, serial);
    if (this.pending) this.schedule();
  }

  close(): void {
    this.closed = true;
    window.clearTimeout(this.timer);
    this.socket?.close();
  }

  private connect(): void {
    const scheme = location.protocol === "https:" ? "wss" : "ws";
    const socket = new WebSocket(`${scheme}://${location.host}/api/projects/${this.slug}/live`);
    socket.binaryType = "arraybuffer";
    socket.onopen = () => {
      this.events.connection?.("open");
      this.send();
    };
    socket.onmessage = (event) => this.receive(event.data as string | ArrayBuffer);
    socket.onclose = () => {
      if (this.closed) return;
      this.events.connection?.("lost");
      window.setTimeout(() => !this.closed && this.connect(), 1000);
    };
    this.socket = socket;
  }

  private send(): void {
    if (!this.wanted || this.socket?.readyState !== WebSocket.OPEN) return;
    this.lastSent = performance.now();
    this.pending = false;
    this.serial += 1;
    this.socket.send(JSON.stringify({ type: "show", serial: this.serial, ...this.wanted }));
  }

  private receive(data: string | ArrayBuffer): void {
    if (data instanceof ArrayBuffer) {
      const length = new DataView(data).getUint32(0);
      const text = new TextDecoder().decode(new Uint8Array(data, 4, length));
      const header = JSON.parse(text) as LiveHeader | LiveFault;
      this.answer(header.serial);
      if ("error" in header) this.events.fault?.(header.error);
      else
        this.events.picture?.(header, new Blob([new Uint8Array(data, 4 + length)], { type: "image/jpeg" }));
      return;
    }
    this.hear(JSON.parse(data) as News);
  }

  private hear(news: News): void {
    switch (news.type) {
      case "job":
        return this.events.job?.(news);
      case "preview":
        return this.events.preview?.(news.job, news.image);
      case "project":
        return this.events.project?.(news);
      case "plates":
        return this.events.plates?.();
      case "runs":
        return this.events.runs?.();
      case "catalogue":
        return this.events.catalogue?.();
      case "away":
        return this.events.away?.();
      case "refused":
        this.answer(this.serial);
        return this.events.refused?.(news.detail);
      case "worker":
        this.events.connection?.(news.state === "ready" ? "open" : "restarting");
        if (news.state === "ready") this.send();
    }
  }
}
