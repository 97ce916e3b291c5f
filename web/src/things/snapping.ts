import type { Placement, PlanDrawing, ThingLine } from "../api/client";

/** A box from above: left, right, near, far; in metres. */
type Footprint = [number, number, number, number];
/** So near an edge or a middle is drawn to another; else to a grid of so much. */
const NEAR_M = 0.08;
const GRID_M = 0.05;
const MOST_M = 6;

/** The box that a thing fills from above, about its own place. */
export function footprint({ turn_deg, scale }: Placement, { low, high }: ThingLine): Footprint {
  const [c, s] = [Math.cos(((turn_deg ?? 0) * Math.PI) / 180), Math.sin(((turn_deg ?? 0) * Math.PI) / 180)];
  const corners = [low[0], high[0]].flatMap((x) =>
    [low[1], high[1]].map((y) => [c * x - s * y, s * x + c * y]),
  );
  const [xs, ys] = [corners.map(([x]) => x * (scale ?? 1)), corners.map(([, y]) => y * (scale ?? 1))];
  return [Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys)];
}

/**
 * Where a thing comes to stand that is carried to a place: its edges against walls and against the edges of other things, its middle in
 * line with theirs, else on a grid; along each axis by itself.
 */
export function snapped(
  to: [number, number],
  own: Footprint,
  walls: PlanDrawing["segments"],
  others: Footprint[],
): [number, number] {
  const along = (k: 0 | 1): number => {
    const at = to[k];
    const [low, high] = [own[2 * k], own[2 * k + 1]];
    const beside = (a: number, b: number) =>
      b > to[1 - k] + own[2 - 2 * k] + 1e-3 && a < to[1 - k] + own[3 - 2 * k] - 1e-3;
    const edges: number[] = [];
    for (let i = 0; i + 3 < walls.length; i += 4) {
      const [a, b] = [walls[i + k], walls[i + 2 + k]];
      const [c, d] = [walls[i + 1 - k], walls[i + 3 - k]];
      if (Math.abs(a - b) < 0.005 && Math.abs(c - d) > 0.2 && beside(Math.min(c, d), Math.max(c, d)))
        edges.push(a);
    }
    const middles: number[] = [];
    for (const other of others) {
      const gap = Math.max(
        other[2 - 2 * k] - (to[1 - k] + own[3 - 2 * k]),
        to[1 - k] + own[2 - 2 * k] - other[3 - 2 * k],
      );
      if (gap > 2) continue;
      edges.push(other[2 * k], other[2 * k + 1]);
      middles.push((other[2 * k] + other[2 * k + 1]) / 2);
    }
    const places = [
      ...edges.flatMap((edge) => [edge - low, edge - high]),
      ...middles.map((middle) => middle - (low + high) / 2),
    ];
    const best = places.reduce((a, b) => (Math.abs(b - at) < Math.abs(a - at) ? b : a), Infinity);
    return Math.abs(best - at) < NEAR_M ? best : Math.round(at / GRID_M) * GRID_M;
  };
  return [round(along(0)), round(along(1))];
}

/** Boxes of what other things fill; what is huge, or strewn, is nothing to stand beside. */
export function footprintsOf(things: Placement[], lines: ThingLine[], without: string[]): Footprint[] {
  return things.flatMap((p) => {
    const line = lines.find((l) => l.key === p.key);
    if (!line || !p.made || p.hidden || p.repeat || without.includes(p.key)) return [];
    const [a, b, c, d] = footprint(p, line);
    if (b - a > MOST_M || d - c > MOST_M) return [];
    const [x, y] = p.position!;
    return [[x + a, x + b, y + c, y + d] as Footprint];
  });
}

const round = (v: number) => Math.round(v * 1000) / 1000;
