import type { Arrival } from "../api/client";

export type Matrix = number[][];
export type Box = [[number, number, number], [number, number, number]];

/** A box on paper: least and greatest x and y, y upwards, in metres. */
export interface Extent {
  left: number;
  right: number;
  low: number;
  high: number;
}

/** How a file's own coordinates fall on the drawing: set upright and scaled, with the foot of the model at zero. */
export interface Projection {
  /** x, y, z in metres of a point of the file. */
  at: (p: readonly number[]) => [number, number, number];
  size: [number, number, number];
}

export function projection(sheet: Arrival["sheet"], up: Matrix, metres: number, turnDeg: number): Projection {
  const a = (turnDeg * Math.PI) / 180;
  const turned = (p: readonly number[]): [number, number, number] => {
    const [x, y, z] = up.map((row) => row[0] * p[0] + row[1] * p[1] + row[2] * p[2]);
    return [
      metres * (Math.cos(a) * x - Math.sin(a) * y),
      metres * (Math.sin(a) * x + Math.cos(a) * y),
      metres * z,
    ];
  };
  const upright = (p: readonly number[]) =>
    up.map((row) => metres * (row[0] * p[0] + row[1] * p[1] + row[2] * p[2]));
  const corners = cornersOf([sheet.low, sheet.high]);
  const own = extentOf(corners.map(upright));
  const moved = extentOf(corners.map(turned));
  const middle = [(moved[0][0] + moved[1][0]) / 2, (moved[0][1] + moved[1][1]) / 2];
  return {
    at: (p) => {
      const [x, y, z] = turned(p);
      return [x - middle[0], y - middle[1], z - moved[0][2]];
    },
    size: [0, 1, 2].map((k) => own[1][k] - own[0][k]) as [number, number, number],
  };
}

export function cornersOf([low, high]: Box): number[][] {
  return Array.from({ length: 8 }, (_, k) => [0, 1, 2].map((axis) => (k & (1 << axis) ? high : low)[axis]));
}

function extentOf(points: readonly (readonly number[])[]): [number[], number[]] {
  const each = [0, 1, 2].map((k) => points.map((p) => p[k]));
  return [each.map((v) => Math.min(...v)), each.map((v) => Math.max(...v))];
}

/** Lines of a drawing as a path, x to the right and y up; and their extent. */
export function pathOf(lines: [number, number, number, number][]): { d: string; extent: Extent } {
  const extent = { left: Infinity, right: -Infinity, low: Infinity, high: -Infinity };
  const parts: string[] = [];
  const short = (v: number) => Number(v.toPrecision(7));
  for (const [x, y, u, v] of lines) {
    extent.left = Math.min(extent.left, x, u);
    extent.right = Math.max(extent.right, x, u);
    extent.low = Math.min(extent.low, y, v);
    extent.high = Math.max(extent.high, y, v);
    parts.push(`M${short(x)} ${short(-y)}L${short(u)} ${short(-v)}`);
  }
  return { d: parts.join(""), extent };
}

/** A length in the words of its size. */
export function lengthText(metres: number): string {
  if (!(metres > 0)) return "0 m";
  if (metres >= 10_000) return `${Number((metres / 1000).toPrecision(3))} km`;
  if (metres < 0.1) return `${Number((metres * 1000).toPrecision(3))} mm`;
  return `${Number(metres.toPrecision(metres < 10 ? 3 : 4))} m`;
}
