import { useMemo, useRef } from "react";

import { type Occasion, type Project } from "../api/client";
import type { Hands } from "../bench/useBench";
import { type Done, useStore } from "../state/store";
import { clamp, hourOf, hourText, withHour } from "../ui/format";
import { useDrag } from "../ui/useDrag";
import { useSunOfDay } from "../daylight/useSunOfDay";
import { classesOf } from "../ui/classes";
import styles from "./Dayline.module.css";

const cls = classesOf(styles);

const W = 1000;
const BAND = 40;

const TICKS = Array.from({ length: 25 }, (_, h) => (
  <line
    key={h}
    x1={(h / 24) * W}
    x2={(h / 24) * W}
    y1={BAND}
    y2={BAND + (h % 3 ? 3 : 6)}
    stroke="#1e1e1e"
    vectorEffect="non-scaling-stroke"
  />
));

interface Props {
  slug: string;
  project: Project;
  occasion: Occasion;
  hands: Hands;
}

/** How the parts of a day are drawn along the foot of the ribbon. */
const PARTS: Record<string, { y: number; fill: string; opacity: number }> = {
  "astronomical twilight": { y: 0, fill: "#1e1e1e", opacity: 0.75 },
  "nautical twilight": { y: 0, fill: "#1e1e1e", opacity: 0.5 },
  "civil twilight": { y: 0, fill: "#1e1e1e", opacity: 0.25 },
  "blue hour": { y: 3, fill: "#35627f", opacity: 1 },
  "golden hour": { y: 3, fill: "#b0501e", opacity: 1 },
};

