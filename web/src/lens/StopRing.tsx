import { useRef, useState } from "react";

import type { LensRing } from "../api/client";
import type { Done } from "../state/store";
import { clamp } from "../ui/format";
import { useDrag } from "../ui/useDrag";
import { classesOf } from "../ui/classes";
import styles from "./lens.module.css";

const cls = classesOf(styles);
/** Settings seen to each side, and the way in pixels from one to the next. */
const [SIDES, CLICK_PX] = [2, 42];

interface Props {
  label: string;
  ring: LensRing;
  /** Number of the setting nearest to the value, and how the value is written. */
  click: number;
  written: string;
  parse: (text: string) => number | null;
  least: number;
  most: number;
  set: (value: number, done: Done) => void;
}

/** A ring that clicks in third stops: dragged, stepped by keys, or typed. */
export function StopRing({ label, ring, click, written, parse, least, most, set }: Props) {
  const [text, setText] = useState<string | null>(null);
  const from = useRef<[number, number]>([0, 0]);
  const field = useRef<HTMLInputElement>(null);
  const last = ring.clicks.length - 1;
  const at = (index: number) => ring.clicks[clamp(index, 0, last)].value;
  const dragged = (e: React.PointerEvent) =>
    at(from.current[1] - Math.round((e.clientX - from.current[0]) / CLICK_PX));
  const drag = useDrag({
    start: (e) => {
      from.current = [e.clientX, click];
    },
    move: (e) => {
      if (at(click) !== dragged(e)) set(dragged(e), false);
    },
    end: (e) => {
      const way = e.clientX - from.current[0];
      // A press beside the middle takes what stands there.
      const box = e.currentTarget.getBoundingClientRect();
      const beside = Math.round((e.clientX - box.left - box.width / 2) / CLICK_PX);
      if (Math.abs(way) >= 4) set(dragged(e), true);
      else if (beside !== 0) set(at(from.current[1] + beside), true);
      else field.current?.focus();
    },
    cancel: () => set(at(from.current[1]), false),
  });
  const read = text === null ? null : parse(text);
  const wrong = text !== null && (read === null || read < least || read > most);
  const accept = () => {
    if (text !== null && !wrong && read !== null && text !== written) set(read, true);
    setText(null);
  };
  return (
    <div className={cls("ring")}>
      <span className={cls("ring-name")}>{label}</span>
      <div className={cls("ring-face")} {...drag}>
        {Array.from({ length: 2 * SIDES + 1 }, (_, k) => k - SIDES).map((by) =>
          by === 0 ? (
            <input
              key="now"
              ref={field}
              type="text"
              autoComplete="off"
              role="spinbutton"
              aria-label={label}
              aria-valuetext={written}
              aria-valuenow={click}
              aria-valuemin={0}
              aria-valuemax={last}
              aria-invalid={wrong}
              className={cls(wrong ? "wrong" : "")}
              value={text ?? written}
              onFocus={(e) => e.target.select()}
              onChange={(e) => setText(e.target.value)}
              onBlur={accept}
              onKeyDown={(e) => {
                const by = { ArrowUp: 1, ArrowDown: -1, PageUp: 3, PageDown: -3 }[e.key];
                if (e.key === "Enter") accept();
                else if (e.key === "Escape" && text !== null) {
                  e.stopPropagation();
                  setText(null);
                } else if (by) {
                  e.preventDefault();
                  setText(null);
                  set(at(click + by), "soon");
                }
              }}
            />
          ) : (
            <span key={by} className={cls("click number")} aria-hidden>
              {click + by >= 0 && click + by <= last
                ? ring.clicks[click + by].label.replace(/^ISO |^f\/| s$/g, "")
                : ""}
            </span>
          ),
        )}
      </div>
    </div>
  );
}
