/** Where the pointer is drawn to on the plan, and where the plan is looked at first. */
import type { ObjectLine, PlanDrawing, Project } from "../api/client";

export const round = (v: number) => Math.round(v * 1000) / 1000;

/** Frame the fixtures and the view, or the whole drawing. */
export function home(plan: PlanDrawing, project: Project): [number, number, number, number] {
  const inside = (project.fixtures ?? []).filter((f) => f.position[2] > 1 && f.position[2] < 6);
  const xs = inside.map((f) => f.position[0]).sort((a, b) => a - b);
  const ys = inside.map((f) => f.position[1]).sort((a, b) => a - b);
  const cut = (v: number[], low: number, high: number) =>
    v.length > 5 ? [v[Math.floor(v.length * 0.1)] - 3, v[Math.ceil(v.length * 0.9) - 1] + 3] : [low, high];
  const [x0, x1] = cut(xs, plan.low[0], plan.high[0]);
  const [y0, y1] = cut(ys, plan.low[1], plan.high[1]);
  return [x0, -y1, x1 - x0, y1 - y0];
}

/** Places of walls that run along the other axis beside a point: `k` 0 for x, 1 for y. */
export function wallsNear(plan: PlanDrawing, p: [number, number], k: number, near: number): number[] {
  const s = plan.segments;
  const found: number[] = [];
  for (let i = 0; i < s.length; i += 4) {
    const [a, b] = [s[i + k], s[i + 2 + k]];
    const [low, high] = [Math.min(s[i + 1 - k], s[i + 3 - k]), Math.max(s[i + 1 - k], s[i + 3 - k])];
    const beside = p[1 - k] >= low - 0.01 && p[1 - k] <= high + 0.01;
    if (Math.abs(a - b) < 0.005 && high - low > 0.2 && beside && Math.abs(a - p[k]) < near)
      found.push(round(a));
  }
  return found;
}

const LARGEST_OBJECT_M = 4;

/** Centres of the furniture-sized objects whose box holds a point. */
export function objectsNear(objects: ObjectLine[], p: [number, number], k: number): number[] {
  return objects
    .filter(
      (o) =>
        o.high[0] - o.low[0] < LARGEST_OBJECT_M &&
        o.high[1] - o.low[1] < LARGEST_OBJECT_M &&
        p[0] > o.low[0] &&
        p[0] < o.high[0] &&
        p[1] > o.low[1] &&
        p[1] < o.high[1],
    )
    .map((o) => round((o.low[k] + o.high[k]) / 2));
}

/** The frame moved so that a place well inside it stays in sight. */
export function keptInSight(
  b: [number, number, number, number],
  [x, y]: [number, number],
): [number, number, number, number] {
  const edge = 0.08;
  const shift = (low: number, size: number, v: number) =>
    v < low + size * edge ? v - size * edge : v > low + size * (1 - edge) ? v - size * (1 - edge) : low;
  return [shift(b[0], b[2], x), shift(b[1], b[3], -y), b[2], b[3]];
}
