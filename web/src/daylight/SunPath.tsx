import { useMemo, useRef } from "react";

import type { HorizonMask, SunDay } from "../api/client";
import { type Done, useStore } from "../state/store";
import { useDrag } from "../ui/useDrag";

const R = 92;
const MONTHS = ["Dec", "Jan", "Feb", "Mar", "Apr", "May", "Jun"];

/** Stereographic projection of a direction: zenith in the middle, horizon at the rim, north up. */
function project(azimuth: number, altitude: number): [number, number] {
  const r = R * Math.tan(((90 - altitude) * Math.PI) / 360);
  const a = (azimuth * Math.PI) / 180;
  return [r * Math.sin(a), -r * Math.cos(a)];
}

/** The direction under a place of the diagram. */
function direction(x: number, y: number): [number, number] {
  const r = Math.min(Math.hypot(x, y), R * 1.08);
  return [((Math.atan2(x, -y) * 180) / Math.PI + 360) % 360, 90 - (2 * Math.atan(r / R) * 180) / Math.PI];
}

/** Cells of the sky that the stage hides, drawn as one path. */
function hiddenPath(mask: HorizonMask): string {
  const parts: string[] = [];
  const da = 360 / mask.azimuths;
  const dh = 90 / mask.altitudes;
  for (let row = 0; row < mask.altitudes; row++) {
    let start = -1;
    for (let k = 0; k <= mask.azimuths; k++) {
      const shut = k < mask.azimuths && mask.hidden[row * mask.azimuths + k] === "1";
      if (shut && start < 0) start = k;
      if (!shut && start >= 0) {
        const along: string[] = [];
        for (let a = start; a <= k; a++)
          along.push(
            project(a * da, row * dh)
              .map((v) => v.toFixed(1))
              .join(" "),
          );
        for (let a = k; a >= start; a--)
          along.push(
            project(a * da, (row + 1) * dh)
              .map((v) => v.toFixed(1))
              .join(" "),
          );
        parts.push(`M${along.join("L")}Z`);
        start = -1;
      }
    }
  }
  return parts.join("");
}

interface Props {
  sun: SunDay | null;
  azimuth: number | null;
  altitude: number | null;
  hidden: HorizonMask | null;
  /** Moves the sun: by hand, or along the hours of the day. */
  onMove: (azimuth: number, altitude: number, done: Done) => void;
  byPlace: boolean;
  /** Told which direction is pointed at, null when none is. */
  onPoint?: (at: [number, number] | null) => void;
}

