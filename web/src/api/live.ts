/** The project's WebSocket: live pictures, progress of plates and word of changes, with reconnection. */
import type { Change } from "./client";

export type PictureMode = "picture" | "luminance" | "illuminance" | "clipped";

export interface LiveHeader {
  serial: number;
  width: number;
  height: number;
  samples: number;
  last: boolean;
  ev100: number;
  metered_ev100: number | null;
  azimuth_deg: number;
  altitude_deg: number;
  sun_lx: number;
  sky_lx: number;
  sun_kelvin: number | null;
  sky_kelvin: number | null;
  true_to_place: boolean;
  by_moon: boolean;
  /** Share of the sun that passes the clouds. */
  sun_share: number;
  /** What is wrong with a black or burnt picture, and the exposure value that mends it. */
  advice: { text: string; ev100: number | null } | null;
  groups: string[];
  /** Share of the picture's light that each group gives, 0 to 1. */
  shares: Record<string, number>;
  /** Share of the pixels by stops about the lens's white, before the look. */
  histogram: { from: number; to: number; shares: number[] } | null;
  mode: PictureMode;
  /** The scale of a false-colour picture, rising. */
  legend: { unit: string; steps: [number, string][] } | null;
  error?: string;
}

export interface JobNews {
  id: number;
  plate: number;
  view: string;
  occasion: string;
  status: "waiting" | "running" | "done" | "stopped" | "failed";
  samples_done: number;
  samples: number;
  message: string;
  seconds_spent: number;
  seconds_left: number | null;
}

export interface LiveEvents {
  picture?: (header: LiveHeader, image: Blob | null) => void;
  job?: (news: JobNews) => void;
  preview?: (job: number, image: string) => void;
  project?: (news: { revision: number; label?: string; hand?: string }) => void;
  plates?: () => void;
  /** Pictures of profiles have been made. */
  catalogue?: () => void;
  refused?: (detail: string) => void;
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
      const header = JSON.parse(new TextDecoder().decode(new Uint8Array(data, 4, length))) as LiveHeader;
      const image =
        data.byteLength > 4 + length
          ? new Blob([new Uint8Array(data, 4 + length)], { type: "image/jpeg" })
          : null;
      this.answer(header.serial);
      this.events.picture?.(header, image);
      return;
    }
    const message = JSON.parse(data);
    if (message.type === "job") this.events.job?.(message);
    else if (message.type === "preview") this.events.preview?.(message.job, message.image);
    else if (message.type === "project") this.events.project?.(message);
    else if (message.type === "plates") this.events.plates?.();
    else if (message.type === "catalogue") this.events.catalogue?.();
    else if (message.type === "refused") {
      this.answer(this.serial);
      this.events.refused?.(message.detail);
    } else if (message.type === "worker") {
      this.events.connection?.(message.state === "ready" ? "open" : "restarting");
      if (message.state === "ready") this.send();
    }
  }
}
