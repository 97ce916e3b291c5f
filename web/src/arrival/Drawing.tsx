import { useMemo } from "react";

import type { Arrival } from "../api/client";
import { classesOf } from "../ui/classes";
import styles from "./arrival.module.css";
import { type Box, cornersOf, type Extent, lengthText, pathOf, type Projection } from "./projected";

const cls = classesOf(styles);

interface Props {
  sheet: Arrival["sheet"];
  shown: Projection;
  from: "above" | "south";
  /** What is pointed out, in the file's own unit. */
  box: Box | null;
}

/** Width and height of a drawing in pixels, without and with room for what stands beside. */
const WIDE = 620;
const HIGH = { above: 300, south: 240 };
const MARGIN = 14;

/** Someone of 1.70 m seen from before, standing at zero: outline in metres, y upwards. */
const FIGURE =
  "M-.09 0L-.11 .8L-.2 .82L-.24 1.38L-.1 1.47L-.06 1.5A.11 .13 0 1 0 .06 1.5L.1 1.47L.24 1.38L.2 .82L.11 .8L.09 0L.01 0L0 .74L-.01 0Z";

/** The model drawn by its edges, from above or from the south, beside someone of 1.70 m, a door and a storey. */
export function Drawing({ sheet, shown, from, box }: Props) {
  const { d, extent } = useMemo(() => {
    const { low, lines } = sheet;
    const seen = lines.map((l): [number, number, number, number] => {
      const a = shown.at([l[0] + low[0], l[1] + low[1], l[2] + low[2]]);
      const b = shown.at([l[3] + low[0], l[4] + low[1], l[5] + low[2]]);
      return from === "above" ? [a[0], a[1], b[0], b[1]] : [a[0], a[2], b[0], b[2]];
    });
    return { d: pathOf(seen).d, extent: extentOn(sheet.frame as Box, shown, from) };
  }, [sheet, shown, from]);
  const wide = Math.max(extent.right - extent.left, 1e-9);
  const gap = Math.max(wide * 0.04, 0.5);
  const view: Extent =
    from === "south"
      ? {
          left: extent.left,
          right: extent.right + gap + 3.6,
          low: Math.min(extent.low, 0),
          high: Math.max(extent.high, 3.1),
        }
      : { ...extent, right: extent.right + gap + 0.6 };
  const high = HIGH[from];
  const unit = Math.max(
    (view.right - view.left) / (WIDE - 2 * MARGIN),
    (view.high - view.low) / (high - 2 * MARGIN - 18),
  );
  const middle = [(view.left + view.right) / 2, (view.low + view.high) / 2];
  const left = middle[0] - (WIDE / 2) * unit;
  const top = -middle[1] - (high / 2) * unit - 4 * unit;
  const beside = extent.right + gap;
  const bar = [1000, 100, 10, 1, 0.1, 0.01].find((m) => m < unit * 160) ?? 0.001;
  return (
    <svg
      className={cls("drawing")}
      viewBox={`${left} ${top} ${WIDE * unit} ${high * unit}`}
      role="img"
      aria-label={from === "above" ? "Plan of the model" : "Elevation of the model from the south"}
    >
      {from === "south" && (
        <line x1={left} x2={left + WIDE * unit} y1={0} y2={0} stroke="#8a8a8a" strokeWidth={unit} />
      )}
      <path d={d} stroke="#1e1e1e" strokeWidth={unit * 0.9} fill="none" strokeOpacity={0.75} />
      {box && (
        <path d={boxPath(box, shown, from)} className={cls("pointed")} data-pointed strokeWidth={unit * 2} />
      )}
      {from === "south" ? (
        <g transform={`translate(${beside} 0)`}>
          <path d={FIGURE} transform="translate(.3 0) scale(1 -1)" fill="#35627f" />
          <rect
            x={0.9}
            y={-2.1}
            width={0.9}
            height={2.1}
            fill="none"
            stroke="#35627f"
            strokeWidth={unit * 1.4}
          />
          <path d="M2.2 0H2.6M2.4 0V-3M2.2 -3H2.6" fill="none" stroke="#35627f" strokeWidth={unit * 1.4} />
        </g>
      ) : (
        <ellipse cx={beside + 0.3} cy={-(extent.low + extent.high) / 2} rx={0.24} ry={0.14} fill="#35627f" />
      )}
      <g transform={`translate(${left + MARGIN * unit} ${top + (high - 10) * unit})`}>
        <path
          d={`M0 0H${bar}M0 ${-4 * unit}V${4 * unit}M${bar} ${-4 * unit}V${4 * unit}`}
          stroke="#1e1e1e"
          strokeWidth={unit}
        />
        <text x={bar + 6 * unit} y={4 * unit} fontSize={11 * unit} fontFamily="var(--numbers)">
          {lengthText(bar)}
        </text>
      </g>
    </svg>
  );
}

/** The box as the drawing shows it. */
function boxPath(box: Box, shown: Projection, from: Props["from"]): string {
  const { left, right, low, high } = extentOn(box, shown, from);
  return `M${left} ${-low}H${right}V${-high}H${left}Z`;
}

function extentOn(box: Box, shown: Projection, from: Props["from"]): Extent {
  const corners = cornersOf(box).map((p) => shown.at(p));
  const x = corners.map((p) => p[0]);
  const y = corners.map((p) => p[from === "above" ? 1 : 2]);
  return { left: Math.min(...x), right: Math.max(...x), low: Math.min(...y), high: Math.max(...y) };
}