/** The sky seen from above: month and hour lines, the day's path, what the stage hides, and the sun to drag. */
export function SunPath({ sun, azimuth, altitude, hidden, onMove, byPlace, onPoint }: Props) {
  const svg = useRef<SVGSVGElement>(null);
  const shut = useMemo(() => (hidden ? hiddenPath(hidden) : ""), [hidden]);
  const lines = (track: SunDay["day"]) => {
    const parts: string[] = [];
    let open = false;
    track.altitude_deg.forEach((h, k) => {
      if (h >= 0) {
        const [x, y] = project(track.azimuth_deg[k], h);
        parts.push(`${open ? "L" : "M"}${x.toFixed(1)} ${y.toFixed(1)}`);
        open = true;
      } else open = false;
    });
    return parts.join("");
  };
  const hourLine = (hour: number) => {
    const places = (sun?.year ?? []).flatMap((track) => {
      const k = track.hours.findIndex((h) => Math.abs(h - hour) < 0.01);
      return k >= 0 && track.altitude_deg[k] >= 0
        ? [project(track.azimuth_deg[k], track.altitude_deg[k])]
        : [];
    });
    return places.length > 1 ? `M${places.map((p) => p.map((v) => v.toFixed(1)).join(" ")).join("L")}` : "";
  };
  const under = (e: React.PointerEvent): [number, number] => {
    const rect = svg.current!.getBoundingClientRect();
    const scale = 236 / Math.min(rect.width, rect.height);
    return direction(
      (e.clientX - rect.left - rect.width / 2) * scale,
      (e.clientY - rect.top - rect.height / 2) * scale,
    );
  };
  const drag = (e: React.PointerEvent, done: Done) => {
    const [az, alt] = under(e);
    onMove(Math.round(az * 10) / 10, Math.round(alt * 10) / 10, done);
  };
  const handlers = useDrag({
    start: (e) => drag(e, false),
    move: (e) => drag(e, false),
    end: (e) => drag(e, true),
    cancel: () => useStore.getState().setDraft([]),
  });
  const up = altitude !== null && azimuth !== null && altitude > -8;
  const place = up ? project(azimuth, Math.max(altitude, -8)) : null;
  return (
    <svg
      ref={svg}
      viewBox="-118 -118 236 236"
      width="100%"
      style={{ maxHeight: 236, display: "block", touchAction: "none", cursor: "crosshair" }}
      role="slider"
      tabIndex={0}
      aria-label={
        byPlace
          ? "Sun-path diagram: left and right move the hour"
          : "Sun, set by hand: left and right turn it, up and down raise it"
      }
      aria-valuenow={azimuth ?? 0}
      aria-valuemin={0}
      aria-valuemax={360}
      aria-valuetext={
        azimuth !== null ? `azimuth ${azimuth.toFixed(1)}°, altitude ${altitude?.toFixed(1)}°` : undefined
      }
      {...handlers}
      onPointerMove={(e) => {
        onPoint?.(under(e));
        handlers.onPointerMove(e);
      }}
      onPointerLeave={() => onPoint?.(null)}
      onKeyDown={(e) => {
        if (azimuth === null || altitude === null || e.ctrlKey || e.metaKey || e.altKey) return;
        const by = e.shiftKey ? 10 : 1;
        const d = { ArrowLeft: [-by, 0], ArrowRight: [by, 0], ArrowUp: [0, by], ArrowDown: [0, -by] }[e.key];
        if (!d) return;
        e.preventDefault();
        onMove((azimuth + d[0] + 360) % 360, Math.min(Math.max(altitude + d[1], -30), 90), "soon");
      }}
    >
      <circle r={R} fill="#f4f4f4" stroke="#1e1e1e" />
      {shut && <path d={shut} fill="#1e1e1e" fillOpacity="0.2" />}
      {[15, 30, 45, 60, 75].map((h) => (
        <circle
          key={h}
          r={R * Math.tan(((90 - h) * Math.PI) / 360)}
          fill="none"
          stroke="#c4c4c4"
          strokeWidth="0.8"
        />
      ))}
      {Array.from({ length: 36 }, (_, k) => {
        const a = (k * 10 * Math.PI) / 180;
        const long = k % 9 === 0 ? 0 : k % 3 === 0 ? 7 : 4;
        return (
          <line
            key={k}
            x1={R * Math.sin(a)}
            y1={-R * Math.cos(a)}
            x2={(R + long) * Math.sin(a)}
            y2={-(R + long) * Math.cos(a)}
            stroke="#1e1e1e"
            strokeWidth="0.8"
          />
        );
      })}
      {Array.from({ length: 24 }, (_, hour) => {
        const d = hourLine(hour);
        return (
          d && <path key={hour} d={d} fill="none" stroke="#a8a8a8" strokeWidth="0.6" strokeDasharray="2 2" />
        );
      })}
      {sun?.year.map((track, k) => {
        const top = track.altitude_deg.reduce((best, h, n) => (h > track.altitude_deg[best] ? n : best), 0);
        const [x, y] = project(track.azimuth_deg[top], Math.max(track.altitude_deg[top], 0));
        return (
          <g key={track.date}>
            <path d={lines(track)} fill="none" stroke="#8f8f8f" strokeWidth="0.9" />
            {k % 3 === 0 && track.altitude_deg[top] > 3 && (
              <text x={x + 3} y={y + 7} fontSize="7.5" fill="#5a5a5a" fontFamily="var(--numbers)">
                {MONTHS[k]}
              </text>
            )}
          </g>
        );
      })}
      {sun && <path d={lines(sun.day)} fill="none" stroke="#66761a" strokeWidth="2" />}
      {sun?.day.hours.map((h, k) => {
        if (Math.abs(h - Math.round(h)) > 0.01 || Math.round(h) % 3 || sun.day.altitude_deg[k] < 1)
          return null;
        const [x, y] = project(sun.day.azimuth_deg[k], sun.day.altitude_deg[k]);
        return (
          <g key={k}>
            <circle cx={x} cy={y} r="1.8" fill="#66761a" />
            <text
              x={x}
              y={y - 5}
              fontSize="8.5"
              textAnchor="middle"
              fill="#1e1e1e"
              fontFamily="var(--numbers)"
            >
              {Math.round(h)}
            </text>
          </g>
        );
      })}
      {["N", "E", "S", "W"].map((name, k) => {
        const a = (k * Math.PI) / 2;
        return (
          <text
            key={name}
            x={(R + 14) * Math.sin(a)}
            y={-(R + 14) * Math.cos(a) + 4}
            fontSize="11"
            fontWeight="640"
            textAnchor="middle"
          >
            {name}
          </text>
        );
      })}
      {place && (
        <g>
          <line x1={place[0]} y1={place[1]} x2="0" y2="0" stroke="#1e1e1e" strokeWidth="0.9" />
          <circle
            cx={place[0]}
            cy={place[1]}
            r="6.5"
            fill={altitude! >= 0 ? "#fff" : "#9a9a9a"}
            stroke="#1e1e1e"
            strokeWidth="1.4"
          />
          <circle cx={place[0]} cy={place[1]} r="1.6" fill="#1e1e1e" />
        </g>
      )}
    </svg>
  );
}
