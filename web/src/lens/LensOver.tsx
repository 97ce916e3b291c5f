import { useRef, useState } from "react";

import { api, type View } from "../api/client";
import type { Hands } from "../bench/useBench";
import { useStore } from "../state/store";
import { Button } from "../ui/Button";
import { clamp } from "../ui/format";
import { useDrag } from "../ui/useDrag";
import { classesOf } from "../ui/classes";
import { useReading } from "./useLens";
import styles from "./lens.module.css";

const cls = classesOf(styles);

export const GUIDES = ["thirds", "diagonals", "centre", "horizon"] as const;
export type Guide = (typeof GUIDES)[number];

interface Props {
  view: View;
  occasion: string;
  guides: readonly Guide[];
  cropping: boolean;
  leaveCrop: () => void;
  hands: Hands;
}

/** What the lens lays over its picture: guides, the horizon to drag, the frame to cut to. */
export function LensOver({ view, occasion, guides, cropping, leaveCrop, hands }: Props) {
  const reading = useReading(view, occasion);
  return (
    <>
      <svg className={cls("guides")} viewBox="0 0 1 1" preserveAspectRatio="none" aria-hidden>
        {guides.includes("thirds") && <path d="M0 .3333H1M0 .6667H1M.3333 0V1M.6667 0V1" />}
        {guides.includes("diagonals") && <path d="M0 0L1 1M0 1L1 0" />}
        {guides.includes("centre") && <path d="M0 .5H1M.5 0V1" />}
      </svg>
      {guides.includes("horizon") && reading && !cropping && (
        <Horizon view={view} occasion={occasion} at={reading.horizon} hands={hands} />
      )}
      {cropping && <Crop key={view.key} view={view} occasion={occasion} hands={hands} leave={leaveCrop} />}
    </>
  );
}

/** Ask for the view as the lens would make it, and take it. */
async function take(label: string, view: View, asked: Promise<View>, hands: Hands, done: boolean | "soon") {
  try {
    const made = await asked;
    const patch: Partial<View> = {};
    for (const name of ["format", "film_width_mm", "shift_x", "shift_y"] as const)
      if (made[name] !== view[name]) Object.assign(patch, { [name]: made[name] });
    hands.view(label, patch, done);
  } catch (error) {
    useStore.getState().notify((error as Error).message, "error");
  }
}

function Horizon({ view, occasion, at, hands }: Pick<Props, "view" | "occasion" | "hands"> & { at: number }) {
  const line = useRef<HTMLDivElement>(null);
  const [drawn, setDrawn] = useState<number | null>(null);
  const place = (e: React.PointerEvent) => {
    const box = line.current!.parentElement!.getBoundingClientRect();
    return clamp((e.clientY - box.top) / box.height, -0.5, 1.5);
  };
  const put = (to: number) =>
    void take("Shift to the horizon", view, api.lensHorizon(view, occasion, to), hands, true);
  const drag = useDrag({
    start: (e) => {
      e.stopPropagation();
    },
    move: (e) => setDrawn(place(e)),
    end: (e) => {
      const to = place(e);
      if (drawn !== null) put(to);
      setDrawn(null);
    },
    cancel: () => setDrawn(null),
  });
  const shown = drawn ?? at;
  const outside = shown < 0 ? "above" : shown > 1 ? "below" : null;
  return (
    <div
      ref={line}
      className={cls("horizon")}
      style={{ top: `${clamp(shown, 0.005, 0.995) * 100}%` }}
      role="slider"
      tabIndex={0}
      aria-label="Horizon: drag or arrow keys shift the film"
      aria-orientation="vertical"
      aria-valuemin={0}
      aria-valuemax={100}
      aria-valuenow={Math.round(shown * 100)}
      aria-valuetext={`${Math.round(shown * 100)} percent from the top`}
      onKeyDown={(e) => {
        const by = { ArrowUp: -0.01, ArrowDown: 0.01, PageUp: -0.1, PageDown: 0.1 }[e.key];
        if (!by) return;
        e.preventDefault();
        e.stopPropagation();
        put(at + by);
      }}
      {...drag}
    >
      <span>{outside ? `horizon ${outside} the picture` : "horizon"}</span>
    </div>
  );
}

type Edges = { left: number; top: number; right: number; bottom: number };
const FORMATS: [string, [number, number] | null][] = [
  ["free", null],
  ["as it is", [0, 0]],
  ["3 : 2", [3, 2]],
  ["4 : 3", [4, 3]],
  ["16 : 9", [16, 9]],
  ["1 : 1", [1, 1]],
  ["4 : 5", [4, 5]],
  ["A lying", [1414, 1000]],
  ["A upright", [1000, 1414]],
];
const GRIPS = ["nw", "n", "ne", "e", "se", "s", "sw", "w"] as const;
/** The whole frame is moved, or, with none in hand, fitted to its format about its middle. */
type CropGrip = (typeof GRIPS)[number] | "all" | "";
const LEAST = 0.05;

