/** The lens as it is drawn: its axis runs to the right, in the plan from above and in the section from the side. Metres from the lens. */
import type { LensReading, View } from "../api/client";

export type Spot = [number, number];

/** The level direction a lens looks along. */
export function ahead(view: View): Spot {
  const [x, y] = [view.target[0] - view.position[0], view.target[1] - view.position[1]];
  const far = Math.hypot(x, y);
  return far < 1e-9 ? [0, 1] : [x / far, y / far];
}

/** A place of the stage as the plan draws it: metres ahead of the lens and to its left. */
export function inPlan(view: View, [x, y]: Spot): Spot {
  const [dx, dy] = ahead(view);
  const [a, b] = [x - view.position[0], y - view.position[1]];
  return [a * dx + b * dy, b * dx - a * dy];
}

/** The place of the stage at so many metres ahead of a lens and to its left. */
export function onStage(view: View, [along, left]: Spot): Spot {
  const [dx, dy] = ahead(view);
  return [view.position[0] + along * dx - left * dy, view.position[1] + along * dy + left * dx];
}

/** Angle of the lens's axis over the level, in radians: none where verticals are kept upright. */
export function pitch(view: View): number {
  if (view.keep_verticals ?? true) return 0;
  const level = Math.hypot(view.target[0] - view.position[0], view.target[1] - view.position[1]);
  return Math.atan2(view.target[2] - view.position[2], Math.max(level, 1e-9));
}

/** In the section, a place so far along the axis at a tangent upwards from it. */
export function offAxis(view: View, along: number, tangent: number): Spot {
  const up = pitch(view);
  const [c, s] = [Math.cos(up), Math.sin(up)];
  return [along * c - along * tangent * s, along * s + along * tangent * c];
}

/** How far the drawing reaches ahead: past what is looked at and what is in focus. */
export function reachOf(view: View): number {
  const level = Math.hypot(...inPlan(view, [view.target[0], view.target[1]]));
  const far = 1.35 * Math.max(level, view.focus_m ?? 0, 2.2);
  // By steps, so that it stands still while a hand is on it.
  return Math.min(2 ** (Math.ceil(Math.log2(far) * 2) / 2), 500);
}

/** The focal length in mm whose picture ends at a tangent to the right or left; null where that cannot be. */
export function focalFor(view: View, tangent: number, side: "left" | "right"): number | null {
  const shift = 2 * (view.shift_x ?? 0);
  const half = side === "right" ? tangent / (shift + 1) : tangent / (shift - 1);
  if (!(half > 0)) return null;
  const focal = (view.film_width_mm ?? 36) / 2 / half;
  return focal >= 4 && focal <= 1200 ? Number(focal.toPrecision(3)) : null;
}

/** The corners of what is sharp, between two tangents; to the end of the drawing where there is no far limit. */
export function sharpBetween(
  reading: LensReading,
  reach: number,
  low: number,
  high: number,
  at: (along: number, tangent: number) => Spot,
): Spot[] {
  const far = Math.min(reading.far_m ?? reach * 3, reach * 3);
  const near = Math.min(reading.near_m, reach * 3);
  return [at(near, low), at(far, low), at(far, high), at(near, high)];
}

export const pathOf = (spots: Spot[]) => `M${spots.map(([x, y]) => `${x} ${-y}`).join("L")}Z`;
