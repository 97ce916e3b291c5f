import { useEffect, useMemo, useRef } from "react";

import type { HourAnswer } from "../api/client";
import { dayFromIndex, dayOfYear, hourOf } from "../ui/format";
import { classesOf } from "../ui/classes";
import styles from "./HeatMap.module.css";

const cls = classesOf(styles);

interface Props {
  answer: HourAnswer;
  when: string;
  choose: (when: string) => void;
}

const MONTH_STARTS = [0, 31, 59, 90, 120, 151, 181, 212, 243, 273, 304, 334];

/** Days across, hours down: the lighter a quarter hour, the better it fits; night is grey. */
export function HeatMap({ answer, when, choose }: Props) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const levels = useMemo(() => Uint8Array.from(atob(answer.levels), (c) => c.charCodeAt(0)), [answer.levels]);
  useEffect(() => {
    const element = canvas.current;
    const paint = element?.getContext("2d");
    if (!element || !paint) return;
    const image = paint.createImageData(answer.days, answer.slots);
    for (let day = 0; day < answer.days; day++)
      for (let slot = 0; slot < answer.slots; slot++) {
        const level = levels[day * answer.slots + slot];
        const k = 4 * (slot * answer.days + day);
        const night = level === 255;
        const t = level / 254;
        // From ink to ember to paper.
        const rgb = night
          ? [148, 148, 148]
          : t < 0.5
            ? [30 + 292 * t, 30 + 100 * t, 30]
            : [176 + 136 * (t - 0.5), 80 + 328 * (t - 0.5), 30 + 428 * (t - 0.5)];
        image.data.set([...rgb, 255], k);
      }
    paint.putImageData(image, 0, 0);
  }, [levels, answer]);
  const day = Math.min(dayOfYear(when.slice(0, 10)), answer.days - 1);
  const hour = hourOf(when);
  const moved = (byDays: number, byHours: number) => {
    const d = (day + byDays + answer.days) % answer.days;
    const h = Math.min(Math.max(hour + byHours, 0), 23.75);
    const minutes = Math.round(h * 60);
    choose(
      `${dayFromIndex(String(answer.year), d)}T${String(Math.floor(minutes / 60)).padStart(2, "0")}:${String(minutes % 60).padStart(2, "0")}:00`,
    );
  };
  return (
    <div className={cls("heat")}>
      <canvas
        ref={canvas}
        width={answer.days}
        height={answer.slots}
        tabIndex={0}
        role="img"
        aria-label="Days of the year across, hours down. Click to take a moment; arrow keys move by a day or a quarter hour."
        onClick={(e) => {
          const box = e.currentTarget.getBoundingClientRect();
          const d = Math.floor(((e.clientX - box.left) / box.width) * answer.days);
          const slot = Math.floor(((e.clientY - box.top) / box.height) * answer.slots);
          moved(d - day, slot / 4 - hour);
        }}
        onKeyDown={(e) => {
          const by = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -0.25], ArrowDown: [0, 0.25] }[
            e.key
          ];
          if (!by) return;
          e.preventDefault();
          moved(by[0], by[1]);
        }}
      />
      <i
        className={cls("spot")}
        style={{ left: `${((day + 0.5) / answer.days) * 100}%`, top: `${(hour / 24) * 100}%` }}
      />
      <div className={cls("months number quiet")} aria-hidden="true">
        {MONTH_STARTS.map((d, k) => (
          <span key={d} style={{ left: `${(d / answer.days) * 100}%` }}>
            {"JFMAMJJASOND"[k]}
          </span>
        ))}
      </div>
      <div className={cls("hours number quiet")} aria-hidden="true">
        {[6, 12, 18].map((h) => (
          <span key={h} style={{ top: `${(h / 24) * 100}%` }}>
            {h}
          </span>
        ))}
      </div>
    </div>
  );
}
