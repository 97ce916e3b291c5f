import type { LuxGrid } from "../api/client";

/** Segments of the contour of a grid at a level (marching squares, linear), as an SVG path in metres. */
export function contour(grid: LuxGrid, level: number): string {
  const { columns, rows, lux, x0, y0, step_m } = grid;
  const parts: string[] = [];
  const mix = (a: number, b: number) => (level - a) / (b - a);
  for (let j = 0; j + 1 < rows; j++) {
    for (let i = 0; i + 1 < columns; i++) {
      const a = lux[j * columns + i];
      const b = lux[j * columns + i + 1];
      const c = lux[(j + 1) * columns + i + 1];
      const d = lux[(j + 1) * columns + i];
      const points: [number, number][] = [];
      if (a > level !== b > level) points.push([i + mix(a, b), j]);
      if (b > level !== c > level) points.push([i + 1, j + mix(b, c)]);
      if (d > level !== c > level) points.push([i + mix(d, c), j + 1]);
      if (a > level !== d > level) points.push([i, j + mix(a, d)]);
      for (let k = 0; k + 1 < points.length; k += 2) {
        const [p, q] = [points[k], points[k + 1]];
        parts.push(
          `M${(x0 + p[0] * step_m).toFixed(2)} ${(-(y0 + p[1] * step_m)).toFixed(2)}L${(x0 + q[0] * step_m).toFixed(2)} ${(-(y0 + q[1] * step_m)).toFixed(2)}`,
        );
      }
    }
  }
  return parts.join("");
}
