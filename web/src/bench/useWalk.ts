import { useMemo, useRef } from "react";

import type { View } from "../api/client";
import { type Done, useStore } from "../state/store";
import { clamp } from "../ui/format";
import type { Hands } from "./useBench";

type Point = [number, number, number];
type Stand = { position: Point; target: Point };

const STEEPEST = (85 * Math.PI) / 180;
const TURN = (2 * Math.PI) / 180;
const STEP_M = 0.25;
const round = (p: readonly number[]) => p.map((v) => Math.round(v * 1000) / 1000) as Point;

/** Turned to the right and upwards, in radians; what is looked at stays as far away. */
export function turned({ position, target }: Stand, right: number, up: number): Stand {
  const [x, y, z] = target.map((v, k) => v - position[k]);
  const far = Math.hypot(x, y, z);
  const yaw = Math.atan2(y, x) - right;
  const pitch = clamp(Math.asin(z / far) + up, -STEEPEST, STEEPEST);
  const ahead = [Math.cos(yaw) * Math.cos(pitch), Math.sin(yaw) * Math.cos(pitch), Math.sin(pitch)];
  return { position, target: round(position.map((v, k) => v + far * ahead[k])) };
}

/** Walked on level ground, ahead and to the right, and raised; in metres. */
export function walked({ position, target }: Stand, ahead: number, right: number, up: number): Stand {
  const yaw = Math.atan2(target[1] - position[1], target[0] - position[0]);
  const by = [
    Math.cos(yaw) * ahead + Math.sin(yaw) * right,
    Math.sin(yaw) * ahead - Math.cos(yaw) * right,
    up,
  ];
  return {
    position: round(position.map((v, k) => v + by[k])),
    target: round(target.map((v, k) => v + by[k])),
  };
}

/** Where a key leads someone who stands there; null for another key. */
export function byKey(stand: Stand, e: { key: string; shiftKey: boolean }): Stand | null {
  const arrow = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[e.key];
  if (arrow && e.shiftKey) return walked(stand, arrow[1] * STEP_M, arrow[0] * STEP_M, 0);
  if (arrow) return turned(stand, arrow[0] * TURN, arrow[1] * TURN);
  const rise = { PageUp: 0.1, PageDown: -0.1 }[e.key];
  if (rise) return walked(stand, 0, 0, rise);
  if (e.key === "Home") return { ...stand, target: [stand.target[0], stand.target[1], stand.position[2]] };
  return null;
}

/** Move the lens by eye, in its own picture: drag to look around, wheel and keys to walk. */
export function useWalk(view: View | undefined, hands: Hands) {
  const start = useRef<Stand | null>(null);
  const settled = useStore((s) => s.settled);
  const key = view?.key;
  return useMemo(() => {
    const now = (): View | undefined => settled()?.views?.find((v) => v.key === key);
    const put = (stand: Stand, done: Done) =>
      hands.view("Move lens", { position: stand.position, target: stand.target }, done);
    return {
      press: () => {
        const at = now();
        start.current = at ? { position: at.position, target: at.target } : null;
      },
      /** Dragged by shares of the picture's width and height: the scene follows the pointer. */
      drag: (across: number, down: number, ratio: number, done: boolean) => {
        const at = now();
        if (!at || !start.current) return;
        const wide = 2 * Math.atan((at.film_width_mm ?? 36) / 2 / (at.focal_mm ?? 24));
        put(turned(start.current, -across * wide, (down * wide) / ratio), done);
      },
      wheel: (ahead: number) => {
        const at = now();
        if (at) put(walked(at, ahead * STEP_M, 0, 0), "soon");
      },
      key: (e: { key: string; shiftKey: boolean }): boolean => {
        const at = now();
        const next = at && byKey(at, e);
        if (next) put(next, "soon");
        return Boolean(next);
      },
    };
  }, [hands, key, settled]);
}
