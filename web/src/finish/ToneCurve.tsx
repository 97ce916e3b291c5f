import { area, line } from "d3-shape";
import { useRef } from "react";

import type { CurveHandle, Treatment, TreatmentNumber } from "../api/client";
import { type Done, useStore } from "../state/store";
import { clamp } from "../ui/format";
import { useDrag } from "../ui/useDrag";
import { classesOf } from "../ui/classes";
import { useCurve } from "./useCurve";
import styles from "./ToneCurve.module.css";

const cls = classesOf(styles);

type Numbers = Record<string, number>;

interface Props {
  /** The treatment as it stands, and the form of its numbers. */
  treatment: Treatment;
  numbers: TreatmentNumber[];
  /** Share of the picture's pixels by stops about the lens's white, and the stops of its first and last edge. */
  histogram: { from: number; to: number; shares: number[] } | null;
  /** Stops by which the look lifts the picture before the curve. */
  lift: number;
  disabled?: boolean;
  change: (patch: Numbers, done: Done) => void;
}

const [LOW, HIGH] = [-8, 8];
const [X, Y, WIDTH, HEIGHT] = [10, 8, 240, 108];

const atStops = (stops: number) => X + ((clamp(stops, LOW, HIGH) - LOW) / (HIGH - LOW)) * WIDTH;
const atValue = (y: number) => Y + HEIGHT - clamp(y, 0, 1) ** (1 / 2.2) * HEIGHT;

/** The tone curve over the picture's histogram: take it anywhere and bend it. */
export function ToneCurve({ treatment, numbers, histogram, lift, disabled, change }: Props) {
  const svg = useRef<SVGSVGElement>(null);
  const held = useRef("");
  const { points, handles, bend, letGo } = useCurve(treatment, change);
  const under = (e: React.PointerEvent): [number, number] => {
    const p = new DOMPoint(e.clientX, e.clientY).matrixTransform(svg.current!.getScreenCTM()!.inverse());
    return [p.x, p.y];
  };
  const bent = (e: React.PointerEvent, done: Done) => {
    const [px, py] = under(e);
    const stops = LOW + ((px - X) / WIDTH) * (HIGH - LOW);
    bend(held.current, stops, clamp((Y + HEIGHT - py) / HEIGHT, 0, 1) ** 2.2, done);
  };
  const drag = useDrag({
    start: (e) => {
      if (disabled || !handles.length) return false;
      const [px, py] = under(e);
      const far = (h: CurveHandle) => Math.hypot(px - atStops(h.stops), (py - atValue(h.value)) * 0.7);
      held.current = handles.reduce((a, b) => (far(b) < far(a) ? b : a)).field;
      bent(e, false);
    },
    move: (e) => bent(e, false),
    end: (e) => bent(e, true),
    cancel: () => {
      letGo();
      useStore.getState().setDraft([]);
    },
  });
  const drawn = line<[number, number]>()
    .x(([stops]) => atStops(stops))
    .y(([, value]) => atValue(value))
    .digits(1)(points);
  return (
    <svg
      ref={svg}
      className={cls(`tone-curve ${disabled ? "off" : ""}`)}
      viewBox="0 0 260 132"
      width="100%"
      role="group"
      aria-label="Tone curve"
      {...drag}
    >
      <rect x={X} y={Y} width={WIDTH} height={HEIGHT} fill="#f4f4f4" stroke="#b4b4b4" />
      {histogram && <path d={outline(histogram, lift)} fill="#5a5a5a" fillOpacity="0.28" />}
      {[-6, -4, -2, 0, 2, 4, 6].map((s) => (
        <g key={s}>
          <line
            x1={atStops(s)}
            x2={atStops(s)}
            y1={Y}
            y2={Y + HEIGHT}
            stroke={s === 0 ? "#1e1e1e" : "#d0d0d0"}
            strokeWidth="0.8"
          />
          <text
            x={atStops(s)}
            y={Y + HEIGHT + 12}
            fontSize="8.5"
            textAnchor="middle"
            fontFamily="var(--numbers)"
            fill="#5a5a5a"
          >
            {s > 0 ? `+${s}` : s}
          </text>
        </g>
      ))}
      <path d={drawn ?? ""} fill="none" stroke="#66761a" strokeWidth="2" />
      {handles.map(({ field, title, stops, value }) => {
        const form = numbers.find((n) => n.field === field);
        const now = (treatment as unknown as Numbers)[field];
        return (
          form && (
            <g
              key={field}
              className={cls("tone-handle")}
              role="slider"
              tabIndex={disabled ? -1 : 0}
              aria-label={title}
              aria-disabled={disabled}
              aria-valuemin={form.low}
              aria-valuemax={form.high}
              aria-valuenow={Number(now.toFixed(3))}
              onKeyDown={(e) => {
                const many = e.shiftKey ? 10 : 1;
                const by = {
                  ArrowLeft: -many,
                  ArrowDown: -many,
                  ArrowRight: many,
                  ArrowUp: many,
                  PageDown: -10,
                  PageUp: 10,
                }[e.key];
                const { low, high, step } = form;
                const to = by !== undefined ? now + by * step : { Home: low, End: high }[e.key];
                if (to === undefined || disabled || e.ctrlKey || e.metaKey) return;
                e.preventDefault();
                change({ [field]: Number(clamp(to, low, high).toFixed(3)) }, "soon");
              }}
            >
              <circle cx={atStops(stops)} cy={atValue(value)} r="12" fill="transparent" />
              <circle
                cx={atStops(stops)}
                cy={atValue(value)}
                r="5"
                fill="#fff"
                stroke="#1e1e1e"
                strokeWidth="1.4"
              />
            </g>
          )
        );
      })}
    </svg>
  );
}

/** The histogram as a filled line, its highest place at four fifths of the field. */
function outline({ from, to, shares }: NonNullable<Props["histogram"]>, lift: number): string {
  const most = Math.max(...shares, 1e-9);
  const step = (to - from) / shares.length;
  const shape = area<number>()
    .x((_, k) => atStops(from + (k + 0.5) * step + lift))
    .y0(Y + HEIGHT)
    .y1((share) => Y + HEIGHT - (share / most) * HEIGHT * 0.8)
    .digits(1);
  return shape(shares) ?? "";
}
