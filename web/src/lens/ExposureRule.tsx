import { useRef } from "react";

import type { LensScales } from "../api/client";
import type { LiveHeader } from "../api/live";
import type { Done } from "../state/store";
import { clamp } from "../ui/format";
import { useDrag } from "../ui/useDrag";
import { classesOf } from "../ui/classes";
import styles from "./lens.module.css";

const cls = classesOf(styles);

/** Exposure values at the ends of the rule. */
const [LOW, HIGH] = [-5, 19];
const [X, WIDTH, TOP, GROUND] = [6, 248, 16, 64];
const x = (ev: number) => X + ((clamp(ev, LOW, HIGH) - LOW) / (HIGH - LOW)) * WIDTH;
/** From middle grey to the lens's white in stops: log2(78 / 0.65 / 12.5); and to where little is told apart. */
const [TO_WHITE, TO_BLACK] = [Math.log2(78 / 0.65 / 12.5), -6];

interface Props {
  ev: number;
  header: LiveHeader | null;
  usual: LensScales["usual"];
  /** Bring the lens to an exposure value. */
  set: (ev: number, done: Done) => void;
}

/** The luminances of the picture on a rule of exposure values, and what of them the lens takes: the window is dragged over them. */
export function ExposureRule({ ev, header, usual, set }: Props) {
  const svg = useRef<SVGSVGElement>(null);
  const from = useRef<[number, number]>([0, 0]);
  const evs = (e: React.PointerEvent) => {
    const p = new DOMPoint(e.clientX, 0).matrixTransform(svg.current!.getScreenCTM()!.inverse());
    return (p.x / WIDTH) * (HIGH - LOW);
  };
  const third = (v: number) => Math.round(clamp(v, LOW, HIGH) * 3) / 3;
  const drag = useDrag({
    start: (e) => {
      from.current = [evs(e), ev];
    },
    move: (e) => set(third(from.current[1] + evs(e) - from.current[0]), false),
    end: (e) => {
      const by = evs(e) - from.current[0];
      if (Math.abs(by) > 0.15) set(third(from.current[1] + by), true);
    },
    cancel: () => set(from.current[1], false),
  });
  const h = header?.histogram;
  const most = h ? Math.max(...h.shares, 1e-9) : 1;
  // The histogram stands by stops about the white of the lens that it was taken with.
  const bins = (h?.shares ?? []).map((share, k) => ({
    at: header!.ev100 + TO_WHITE + h!.from + ((h!.to - h!.from) * k) / h!.shares.length,
    wide: ((h!.to - h!.from) / h!.shares.length / (HIGH - LOW)) * WIDTH,
    high: (share / most) * (GROUND - TOP),
  }));
  return (
    <svg
      ref={svg}
      className={cls("rule")}
      viewBox="0 0 260 112"
      width="100%"
      role="slider"
      tabIndex={0}
      aria-label="Exposure"
      aria-valuemin={LOW}
      aria-valuemax={HIGH}
      aria-valuenow={Number(ev.toFixed(2))}
      aria-valuetext={`EV ${ev.toFixed(1)}`}
      onKeyDown={(e) => {
        const by = { ArrowLeft: -1, ArrowDown: -1, ArrowRight: 1, ArrowUp: 1, PageDown: -3, PageUp: 3 }[
          e.key
        ];
        if (!by || e.ctrlKey || e.metaKey) return;
        e.preventDefault();
        set(clamp(ev + by / 3, LOW, HIGH), "soon");
      }}
      {...drag}
    >
      <rect
        x={x(ev + TO_BLACK)}
        width={x(ev + TO_WHITE) - x(ev + TO_BLACK)}
        y={TOP - 4}
        height={GROUND - TOP + 4}
        fill="#fff"
        stroke="#1e1e1e"
        strokeWidth="1"
      />
      {bins.map((b, k) => (
        <rect
          key={k}
          x={x(b.at)}
          width={b.wide + 0.2}
          y={GROUND - b.high}
          height={b.high}
          fill={b.at > ev + TO_WHITE ? "#96400f" : "#8a8a8a"}
        />
      ))}
      <line x1={x(ev)} x2={x(ev)} y1={TOP - 4} y2={GROUND} stroke="#1e1e1e" strokeDasharray="2 2" />
      <text x={x(ev)} y={9} className={cls("rule-ev")} textAnchor="middle">
        EV {ev.toFixed(1)}
      </text>
      <line x1={X} x2={X + WIDTH} y1={GROUND} y2={GROUND} stroke="#1e1e1e" />
      {Array.from({ length: HIGH - LOW + 1 }, (_, k) => LOW + k).map((v) => (
        <g key={v}>
          <line x1={x(v)} x2={x(v)} y1={GROUND} y2={GROUND + (v % 5 ? 3 : 6)} stroke="#1e1e1e" />
          {v % 5 === 0 && v > LOW && (
            <text x={x(v)} y={GROUND + 15} className={cls("rule-number")} textAnchor="middle">
              {v}
            </text>
          )}
        </g>
      ))}
      {usual.map((u, k) => (
        <g key={u.name}>
          <line
            x1={x(u.ev100)}
            x2={x(u.ev100)}
            y1={GROUND}
            y2={GROUND + 18 + (k % 3) * 10}
            stroke="#b4b4b4"
          />
          <text
            x={x(u.ev100)}
            y={GROUND + 26 + (k % 3) * 10}
            className={cls("rule-word")}
            textAnchor={u.ev100 > 11 ? "end" : "middle"}
          >
            {u.name}
          </text>
        </g>
      ))}
    </svg>
  );
}
