import { useRef } from "react";

import type { Weather } from "../api/client";
import { type Done, useStore } from "../state/store";
import { classesOf } from "../ui/classes";
import { clamp } from "../ui/format";
import { useDrag } from "../ui/useDrag";
import styles from "./air.module.css";

const cls = classesOf(styles);
type Snow = NonNullable<Weather["snow"]>;
type Rain = NonNullable<Weather["rain"]>;

/** Centimetres of height on the staff, and pixels of a centimetre. */
const [MOST_CM, CM] = [60, 1.5];
const [WIDE, TALL, GROUND] = [190, 116, 100];
/** Hollows of the ground: left end, right end, depth in pixels. */
const HOLLOWS: [number, number, number][] = [
  [20, 62, 7],
  [78, 104, 4.5],
];
const HOUSE = 150;

interface Props {
  weather: Weather;
  set: (label: string, patch: Weather, done: Done) => void;
}

/** A profile of ground before a wall: snow is pulled up along the staff, hollows are filled by pulling at their water. */
export function GroundProfile({ weather, set }: Props) {
  const svg = useRef<SVGSVGElement>(null);
  const held = useRef<"snow" | "water" | null>(null);
  const snow: Snow = weather.snow ?? {};
  const rain: Rain = weather.rain ?? {};
  const depth = snow.depth_cm ?? 0;
  const puddles = rain.puddles ?? 0;
  const y = (e: React.PointerEvent) => {
    const r = svg.current!.getBoundingClientRect();
    return ((e.clientY - r.top) / r.height) * TALL;
  };
  const deep = (cm: number, done: Done) =>
    set(
      "Depth of the snow",
      { ...weather, snow: { ...snow, depth_cm: Number(clamp(cm, 0, 150).toFixed(1)) } },
      done,
    );
  const full = (share: number, done: Done) => {
    const to = Number(clamp(share, 0, 1).toFixed(2));
    // What has puddles is wet.
    const wet = to > 0 ? Math.max(rain.wet ?? 0, 0.6) : (rain.wet ?? 0);
    set("Puddles", { ...weather, rain: { ...rain, puddles: to, wet } }, done);
  };
  const put = (e: React.PointerEvent, done: Done) => {
    if (held.current === "snow") deep((GROUND - y(e)) / CM, done);
    else full((GROUND + HOLLOWS[0][2] - y(e)) / HOLLOWS[0][2], done);
  };
  const drag = useDrag({
    start: (e) => {
      const grip = (e.target as Element).closest<SVGElement>("[data-grip]")?.dataset.grip;
      if (grip !== "snow" && grip !== "water") return false;
      held.current = grip;
    },
    move: (e) => put(e, false),
    end: (e) => put(e, true),
    cancel: () => useStore.getState().setDraft([]),
  });
  const key = (by: number, go: (to: number, done: Done) => void, now: number) => (e: React.KeyboardEvent) => {
    if (e.ctrlKey || e.metaKey || e.altKey) return;
    const d = { ArrowUp: by, ArrowRight: by, ArrowDown: -by, ArrowLeft: -by }[e.key];
    if (d === undefined) return;
    e.preventDefault();
    go(now + d * (e.shiftKey ? 10 : 1), "soon");
  };
  const bed =
    `M0 ${GROUND}` +
    HOLLOWS.map(([a, b, d]) => `L${a} ${GROUND}Q${(a + b) / 2} ${GROUND + 2 * d} ${b} ${GROUND}`).join("") +
    `L${WIDE} ${GROUND}`;
  const top = GROUND - Math.min(depth, MOST_CM) * CM;
  // Under the eaves it thins out.
  const cover = `M0 ${GROUND}L0 ${top}L${HOUSE - 34} ${top}Q${HOUSE - 14} ${top} ${HOUSE - 4} ${GROUND - 0.25 * (GROUND - top)}L${HOUSE} ${GROUND}Z`;
  const bare = snow.bare ?? 0;
  return (
    <svg
      ref={svg}
      viewBox={`0 0 ${WIDE} ${TALL}`}
      width="100%"
      className={cls("sheet")}
      role="group"
      aria-label="Ground"
      {...drag}
    >
      <path d={`${bed}L${WIDE} ${TALL}L0 ${TALL}Z`} fill="#b4b4b4" />
      {HOLLOWS.map(([a, b, d], k) => {
        const level = GROUND + d * (1 - puddles);
        const half = ((b - a) / 2) * Math.sqrt(puddles);
        const m = (a + b) / 2;
        return (
          puddles > 0 && (
            <path
              key={k}
              d={`M${m - half} ${level}Q${m} ${GROUND + d * (1 + puddles)} ${m + half} ${level}Z`}
              fill="#35627f"
              fillOpacity={0.75}
            />
          )
        );
      })}
      <path d={bed} fill="none" stroke="#1e1e1e" strokeWidth={(rain.wet ?? 0) > 0 ? 2 : 1} />
      <path
        d={`M${HOUSE} ${GROUND}V26M${HOUSE - 24} 34L${WIDE} -6M${HOUSE + 8} ${GROUND}V20`}
        stroke="#1e1e1e"
        fill="none"
      />
      {depth > 0 && (
        <>
          <path
            d={cover}
            fill="#fff"
            stroke="#1e1e1e"
            strokeWidth={0.8}
            strokeDasharray={bare > 0 ? `${12 * (1 - bare)} ${12 * bare}` : undefined}
          />
          <path
            d={`M${HOUSE - 24} 34L${WIDE} -6V${-6 - Math.min(depth, MOST_CM) * CM * 0.5}L${HOUSE - 24} ${34 - Math.min(depth, MOST_CM) * CM * 0.5}Z`}
            fill="#fff"
            stroke="#1e1e1e"
            strokeWidth={0.6}
          />
        </>
      )}
      {[0, 10, 20, 30, 40, 50].map((cm) => (
        <g key={cm}>
          <path d={`M6 ${GROUND - cm * CM}h${cm % 20 ? 3 : 6}`} stroke="#1e1e1e" strokeWidth={0.6} />
          {cm > 0 && cm % 20 === 0 && (
            <text x={14} y={GROUND - cm * CM + 3} className={cls("number")} style={{ fontSize: 7 }}>
              {cm}
            </text>
          )}
        </g>
      ))}
      <g
        data-grip="snow"
        className={cls("grip")}
        tabIndex={0}
        role="slider"
        aria-label="Depth of the snow"
        aria-valuenow={depth}
        aria-valuemin={0}
        aria-valuemax={150}
        aria-valuetext={`${depth} cm`}
        style={{ cursor: "ns-resize" }}
        onKeyDown={key(1, deep, depth)}
      >
        <rect x={28} y={top - 7} width={HOUSE - 66} height={14} fill="transparent" />
        <path d={`M64 ${top - 4}l4 -5l4 5z`} fill="#1e1e1e" />
        <text x={76} y={top - 4} className={cls("number")} style={{ fontSize: 8 }}>
          {depth ? `${depth} cm` : "pull up snow"}
        </text>
      </g>
      <g
        data-grip="water"
        className={cls("grip")}
        tabIndex={0}
        role="slider"
        aria-label="Puddles"
        aria-valuenow={Math.round(100 * puddles)}
        aria-valuemin={0}
        aria-valuemax={100}
        aria-valuetext={`${Math.round(100 * puddles)} percent full`}
        style={{ cursor: "ns-resize" }}
        onKeyDown={key(0.05, full, puddles)}
      >
        <rect
          x={HOLLOWS[0][0]}
          y={GROUND + 1}
          width={HOLLOWS[0][1] - HOLLOWS[0][0]}
          height={13}
          fill="transparent"
        />
        <text x={112} y={GROUND + 11} className={cls("number")} style={{ fontSize: 7.5 }}>
          {`puddles ${Math.round(100 * puddles)} %`}
        </text>
      </g>
    </svg>
  );
}
