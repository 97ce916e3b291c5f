import { area, line } from "d3-shape";
import { useRef } from "react";

import { type Done, useStore } from "../state/store";
import { clamp } from "../ui/format";
import { useDrag } from "../ui/useDrag";
import { classesOf } from "../ui/classes";
import styles from "./ToneCurve.module.css";

const cls = classesOf(styles);

export interface Tone {
  shoulder: number;
  toe: number;
  stops_above: number;
}

interface Props {
  tone: Tone;
  /** Share of the picture's pixels by stops about the lens's white, and the stops of its first and last edge. */
  histogram: { from: number; to: number; shares: number[] } | null;
  /** Stops by which the look lifts the picture before the curve. */
  lift: number;
  disabled?: boolean;
  change: (patch: Partial<Tone>, done: Done) => void;
}

const [LOW, HIGH] = [-8, 8];
const [X, Y, WIDTH, HEIGHT] = [10, 8, 240, 108];
const TOE_STOPS = -4;
/** Stops at which the curve is drawn. */
const SHOWN = Array.from({ length: 97 }, (_, k) => LOW + (k / 96) * (HIGH - LOW));
const RANGES = { shoulder: [0, 1], toe: [0, 1], stops_above: [0.5, 8] } as const;
const NAMES = { shoulder: "Shoulder", toe: "Toe", stops_above: "White point" } as const;
const STEPS = { shoulder: 0.02, toe: 0.02, stops_above: 0.1 } as const;

const kneeOf = (shoulder: number) => 1 - 0.85 * shoulder;
const toeOf = (toe: number) => 0.1 * toe;

/** The curve as the finish applies it, for a brightness of 1 at the lens's white. */
function curve({ shoulder, toe, stops_above }: Tone, x: number): number {
  const [knee, white, k] = [kneeOf(shoulder), 2 ** stops_above, toeOf(toe)];
  let y = knee < 1 ? x : Math.min(x, 1);
  if (x > knee && knee < 1) {
    const a = (white - knee) / (1 - knee);
    const s = (x - knee) / (white - knee);
    y = Math.min(knee + ((1 - knee) * a * s) / (1 + (a - 1) * s), 1);
  }
  return k > 0 ? (y * y * (1 + k)) / (y + k) : y;
}

const atStops = (stops: number) => X + ((clamp(stops, LOW, HIGH) - LOW) / (HIGH - LOW)) * WIDTH;
const atValue = (y: number) => Y + HEIGHT - clamp(y, 0, 1) ** (1 / 2.2) * HEIGHT;

/** The tone curve over the picture's histogram: take it anywhere and bend it. */
export function ToneCurve({ tone, histogram, lift, disabled, change }: Props) {
  const svg = useRef<SVGSVGElement>(null);
  const held = useRef<keyof Tone>("shoulder");
  const knee = Math.log2(kneeOf(tone.shoulder));
  const handles: [keyof Tone, number, number][] = [
    ["toe", atStops(TOE_STOPS), atValue(curve(tone, 2 ** TOE_STOPS))],
    ["shoulder", atStops(knee), atValue(curve(tone, 2 ** knee))],
    ["stops_above", atStops(tone.stops_above), atValue(1)],
  ];
  const under = (e: React.PointerEvent): [number, number] => {
    const p = new DOMPoint(e.clientX, e.clientY).matrixTransform(svg.current!.getScreenCTM()!.inverse());
    return [p.x, p.y];
  };
  /** The values for which the handle in hand lies under the pointer. */
  const bent = (e: React.PointerEvent): Partial<Tone> => {
    const [px, py] = under(e);
    const stops = LOW + ((px - X) / WIDTH) * (HIGH - LOW);
    if (held.current === "stops_above") return { stops_above: Number(clamp(stops, 0.5, 8).toFixed(2)) };
    if (held.current === "shoulder")
      return { shoulder: Number(clamp((1 - 2 ** stops) / 0.85, 0, 1).toFixed(3)) };
    // y = x0²(1 + k) / (x0 + k), solved for k.
    const x0 = 2 ** TOE_STOPS;
    const y = clamp((Y + HEIGHT - py) / HEIGHT, 0, 1) ** 2.2;
    const k = y >= x0 ? 0 : y <= x0 * x0 * 1.0001 ? 1 : (x0 * (x0 - y)) / (y - x0 * x0);
    return { toe: Number(clamp(k / 0.1, 0, 1).toFixed(3)) };
  };
  const drag = useDrag({
    start: (e) => {
      if (disabled) return false;
      const [px, py] = under(e);
      const far = ([, x, y]: (typeof handles)[number]) => Math.hypot(px - x, (py - y) * 0.7);
      held.current = handles.reduce((a, b) => (far(b) < far(a) ? b : a))[0];
      change(bent(e), false);
    },
    move: (e) => change(bent(e), false),
    end: (e) => change(bent(e), true),
    cancel: () => useStore.getState().setDraft([]),
  });
  const drawn = line<number>()
    .x((stops) => atStops(stops))
    .y((stops) => atValue(curve(tone, 2 ** stops)))
    .digits(1)(SHOWN);
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
      {handles.map(([field, x, y]) => (
        <g
          key={field}
          className={cls("tone-handle")}
          role="slider"
          tabIndex={disabled ? -1 : 0}
          aria-label={NAMES[field]}
          aria-disabled={disabled}
          aria-valuemin={RANGES[field][0]}
          aria-valuemax={RANGES[field][1]}
          aria-valuenow={Number(tone[field].toFixed(3))}
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
            const [low, high] = RANGES[field];
            const to = by !== undefined ? tone[field] + by * STEPS[field] : { Home: low, End: high }[e.key];
            if (to === undefined || disabled || e.ctrlKey || e.metaKey) return;
            e.preventDefault();
            change({ [field]: Number(clamp(to, low, high).toFixed(3)) }, "soon");
          }}
        >
          <circle cx={x} cy={y} r="12" fill="transparent" />
          <circle cx={x} cy={y} r="5" fill="#fff" stroke="#1e1e1e" strokeWidth="1.4" />
        </g>
      ))}
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
