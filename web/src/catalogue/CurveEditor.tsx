import { useRef } from "react";

import { clamp } from "../ui/format";
import { useDrag } from "../ui/useDrag";
import { polarPath } from "../fixtures/polar";
import { classesOf } from "../ui/classes";
import styles from "./CurveEditor.module.css";

const cls = classesOf(styles);

interface Props {
  angles: number[];
  across: number[];
  along: number[] | null;
  setAcross: (values: number[]) => void;
  setAlong: (values: number[]) => void;
}

const SIZE = 300;
const R = SIZE / 2 - 16;

/** A polar curve to bend: the right half is the plane C0, the left half C90. */
export function CurveEditor({ angles, across, along, setAcross, setAlong }: Props) {
  const svg = useRef<SVGSVGElement>(null);
  const left = along ?? across;
  const place = (angle: number, value: number, side: 1 | -1) => {
    const a = (angle * Math.PI) / 180;
    return [side * value * R * Math.sin(a), value * R * Math.cos(a)];
  };
  const change = (side: 1 | -1, index: number, value: number) => {
    const set = side === 1 || !along ? setAcross : setAlong;
    const values = side === 1 || !along ? across : along;
    set(values.map((v, k) => (k === index ? clamp(Number(value.toFixed(3)), 0, 1) : v)));
  };
  /** The value for which a point lies nearest to the pointer. */
  const under = (e: React.PointerEvent, side: 1 | -1, index: number) => {
    const matrix = svg.current!.getScreenCTM()!.inverse();
    const p = new DOMPoint(e.clientX, e.clientY).matrixTransform(matrix);
    const a = (angles[index] * Math.PI) / 180;
    return (side * p.x * Math.sin(a) + p.y * Math.cos(a)) / R;
  };
  const outline = (values: number[], side: 1 | -1) =>
    polarPath(
      angles,
      values.map((v) => v * R),
      side,
    ).replace("M", "M0,0L");
  return (
    <svg
      ref={svg}
      viewBox={`${-SIZE / 2} ${-SIZE / 2} ${SIZE} ${SIZE}`}
      width="100%"
      style={{ maxWidth: 340, display: "block", touchAction: "none" }}
      role="group"
      aria-label="Curve of the distribution"
    >
      {[0.25, 0.5, 0.75, 1].map((k) => (
        <circle key={k} r={R * k} fill="none" stroke="#c4c4c4" />
      ))}
      {Array.from({ length: 12 }, (_, k) => (
        <line
          key={k}
          x2={R * Math.sin((k * Math.PI) / 6)}
          y2={R * Math.cos((k * Math.PI) / 6)}
          stroke="#d2d2d2"
        />
      ))}
      <path
        d={`${outline(across, 1)}Z`}
        fill="#b0501e"
        fillOpacity="0.16"
        stroke="#b0501e"
        strokeWidth="1.6"
      />
      <path
        d={`${outline(left, -1)}Z`}
        fill="#b0501e"
        fillOpacity="0.16"
        stroke={along ? "#1e1e1e" : "#b0501e"}
        strokeWidth="1.6"
        strokeDasharray={along ? "4 3" : undefined}
      />
      {([1, -1] as const).map((side) =>
        angles.map((angle, k) => {
          const values = side === 1 ? across : left;
          const [x, y] = place(angle, values[k], side);
          return (
            <CurvePoint
              key={`${side} ${angle}`}
              at={[x, y]}
              name={`${side === 1 ? "C0" : "C90"}, ${angle} degrees`}
              value={values[k]}
              reachable={side === 1 || along !== null}
              under={(e) => under(e, side, k)}
              change={(value) => change(side, k, value)}
            />
          );
        }),
      )}
      <text x={R - 4} y={-R + 6} fontSize="10" textAnchor="end" fill="#5a5a5a">
        C0
      </text>
      <text x={-R + 4} y={-R + 6} fontSize="10" fill="#5a5a5a">
        {along ? "C90" : "mirrored"}
      </text>
    </svg>
  );
}

interface PointProps {
  at: number[];
  name: string;
  value: number;
  /** By the Tab key: a mirrored point is the same as its twin. */
  reachable: boolean;
  under: (e: React.PointerEvent) => number;
  change: (value: number) => void;
}

const STEP = 0.02;

/** A point of the curve: pulled by the pointer, moved by keys; Escape puts it back where it was taken up. */
function CurvePoint({ at, name, value, reachable, under, change }: PointProps) {
  const before = useRef(value);
  const drag = useDrag({
    start: () => void (before.current = value),
    move: (e) => change(under(e)),
    end: () => undefined,
    cancel: () => change(before.current),
  });
  return (
    <circle
      className={cls("curve-point")}
      cx={at[0]}
      cy={at[1]}
      r="7"
      tabIndex={reachable ? 0 : -1}
      role="slider"
      aria-label={name}
      aria-valuemin={0}
      aria-valuemax={100}
      aria-valuenow={Math.round(value * 100)}
      {...drag}
      onKeyDown={(e) => {
        const many = e.shiftKey ? 10 : 1;
        const by = {
          ArrowUp: many,
          ArrowRight: many,
          ArrowDown: -many,
          ArrowLeft: -many,
          PageUp: 10,
          PageDown: -10,
        }[e.key];
        const to = by !== undefined ? value + by * STEP : { Home: 0, End: 1 }[e.key];
        if (to === undefined || e.ctrlKey || e.metaKey || e.altKey) return;
        e.preventDefault();
        change(to);
      }}
    />
  );
}