/** Edges after a grip was moved by a part of the picture; `ratio` is the width over the height that they keep, in pictures. */
export function pulled(edges: Edges, grip: CropGrip, dx: number, dy: number, ratio: number | null): Edges {
  const e = { ...edges };
  if (grip === "all") {
    const [x, y] = [clamp(dx, -e.left, 1 - e.right), clamp(dy, -e.top, 1 - e.bottom)];
    return { left: e.left + x, right: e.right + x, top: e.top + y, bottom: e.bottom + y };
  }
  if (grip.includes("w")) e.left = clamp(e.left + dx, 0, e.right - LEAST);
  if (grip.includes("e")) e.right = clamp(e.right + dx, e.left + LEAST, 1);
  if (grip.includes("n")) e.top = clamp(e.top + dy, 0, e.bottom - LEAST);
  if (grip.includes("s")) e.bottom = clamp(e.bottom + dy, e.top + LEAST, 1);
  if (ratio === null) return e;
  const [middleX, middleY] = [(e.left + e.right) / 2, (e.top + e.bottom) / 2];
  const upright = grip === "n" || grip === "s";
  // The side that is pulled leads; the other follows about the middle, or from the corner that stays, as far as there is room.
  let width = upright ? (e.bottom - e.top) * ratio : e.right - e.left;
  const roomX = grip.includes("w")
    ? e.right
    : grip.includes("e")
      ? 1 - e.left
      : 2 * Math.min(middleX, 1 - middleX);
  const roomY = grip.includes("n")
    ? e.bottom
    : grip.includes("s")
      ? 1 - e.top
      : 2 * Math.min(middleY, 1 - middleY);
  width = Math.min(width, roomX, roomY * ratio);
  const height = width / ratio;
  if (grip.includes("w")) e.left = e.right - width;
  else if (grip.includes("e")) e.right = e.left + width;
  else [e.left, e.right] = [middleX - width / 2, middleX + width / 2];
  if (grip.includes("n")) e.top = e.bottom - height;
  else if (grip.includes("s")) e.bottom = e.top + height;
  else [e.top, e.bottom] = [middleY - height / 2, middleY + height / 2];
  return e;
}

function Crop({
  view,
  occasion,
  hands,
  leave,
}: Pick<Props, "view" | "occasion" | "hands"> & { leave: () => void }) {
  const [edges, setEdges] = useState<Edges>({ left: 0.1, top: 0.1, right: 0.9, bottom: 0.9 });
  const [chosen, setChosen] = useState("free");
  const box = useRef<HTMLDivElement>(null);
  const held = useRef<{ grip: CropGrip; x: number; y: number; edges: Edges } | null>(null);
  const format = FORMATS.find(([name]) => name === chosen)![1];
  const [w, h] = view.format ?? [16, 9];
  /** Width over height of the frame in parts of the picture. */
  const ratioOf = (f: [number, number] | null) =>
    f === null ? null : f[0] === 0 ? 1 : f[0] / f[1] / (w / h);
  const ratio = ratioOf(format);
  const drag = useDrag({
    start: (e) => {
      e.stopPropagation();
      const grip = (e.target as Element).closest<HTMLElement>("[data-crop]")?.dataset.crop as
        CropGrip | undefined;
      if (!grip) return false;
      held.current = { grip, x: e.clientX, y: e.clientY, edges };
    },
    move: (e) => {
      const from = held.current;
      if (!from) return;
      const r = box.current!.getBoundingClientRect();
      const [dx, dy] = [(e.clientX - from.x) / r.width, (e.clientY - from.y) / r.height];
      setEdges(pulled(from.edges, from.grip, dx, dy, ratio));
    },
    end: () => {
      held.current = null;
    },
    cancel: () => {
      if (held.current) setEdges(held.current.edges);
      held.current = null;
    },
  });
  const cut = async () => {
    const exact = format === null ? null : format[0] === 0 ? ([w, h] as [number, number]) : format;
    await take("Cut picture", view, api.lensCrop(view, occasion, edges, exact), hands, true);
    leave();
  };
  const percent = (v: number) => `${v * 100}%`;
  return (
    <div ref={box} className={cls("crop")} {...drag}>
      <div
        className={cls("crop-frame")}
        data-crop="all"
        tabIndex={0}
        role="group"
        aria-label="Frame: arrow keys move it"
        style={{
          left: percent(edges.left),
          top: percent(edges.top),
          width: percent(edges.right - edges.left),
          height: percent(edges.bottom - edges.top),
        }}
        onKeyDown={(e) => {
          if (e.key === "Enter" && e.target === e.currentTarget) void cut();
          else if (e.key === "Escape") leave();
          else {
            const d = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[e.key];
            if (!d) return;
            const grip = ((e.target as HTMLElement).dataset.crop ?? "all") as CropGrip;
            const by = e.shiftKey ? 0.05 : 0.005;
            setEdges((was) => pulled(was, grip, d[0] * by, d[1] * by, ratio));
          }
          e.preventDefault();
          e.stopPropagation();
        }}
      >
        {GRIPS.map((grip) => (
          <span
            key={grip}
            data-crop={grip}
            className={cls(`crop-grip at-${grip}`)}
            tabIndex={0}
            role="button"
            aria-label={`Edge ${grip}: arrow keys pull it`}
          />
        ))}
      </div>
      <div className={cls("crop-tools")} onPointerDown={(e) => e.stopPropagation()}>
        <select
          className="form-select form-select-sm"
          aria-label="Format of the frame"
          value={chosen}
          onChange={(e) => {
            const next = FORMATS.find(([name]) => name === e.target.value)!;
            setChosen(next[0]);
            setEdges((was) => pulled(was, "", 0, 0, ratioOf(next[1])));
          }}
        >
          {FORMATS.map(([name]) => (
            <option key={name}>{name}</option>
          ))}
        </select>
        <Button size="sm" variant="dark" onClick={() => void cut()}>
          Cut
        </Button>
        <Button size="sm" variant="outline-dark" onClick={leave}>
          Leave
        </Button>
      </div>
    </div>
  );
}
