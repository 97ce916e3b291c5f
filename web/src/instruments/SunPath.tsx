import { useRef } from "react";
import type { Done } from "../state/store";

import type { SunDay } from "../api/client";

const R = 92;

/** Stereographic projection of a direction: zenith in the middle, horizon at the rim, north up. */
function project(azimuth: number, altitude: number): [number, number] {
  const r = R * Math.tan(((90 - altitude) * Math.PI) / 360);
  const a = (azimuth * Math.PI) / 180;
  return [r * Math.sin(a), -r * Math.cos(a)];
}

interface Props {
  sun: SunDay | null;
  azimuth: number | null;
  altitude: number | null;
  /** Given when the sun may be moved by hand. */
  onMove?: (azimuth: number, altitude: number, done: Done) => void;
}

/** The sky seen from below: the day's path, the solstices and equinox, hour marks, and the sun to drag. */
export function SunPath({ sun, azimuth, altitude, onMove }: Props) {
  const svg = useRef<SVGSVGElement>(null);
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
  const drag = (e: React.PointerEvent, done: Done) => {
    if (!onMove || !svg.current) return;
    const rect = svg.current.getBoundingClientRect();
    const scale = 236 / rect.width;
    const x = (e.clientX - rect.left) * scale - 118;
    const y = (e.clientY - rect.top) * scale - 118;
    const r = Math.min(Math.hypot(x, y), R * 1.08);
    const alt = 90 - (2 * Math.atan(r / R) * 180) / Math.PI;
    const az = ((Math.atan2(x, -y) * 180) / Math.PI + 360) % 360;
    onMove(Math.round(az * 10) / 10, Math.round(alt * 10) / 10, done);
  };
  const up = altitude !== null && azimuth !== null && altitude > -8;
  const place = up ? project(azimuth, Math.max(altitude, -8)) : null;
  return (
    <svg
      ref={svg}
      viewBox="-118 -118 236 236"
      width="100%"
      style={{
        maxHeight: 236,
        display: "block",
        touchAction: "none",
        cursor: onMove ? "crosshair" : "default",
      }}
      role={onMove ? "slider" : "img"}
      tabIndex={onMove ? 0 : undefined}
      aria-label={
        onMove ? "Sun, set by hand: left and right turn it, up and down raise it" : "Sun-path diagram"
      }
      aria-valuenow={onMove ? (azimuth ?? 0) : undefined}
      aria-valuemin={onMove ? 0 : undefined}
      aria-valuemax={onMove ? 360 : undefined}
      aria-valuetext={
        azimuth !== null ? `azimuth ${azimuth.toFixed(1)}°, altitude ${altitude?.toFixed(1)}°` : undefined
      }
      onPointerDown={(e) => {
        if (!onMove) return;
        e.currentTarget.setPointerCapture(e.pointerId);
        drag(e, false);
      }}
      onPointerMove={(e) => e.buttons === 1 && drag(e, false)}
      onPointerUp={(e) => drag(e, true)}
      onKeyDown={(e) => {
        if (!onMove || azimuth === null || altitude === null) return;
        const by = e.shiftKey ? 10 : 1;
        const d = { ArrowLeft: [-by, 0], ArrowRight: [by, 0], ArrowUp: [0, by], ArrowDown: [0, -by] }[e.key];
        if (!d) return;
        e.preventDefault();
        const next: [number, number] = [
          (azimuth + d[0] + 360) % 360,
          Math.min(Math.max(altitude + d[1], -30), 90),
        ];
        onMove(...next, "soon");
      }}
    >
      <circle r={R} fill="#f4f4f4" stroke="#1e1e1e" />
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
      {sun?.year.map((track) => (
        <path key={track.date} d={lines(track)} fill="none" stroke="#8f8f8f" strokeWidth="0.9" />
      ))}
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
              fill="#5a5a5a"
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
