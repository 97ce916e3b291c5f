import { memo, useMemo } from "react";

import type { LuxGrid, View } from "../api/client";
import { classesOf } from "../ui/classes";
import { LensMark, ScaleBar } from "./marks";
import roomStyles from "./plan.module.css";

const cls = classesOf(roomStyles);

interface Props {
  box: [number, number, number, number];
  /** The walls, as one path. */
  lines: string;
  grid: LuxGrid | null;
  /** Levels in lx with the paths of their contours. */
  contours: (readonly [number, string])[];
  view: View;
  unit: number;
}

/** What lies under the fixtures: light, walls, contours, the view. A drawing of its own, so that a drag above it does not
 * draw it anew. */
export const PlanGround = memo(function PlanGround({ box, lines, grid, contours, view, unit }: Props) {
  return (
    <svg className={cls("plan-ground")} viewBox={box.join(" ")} aria-hidden>
      {grid && <LuxWash grid={grid} />}
      <path d={lines} stroke="#1e1e1e" strokeWidth={unit * 1.5} fill="none" />
      {contours.map(([level, d]) => (
        <path
          key={level}
          d={d}
          stroke="#b0501e"
          strokeWidth={unit * (level === 300 ? 1.8 : 1)}
          fill="none"
          opacity="0.8"
        />
      ))}
      {contours.map(([level, d]) => (
        <LevelName key={level} level={level} path={d} unit={unit} />
      ))}
      <LensMark
        position={view.position}
        target={view.target}
        focalMm={view.focal_mm ?? 24}
        filmMm={view.film_width_mm ?? 36}
        reach={unit * 110}
        unit={unit}
      />
      <ScaleBar wide={box[2]} at={[box[0] + unit * 24, box[1] + unit * 26]} unit={unit} />
    </svg>
  );
});

function LuxWash({ grid }: { grid: LuxGrid }) {
  const url = useMemo(() => {
    const canvas = document.createElement("canvas");
    canvas.width = grid.columns;
    canvas.height = grid.rows;
    // Read back at once: a canvas kept by the graphics card would make the page wait for it.
    const context = canvas.getContext("2d", { willReadFrequently: true })!;
    const image = context.createImageData(grid.columns, grid.rows);
    grid.lux.forEach((v, k) => {
      const row = grid.rows - 1 - Math.floor(k / grid.columns);
      const o = (row * grid.columns + (k % grid.columns)) * 4;
      image.data.set([176, 80, 30, Math.min(v / 1000, 0.34) * 255 * (v > 3 ? 1 : 0)], o);
    });
    context.putImageData(image, 0, 0);
    return canvas.toDataURL();
  }, [grid]);
  const h = grid.step_m / 2;
  return (
    <image
      href={url}
      x={grid.x0 - h}
      y={-(grid.y0 + (grid.rows - 1) * grid.step_m) - h}
      width={grid.columns * grid.step_m}
      height={grid.rows * grid.step_m}
      preserveAspectRatio="none"
    />
  );
}

/** The lux of a contour, written where its line is longest drawn in one go. */
function LevelName({ level, path, unit }: { level: number; path: string; unit: number }) {
  const pieces = path.split("M").filter(Boolean);
  if (pieces.length === 0) return null;
  const piece = pieces[Math.floor(pieces.length / 2)];
  const [x, y] = piece.split(/[L ,]+/).map(Number);
  if (!Number.isFinite(x) || !Number.isFinite(y)) return null;
  return (
    <text
      x={x}
      y={y + unit * 3}
      fontSize={unit * 10}
      fontFamily="var(--numbers)"
      textAnchor="middle"
      fill="#8a3c12"
      stroke="#f4f4f4"
      strokeWidth={unit * 3}
      paintOrder="stroke"
      pointerEvents="none"
    >
      {level}
    </text>
  );
}
