/** Fog as it is drawn: its box on plan and section, its density over height. Metres. */
import type { Air } from "../api/client";

export type Point = [number, number, number];
export type Place = "everywhere" | "box" | "ground" | "valley";

export const lowOf = (air: Air): Point => (air.low as Point | undefined) ?? [-50, -50, 0];
export const highOf = (air: Air): Point => (air.high as Point | undefined) ?? [50, 50, 20];

/** The least side of a box. */
const LEAST_M = 0.1;
const round = (v: number) => Math.round(v * 100) / 100;

/** A box with one of its six sides brought to a place, never past the side across. */
export function sideMoved(air: Air, axis: 0 | 1 | 2, side: "low" | "high", to: number): Partial<Air> {
  const [low, high] = [[...lowOf(air)] as Point, [...highOf(air)] as Point];
  if (side === "low") low[axis] = round(Math.min(to, high[axis] - LEAST_M));
  else high[axis] = round(Math.max(to, low[axis] + LEAST_M));
  return { low, high };
}

/** A box moved as a whole. */
export function boxMoved(air: Air, by: Point): Partial<Air> {
  return {
    low: lowOf(air).map((v, k) => round(v + by[k])) as Point,
    high: highOf(air).map((v, k) => round(v + by[k])) as Point,
  };
}

/** Density at a height over that at the base. */
export function densityAt(air: Air, z: number): number {
  const base = air.base_height_m ?? 0;
  if (air.extent === "box" && (z < lowOf(air)[2] || z > highOf(air)[2])) return 0;
  return air.fall_m ? Math.exp(-Math.max(z - base, 0) / air.fall_m) : 1;
}

/** The fall over which the density curve passes through a place; null for even density. */
export function fallThrough(air: Air, z: number, density: number): number | null {
  const above = z - (air.base_height_m ?? 0);
  if (density >= 0.985 || above <= 0.02) return null;
  return Math.min(Math.max(Number((above / -Math.log(Math.max(density, 0.02))).toPrecision(3)), 0.06), 1e5);
}

/** A length in words of a reading: metres, or kilometres. */
export function lengthText(m: number): string {
  if (m >= 1000) return `${Number((m / 1000).toPrecision(3))} km`;
  return `${Number(m.toPrecision(3))} m`;
}
