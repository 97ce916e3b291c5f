import { contours } from "d3-contour";

import type { LuxGrid } from "../api/client";

/** Lines of a grid at a level, as an SVG path in metres with y downwards. */
export function contour(grid: LuxGrid, level: number): string {
  const { columns, rows, lux, x0, y0, step_m } = grid;
  // Shapes of what lies above the level, in cells: a grid point stands in the middle of its cell.
  const shapes = contours().size([columns, rows]).contour(lux, level).coordinates;
  const parts: string[] = [];
  for (const ring of shapes.flat()) {
    let drawing = false;
    for (let k = 0; k + 1 < ring.length; k++) {
      const [a, b] = [ring[k], ring[k + 1]];
      // Where a shape ends with the grid there is no line.
      if (edges(columns, rows).some((on) => on(a) && on(b))) {
        drawing = false;
        continue;
      }
      const text = ([i, j]: number[]) =>
        `${(x0 + (i - 0.5) * step_m).toFixed(2)} ${(-(y0 + (j - 0.5) * step_m)).toFixed(2)}`;
      if (!drawing) parts.push(`M${text(a)}`);
      parts.push(`L${text(b)}`);
      drawing = true;
    }
  }
  return parts.join("");
}

/** Whether a place lies on, or is cut off at, each of the four edges. */
const edges = (columns: number, rows: number): ((place: number[]) => boolean)[] => [
  ([i]) => i <= 0.5,
  ([, j]) => j <= 0.5,
  ([i]) => i >= columns - 0.5,
  ([, j]) => j >= rows - 0.5,
];
