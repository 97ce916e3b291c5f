import { useRef } from "react";

import { classesOf } from "../ui/classes";
import { NumberField } from "../ui/NumberField";
import { useDrag } from "../ui/useDrag";
import styles from "./arrival.module.css";

const cls = classesOf(styles);

interface Props {
  /** Azimuth of the stage's +Y, clockwise from north. */
  north: number;
  set: (deg: number) => void;
}

const round = (deg: number) => Math.round((((deg % 360) + 540) % 360) - 180);

/** Where north lies on the plan: the needle is dragged round, moved by the arrow keys, or its angle is typed. */
export function NorthDial({ north, set }: Props) {
  const dial = useRef<SVGSVGElement>(null);
  const before = useRef(north);
  const turn = (e: React.PointerEvent) => {
    const r = dial.current!.getBoundingClientRect();
    const x = e.clientX - (r.left + r.width / 2);
    const y = r.top + r.height / 2 - e.clientY;
    set(round((Math.atan2(-x, y) * 180) / Math.PI));
  };
  const drag = useDrag({
    start: (e) => {
      before.current = north;
      turn(e);
    },
    move: turn,
    end: turn,
    cancel: () => set(before.current),
  });
  return (
    <div className={cls("north")}>
      <svg
        ref={dial}
        viewBox="-50 -50 100 100"
        role="slider"
        tabIndex={0}
        aria-label="North on the plan"
        aria-valuemin={-180}
        aria-valuemax={180}
        aria-valuenow={north}
        aria-valuetext={`the plan's up points ${north}° clockwise of north`}
        onKeyDown={(e) => {
          const by = { ArrowLeft: 1, ArrowUp: 1, ArrowRight: -1, ArrowDown: -1 }[e.key];
          if (by === undefined) return;
          e.preventDefault();
          set(round(north + by * (e.shiftKey ? 15 : 1)));
        }}
        {...drag}
      >
        <circle r={46} fill="#f4f4f4" stroke="#4c4c4c" />
        {Array.from({ length: 24 }, (_, k) => (
          <line key={k} y1={-46} y2={k % 6 ? -42 : -38} stroke="#4c4c4c" transform={`rotate(${k * 15})`} />
        ))}
        <g transform={`rotate(${-north})`}>
          <path d="M0 -34L6 0H-6Z" fill="#96400f" />
          <path d="M0 34L6 0H-6Z" fill="none" stroke="#4c4c4c" />
          <text y={-35} textAnchor="middle" fontSize={13} fontFamily="var(--words)" dy={-1}>
            N
          </text>
        </g>
      </svg>
      <NumberField
        label="The plan's up, in degrees clockwise of north"
        unit="°"
        value={north}
        min={-360}
        max={360}
        onChange={(v) => set(round(v ?? 0))}
      />
    </div>
  );
}
