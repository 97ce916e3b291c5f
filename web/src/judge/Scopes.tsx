import { useEffect, useRef } from "react";

import type { ScopesRead } from "../api/client";
import { classesOf } from "../ui/classes";
import styles from "./judge.module.css";

const cls = classesOf(styles);
type Read = { read: ScopesRead };

const outline = (shares: number[], most: number, tall: number) =>
  `M0 ${tall}${shares.map((s, k) => `L${(k + 0.5) * (256 / shares.length)} ${tall - Math.sqrt(s / most) * tall}`).join("")}L256 ${tall}Z`;

/** How much of the picture is how bright, by channel; the height by the square root, so that little is seen, too. */
export function Histogram({ read }: Read) {
  const most = Math.max(...read.red, ...read.green, ...read.blue, ...read.luma, 1e-9);
  return (
    <svg
      className={cls("scope")}
      viewBox="0 0 256 62"
      role="img"
      aria-label="Histogram"
      preserveAspectRatio="none"
    >
      <path d={outline(read.luma, most, 60)} fill="#bdbdbd" />
      {(
        [
          ["red", "#a8322a"],
          ["green", "#3f7a35"],
          ["blue", "#34589c"],
        ] as const
      ).map(([name, colour]) => (
        <path key={name} d={outline(read[name], most, 60)} fill="none" stroke={colour} strokeWidth="1.1" />
      ))}
      <line x1="0" x2="256" y1="60.5" y2="60.5" stroke="#1e1e1e" />
    </svg>
  );
}

/** Counts of a grid drawn dark on paper, the more the darker. */
function useGrid(
  coded: string,
  rows: number,
  columns: number,
  ink: (k: number, count: number) => [number, number, number],
) {
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    const drawing = canvas.current?.getContext("2d");
    if (!drawing) return;
    const bytes = atob(coded);
    const image = drawing.createImageData(columns, rows);
    for (let k = 0; k < rows * columns; k += 1) {
      const count = bytes.charCodeAt(k);
      const [r, g, b] = ink(k, count);
      image.data.set([r, g, b, count === 0 ? 0 : 60 + (count * 195) / 255], 4 * k);
    }
    drawing.putImageData(image, 0, 0);
  }, [coded, rows, columns, ink]);
  return canvas;
}

const dark = (): [number, number, number] => [30, 30, 30];

/** How bright the picture is from its left to its right. */
export function Waveform({ read }: Read) {
  const [rows, columns] = read.waveform_size;
  const canvas = useGrid(read.waveform, rows, columns, dark);
  return (
    <div className={cls("scope wave")} role="img" aria-label="Waveform: brightness from left to right">
      <canvas ref={canvas} width={columns} height={rows} />
      {[0, 25, 50, 75, 100].map((v) => (
        <span key={v} style={{ top: `${100 - v}%` }}>
          {v}
        </span>
      ))}
    </div>
  );
}

/** In which hues the picture is, and how strongly: grey in the middle. */
export function Vectors({ read }: Read) {
  const n = read.vectors_size;
  const hued = useRef((k: number): [number, number, number] => {
    const [cb, cr] = [((k % n) + 0.5) / n - 0.5, 0.5 - (Math.floor(k / n) + 0.5) / n];
    const [r, b] = [0.45 + 1.5748 * cr, 0.45 + 1.8556 * cb];
    const g = (0.45 - 0.2126 * r - 0.0722 * b) / 0.7152;
    return [r, g, b].map((v) => Math.min(Math.max(v, 0), 1) * 255) as [number, number, number];
  });
  const canvas = useGrid(read.vectors, n, n, hued.current);
  return (
    <div className={cls("scope vectors")} role="img" aria-label="Vectorscope: hues and how strong they are">
      <canvas ref={canvas} width={n} height={n} />
      <svg viewBox="-50 -50 100 100" aria-hidden>
        <circle r="49" />
        <circle r="24.5" />
        <path d="M-50 0H50M0 -50V50" />
      </svg>
    </div>
  );
}

const NUMERALS = ["0", "I", "II", "III", "IV", "V", "VI", "VII", "VIII", "IX", "X"];

/** Exposure zones: whole stops about middle grey, and how much of the picture is in each. */
export function Zones({ read }: Read) {
  const last = read.zones.reduce((top, share, k) => (share > 0 ? k : top), 7);
  const shown = read.zones.slice(0, Math.max(last, 7) + 1);
  const most = Math.max(...shown, 1e-9);
  return (
    <div className={cls("zones")} role="img" aria-label="Exposure zones">
      {shown.map((share, k) => {
        const linear = 0.18 * 2 ** (k - 5);
        const code = k === 0 ? 0 : Math.round(255 * Math.min(linear, 1) ** (1 / 2.2));
        return (
          <div key={k} title={`Zone ${NUMERALS[k]}: ${(100 * share).toFixed(1)} %`}>
            <i style={{ height: `${(share / most) * 26}px` }} />
            <b style={{ background: `rgb(${code} ${code} ${code})` }} />
            <span>{NUMERALS[k]}</span>
          </div>
        );
      })}
    </div>
  );
}
