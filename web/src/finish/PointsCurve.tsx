import { line } from "d3-shape";
import { useRef, useState } from "react";

import { api, type Treatment } from "../api/client";
import { useServer } from "../state/server";
import { type Done, useStore } from "../state/store";
import { classesOf } from "../ui/classes";
import { clamp } from "../ui/format";
import { useDrag } from "../ui/useDrag";
import styles from "./finish.module.css";

const cls = classesOf(styles);
type Point = [number, number];

interface Props {
  treatment: Treatment;
  change: (patch: object, done: Done) => void;
}

const [X, Y, WIDTH, HEIGHT] = [10, 8, 240, 120];
/** Points stand so far apart, and one is taken hold of from so near. */
const [APART, NEAR] = [0.01, 0.06];
const MOST = 16;

/** A curve over the display's scale: press on it for a new point, drag points, Delete takes the one in hand away. */
export function PointsCurve({ treatment, change }: Props) {
  const svg = useRef<SVGSVGElement>(null);
  const held = useRef<{ points: Point[]; index: number } | null>(null);
  const [at, setAt] = useState(0);
  const points = (treatment as unknown as { points: Point[] }).points;
  const drawn = useServer(["curve", treatment], () => api.curve(treatment), { told: true })?.points ?? [];
  const under = (e: React.PointerEvent): Point => {
    const p = new DOMPoint(e.clientX, e.clientY).matrixTransform(svg.current!.getScreenCTM()!.inverse());
    return [clamp((p.x - X) / WIDTH, 0, 1), clamp((Y + HEIGHT - p.y) / HEIGHT, 0, 1)];
  };
  const moved = (all: Point[], index: number, to: Point): Point[] => {
    const low = index > 0 ? all[index - 1][0] + APART : 0;
    const high = index < all.length - 1 ? all[index + 1][0] - APART : 1;
    const place: Point = [Number(clamp(to[0], low, high).toFixed(4)), Number(clamp(to[1], 0, 1).toFixed(4))];
    return all.map((p, k) => (k === index ? place : p));
  };
  const drag = useDrag({
    start: (e) => {
      const to = under(e);
      const far = points.map((p) => Math.hypot(p[0] - to[0], p[1] - to[1]));
      const near = far.indexOf(Math.min(...far));
      if (far[near] < NEAR) held.current = { points, index: near };
      else {
        const index = points.filter((p) => p[0] < to[0]).length;
        const room =
          (index === 0 || to[0] - points[index - 1][0] > APART) &&
          (index === points.length || points[index][0] - to[0] > APART);
        if (points.length >= MOST || !room) return false;
        held.current = { points: [...points.slice(0, index), to, ...points.slice(index)], index };
      }
      setAt(held.current.index);
    },
    move: (e) =>
      held.current && change({ points: moved(held.current.points, held.current.index, under(e)) }, false),
    end: (e) =>
      held.current && change({ points: moved(held.current.points, held.current.index, under(e)) }, true),
    cancel: () => useStore.getState().setDraft([]),
  });
  const takeAway = (index: number) =>
    points.length > 2 && change({ points: points.filter((_, k) => k !== index) }, true);
  const path = line<Point>()
    .x(([v]) => X + v * WIDTH)
    .y(([, v]) => Y + HEIGHT - v * HEIGHT)
    .digits(1)(
    // The server tells the curve by stops and linear values; here both stand on the display's scale.
    drawn.map(([stops, value]): Point => [2 ** (stops / 2.2), value ** (1 / 2.2)]).filter(([v]) => v <= 1),
  );
  return (
    <svg
      ref={svg}
      className={cls("points")}
      viewBox="0 0 260 136"
      width="100%"
      role="group"
      aria-label="Curve by points"
      {...drag}
    >
      <rect x={X} y={Y} width={WIDTH} height={HEIGHT} fill="#f4f4f4" stroke="#b4b4b4" />
      {[0.25, 0.5, 0.75].map((v) => (
        <path
          key={v}
          d={`M${X + v * WIDTH} ${Y}v${HEIGHT}M${X} ${Y + v * HEIGHT}h${WIDTH}`}
          stroke="#d0d0d0"
          strokeWidth="0.8"
        />
      ))}
      <path d={`M${X} ${Y + HEIGHT}L${X + WIDTH} ${Y}`} stroke="#b4b4b4" strokeDasharray="3 3" />
      <path d={path ?? ""} fill="none" stroke="#66761a" strokeWidth="2" />
      {points.map(([x, y], k) => (
        <circle
          key={k}
          cx={X + x * WIDTH}
          cy={Y + HEIGHT - y * HEIGHT}
          r={5}
          fill={k === at ? "#1e1e1e" : "#fff"}
          stroke="#1e1e1e"
          strokeWidth="1.4"
          role="slider"
          tabIndex={0}
          aria-label={`Point ${k + 1}`}
          aria-valuemin={0}
          aria-valuemax={100}
          aria-valuenow={Math.round(y * 100)}
          aria-valuetext={`${Math.round(x * 100)} to ${Math.round(y * 100)} percent`}
          onFocus={() => setAt(k)}
          onKeyDown={(e) => {
            const by = e.shiftKey ? 0.05 : 0.01;
            const way = { ArrowLeft: [-by, 0], ArrowRight: [by, 0], ArrowUp: [0, by], ArrowDown: [0, -by] }[
              e.key
            ];
            if (way) change({ points: moved(points, k, [x + way[0], y + way[1]]) }, "soon");
            else if (e.key === "Delete" || e.key === "Backspace") takeAway(k);
            else return;
            e.preventDefault();
          }}
        />
      ))}
    </svg>
  );
}
