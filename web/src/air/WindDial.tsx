import { useRef } from "react";

import type { Weather } from "../api/client";
import { type Done, useStore } from "../state/store";
import { classesOf } from "../ui/classes";
import { clamp } from "../ui/format";
import { useDrag } from "../ui/useDrag";
import styles from "./air.module.css";

const cls = classesOf(styles);
type Wind = NonNullable<Weather["wind"]>;
/** Speed at the rim in m/s, and the rim's radius on the dial. */
const [MOST, RIM] = [20, 44];

/** Where the wind comes from and how fast: an arrow to the middle of a dial with north up, taken by its tail. */
export function WindDial({ wind, set }: { wind: Wind; set: (wind: Wind, done: Done) => void }) {
  const svg = useRef<SVGSVGElement>(null);
  const speed = wind.speed_m_s ?? 0;
  const from = (((wind.from_deg ?? 270) % 360) + 360) % 360;
  const at = (e: React.PointerEvent): Wind => {
    const r = svg.current!.getBoundingClientRect();
    const [x, y] = [
      ((e.clientX - r.left) / r.width - 0.5) * 100,
      ((e.clientY - r.top) / r.height - 0.5) * 100,
    ];
    const far = Math.hypot(x, y);
    return {
      speed_m_s: far < 4 ? 0 : Number(clamp((far / RIM) * MOST, 0, MOST).toFixed(1)),
      from_deg: far < 4 ? from : Math.round((Math.atan2(x, -y) * 180) / Math.PI + 360) % 360,
    };
  };
  const drag = useDrag({
    start: (e) => set(at(e), false),
    move: (e) => set(at(e), false),
    end: (e) => set(at(e), true),
    cancel: () => useStore.getState().setDraft([]),
  });
  const a = (from * Math.PI) / 180;
  const tail = Math.min((speed / MOST) * RIM, RIM);
  return (
    <svg
      ref={svg}
      viewBox="-50 -50 100 100"
      width="100%"
      className={cls("sheet grip")}
      tabIndex={0}
      role="slider"
      aria-label="Wind"
      aria-valuenow={speed}
      aria-valuemin={0}
      aria-valuemax={40}
      aria-valuetext={speed ? `${speed} m/s from ${from.toFixed(0)}°` : "no wind"}
      style={{ cursor: "grab" }}
      {...drag}
      onKeyDown={(e) => {
        if (e.ctrlKey || e.metaKey || e.altKey) return;
        const turn = { ArrowLeft: -5, ArrowRight: 5 }[e.key];
        const faster = { ArrowUp: 0.5, ArrowDown: -0.5 }[e.key];
        if (turn === undefined && faster === undefined) return;
        e.preventDefault();
        set(
          { speed_m_s: clamp(speed + (faster ?? 0), 0, 40), from_deg: (from + (turn ?? 0) + 360) % 360 },
          "soon",
        );
      }}
    >
      {[0.25, 0.5, 1].map((k) => (
        <circle key={k} r={RIM * k} fill="none" stroke="#b4b4b4" strokeWidth={0.7} />
      ))}
      {["N", "E", "S", "W"].map((n, k) => (
        <text
          key={n}
          x={[0, 47, 0, -47][k]}
          y={[-44, 3, 49.5, 3][k]}
          textAnchor="middle"
          className={cls("word")}
          style={{ fontSize: 7 }}
        >
          {n}
        </text>
      ))}
      {speed > 0 && (
        <g transform={`rotate(${from})`}>
          <path d={`M0 ${-tail}L0 -3`} stroke="#35627f" strokeWidth={2} />
          <path d="M-3.4 -7L0 0L3.4 -7Z" fill="#35627f" />
          {[0, 1, 2].map((k) => (
            <path key={k} d={`M0 ${-tail + 4 * k}l7 -4`} stroke="#35627f" strokeWidth={1.2} />
          ))}
        </g>
      )}
      <circle cx={tail * Math.sin(a)} cy={-tail * Math.cos(a)} r={3.4} fill="#fff" stroke="#1e1e1e" />
      <text y={20} textAnchor="middle" className={cls("number")} style={{ fontSize: 8 }}>
        {speed ? `${speed} m/s` : "calm"}
      </text>
    </svg>
  );
}