/** The hours of the day: real colours of the sky, height of the sun, and a marker to drag. */
export function Dayline({ slug, project, occasion, hands }: Props) {
  const box = useRef<HTMLDivElement>(null);
  const day = occasion.when.slice(0, 10);
  const turbidity = occasion.sky?.turbidity ?? 2.5;
  const hour = hourOf(occasion.when);
  const byPlace = occasion.sun?.true_to_place ?? true;

  const sun = useSunOfDay(slug, day, turbidity, 80);

  const move = (hours: number, done: Done) => {
    const when = withHour(occasion.when, clamp(hours, 0, 23.99));
    hands.occasion("Hour", { when }, done);
    return when;
  };
  const at = (clientX: number) => {
    const rect = box.current!.getBoundingClientRect();
    return Math.round(clamp((clientX - rect.left) / rect.width, 0, 1) * 24 * 12) / 12;
  };
  const drag = useDrag({
    start: (e) => void move(at(e.clientX), false),
    move: (e) => void move(at(e.clientX), false),
    end: (e) => void move(at(e.clientX), true),
    cancel: () => useStore.getState().setDraft([]),
  });
  const sunHeight = (altitude: number) => BAND - 4 - (clamp(altitude, -30, 90) / 90) * (BAND - 10);
  const colours = useMemo(
    () => (
      <defs>
        <linearGradient id="sky-of-day">
          {sun?.colours.map((c, k) => (
            <stop key={k} offset={sun.day.hours[k] / 24} stopColor={c} />
          ))}
        </linearGradient>
      </defs>
    ),
    [sun],
  );
  const curve = sun?.day.hours
    .map((h, k) => `${(h / 24) * W},${sunHeight(sun.day.altitude_deg[k])}`)
    .join(" ");

  return (
    <div
      ref={box}
      className={cls("dayline")}
      role="slider"
      tabIndex={0}
      aria-label="Hour of the day"
      aria-valuemin={0}
      aria-valuemax={24}
      aria-valuenow={Number(hour.toFixed(3))}
      aria-valuetext={hourText(hour)}
      {...drag}
      onKeyDown={(e) => {
        if (e.ctrlKey || e.metaKey || e.altKey) return;
        const hours = e.shiftKey ? 1 : 1 / 12;
        const by = {
          ArrowLeft: -hours,
          ArrowDown: -hours,
          ArrowRight: hours,
          ArrowUp: hours,
          PageDown: -1,
          PageUp: 1,
        }[e.key];
        const to = by !== undefined ? hour + by : { Home: 0, End: 24 - 1 / 12 }[e.key];
        if (to === undefined) return;
        e.preventDefault();
        if (to >= 0 && to < 24) move(to, "soon");
      }}
    >
      <svg viewBox={`0 0 ${W} 58`} preserveAspectRatio="none" width="100%" height="58" aria-hidden="true">
        {colours}
        <rect
          x="0"
          y="0"
          width={W}
          height={BAND}
          fill={sun ? "url(#sky-of-day)" : "#b4b4b4"}
          stroke="#1e1e1e"
          vectorEffect="non-scaling-stroke"
        />
        <line
          x1="0"
          x2={W}
          y1={sunHeight(0)}
          y2={sunHeight(0)}
          stroke="#fff"
          strokeOpacity="0.45"
          vectorEffect="non-scaling-stroke"
        />
        {curve && (
          <polyline
            points={curve}
            fill="none"
            stroke="#fff"
            strokeWidth="1.5"
            vectorEffect="non-scaling-stroke"
          />
        )}
        {sun?.parts.map((p) => {
          const look = PARTS[p.name];
          return (
            look && (
              <rect
                key={`${p.name}${p.start}`}
                x={(p.start / 24) * W}
                width={((p.end - p.start) / 24) * W}
                y={BAND - 6 + look.y}
                height="3"
                fill={look.fill}
                fillOpacity={look.opacity}
              >
                <title>{`${p.name} ${hourText(p.start)} to ${hourText(p.end)}`}</title>
              </rect>
            )
          );
        })}
        {project.occasions
          ?.filter((o) => o.key !== occasion.key)
          .map((o) => (
            <path
              key={o.key}
              d={`M${(hourOf(o.when) / 24) * W - 4} 0h8l-4 6z`}
              fill="#fff"
              stroke="#1e1e1e"
              strokeWidth="0.8"
              vectorEffect="non-scaling-stroke"
            >
              <title>{`${o.name}, ${hourText(hourOf(o.when))}`}</title>
            </path>
          ))}
        {TICKS}
        <line
          x1={(hour / 24) * W}
          x2={(hour / 24) * W}
          y1="-2"
          y2={BAND + 6}
          stroke="#1e1e1e"
          strokeWidth="2"
          strokeDasharray={byPlace ? undefined : "3 3"}
          vectorEffect="non-scaling-stroke"
        />
      </svg>
      {[0, 3, 6, 9, 12, 15, 18, 21, 24].map((h) => (
        <span
          key={h}
          className={cls("ribbon-label number quiet")}
          style={{
            left: `${(h / 24) * 100}%`,
            top: 45,
            transform: h === 0 ? undefined : h === 24 ? "translateX(-100%)" : "translateX(-50%)",
          }}
        >
          {h}
        </span>
      ))}
      {sun?.day.sunrise != null && (
        <span
          className={cls("ribbon-label")}
          style={{
            left: `${(sun.day.sunrise / 24) * 100}%`,
            top: 2,
            color: "#fff",
            paddingLeft: 5,
            textShadow: "0 0 3px #000a",
          }}
        >
          sunrise {hourText(sun.day.sunrise)}
        </span>
      )}
      {sun?.day.sunset != null && (
        <span
          className={cls("ribbon-label")}
          style={{
            left: `${(sun.day.sunset / 24) * 100}%`,
            top: 2,
            color: "#fff",
            transform: "translateX(-100%)",
            paddingRight: 5,
            textShadow: "0 0 3px #000a",
          }}
        >
          sunset {hourText(sun.day.sunset)}
        </span>
      )}
      <span
        style={{
          position: "absolute",
          left: `${(hour / 24) * 100}%`,
          top: 13,
          width: 12,
          height: 12,
          marginLeft: -6,
          borderRadius: "50%",
          background: "#fff",
          border: "1.5px solid #1e1e1e",
          pointerEvents: "none",
        }}
      />
    </div>
  );
}
