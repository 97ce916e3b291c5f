import { useRef } from "react";

import type { LeafYear } from "../api/client";
import { type Done, useStore } from "../state/store";
import { classesOf } from "../ui/classes";
import { clamp, dayFromIndex, dayText } from "../ui/format";
import { useDrag } from "../ui/useDrag";
import styles from "./air.module.css";

const cls = classesOf(styles);
const LAST = 365;

interface Props {
  leaf: LeafYear;
  year: string;
  hold: (day: number, done: Done) => void;
  letGo: () => void;
}

/** The year of a kind of leaf as a hedge that buds, turns and falls; its marker is dragged to hold it on another day. */
export function LeafStrip({ leaf, year, hold, letGo }: Props) {
  const svg = useRef<SVGSVGElement>(null);
  const wide = 1 / leaf.year.length;
  const at = (e: React.PointerEvent) => {
    const r = svg.current!.getBoundingClientRect();
    return Math.round(clamp((e.clientX - r.left) / r.width, 0, 1) * (LAST - 1)) + 1;
  };
  const drag = useDrag({
    start: (e) => hold(at(e), false),
    move: (e) => hold(at(e), false),
    end: (e) => hold(at(e), true),
    cancel: () => useStore.getState().setDraft([]),
  });
  const day = dayFromIndex(year, leaf.day - 1);
  return (
    <div className={cls("leaf")}>
      <span className={cls("leaf-kind")}>{leaf.kind}</span>
      <svg
        ref={svg}
        viewBox="0 0 1 0.13"
        width="100%"
        className={cls("sheet grip")}
        tabIndex={0}
        role="slider"
        aria-label={`Day of the ${leaf.kind}`}
        aria-valuemin={1}
        aria-valuemax={LAST}
        aria-valuenow={leaf.day}
        aria-valuetext={`${dayText(day)}, ${leaf.stage}${leaf.held ? ", held" : ""}`}
        style={{ cursor: "ew-resize" }}
        {...drag}
        onKeyDown={(e) => {
          if (e.ctrlKey || e.metaKey || e.altKey) return;
          if (e.key === "Delete" || e.key === "Backspace") {
            e.preventDefault();
            return letGo();
          }
          const by = { ArrowLeft: -1, ArrowRight: 1, PageUp: 30, PageDown: -30 }[e.key];
          if (by === undefined) return;
          e.preventDefault();
          hold(clamp(leaf.day + by * (e.shiftKey ? 10 : 1), 1, LAST), "soon");
        }}
      >
        {leaf.year.map(([colour, share], k) => (
          <rect
            key={k}
            x={k * wide}
            width={wide * 1.05}
            y={0.12 * (1 - Math.max(share as number, 0.06))}
            height={0.12 * Math.max(share as number, 0.06)}
            fill={(share as number) > 0 ? (colour as string) : "#9a9188"}
          />
        ))}
        <path
          d={`M${(leaf.day - 0.5) / LAST} 0V0.13`}
          stroke={leaf.held ? "#556414" : "#1e1e1e"}
          strokeWidth={leaf.held ? 0.012 : 0.006}
        />
      </svg>
      <span className={cls("says")}>
        {leaf.stage}
        {leaf.held && (
          <button className="link" onClick={letGo}>
            let go
          </button>
        )}
      </span>
    </div>
  );
}
