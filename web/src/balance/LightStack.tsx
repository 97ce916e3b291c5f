import { useRef, useState } from "react";

import type { Done } from "../state/store";
import { clamp } from "../ui/format";
import { useDrag } from "../ui/useDrag";
import { classesOf } from "../ui/classes";
import { bands, LEAST, type Light, MOST, pulledTo } from "./lights";
import styles from "./balance.module.css";

const cls = classesOf(styles);
const [TALL, ROW, COLUMN, LEADER] = [300, 27, 74, 26];

interface Props {
  lights: Light[];
  chosen: string | null;
  choose: (name: string | null) => void;
  /** Set a light's level. */
  set: (name: string, stops: number | null, done: Done) => void;
}

export const stopsText = (stops: number | null) =>
  stops === null ? "off" : `${stops > 0.005 ? "+" : stops < -0.005 ? "−" : ""}${Math.abs(stops).toFixed(1)}`;

/** The light of the picture as one column of amounts: a band is pulled taller for more of that light, lower for less. */
export function LightStack({ lights, chosen, choose, set }: Props) {
  const svg = useRef<SVGSVGElement>(null);
  const held = useRef<{ name: string; y: number; height: number; stops: number } | null>(null);
  // While a band is in hand the others stand still: the column grows or shrinks with it.
  const [pull, setPull] = useState<{ name: string; by: number; was: Light[] } | null>(null);
  const tall = Math.max(TALL, ROW * lights.length);
  const column = bands(pull?.was ?? lights, tall);
  const at = (e: React.PointerEvent) =>
    new DOMPoint(0, e.clientY).matrixTransform(svg.current!.getScreenCTM()!.inverse()).y;
  const drag = useDrag({
    start: (e) => {
      const name = (e.target as Element).closest<SVGElement>("[data-light]")?.dataset.light;
      const band = column.find((b) => b.name === name);
      const light = lights.find((l) => l.name === name);
      if (!name || !band || !light || light.stops === null) return false;
      choose(name);
      held.current = { name, y: at(e), height: band.height, stops: light.stops };
      setPull({ name, by: 0, was: lights });
    },
    move: (e) => {
      const h = held.current!;
      const by = h.y - at(e);
      setPull((was) => was && { ...was, by });
      set(h.name, pulledTo(h.stops, h.height, h.height + by), false);
    },
    end: (e) => {
      const h = held.current!;
      const by = h.y - at(e);
      setPull(null);
      if (Math.abs(by) > 1) set(h.name, pulledTo(h.stops, h.height, h.height + by), true);
    },
    cancel: () => {
      const h = held.current;
      setPull(null);
      if (h) set(h.name, h.stops, false);
    },
  });
  const key = (light: Light) => (e: React.KeyboardEvent) => {
    const by = { ArrowUp: 0.1, ArrowRight: 0.1, ArrowDown: -0.1, ArrowLeft: -0.1, PageUp: 1, PageDown: -1 }[
      e.key
    ];
    if (by === undefined || e.ctrlKey || e.metaKey) return;
    e.preventDefault();
    const from = light.stops ?? LEAST;
    set(light.name, Number(clamp(from + by * (e.shiftKey ? 10 : 1), LEAST, MOST).toFixed(2)), "soon");
  };
  let shift = 0;
  const drawn = column.map((band) => {
    const by = pull?.name === band.name ? Math.max(pull.by, 2 - band.height) : 0;
    shift += by;
    return { ...band, top: band.top - shift, height: band.height + by };
  });
  const rowAt = (k: number) => ((lights.length - 1 - k + 0.5) * tall) / lights.length;
  return (
    <svg
      ref={svg}
      className={cls("stack")}
      viewBox={`0 0 260 ${tall + 2}`}
      width="100%"
      role="group"
      aria-label="Light of this picture by amounts"
      {...drag}
    >
      {lights.map((light, k) => {
        const band = drawn.find((b) => b.name === light.name);
        const y = rowAt(k);
        const on = chosen === light.name;
        return (
          <g key={light.name}>
            {band && (
              <>
                <rect
                  data-light={light.name}
                  className={cls("band")}
                  x={1}
                  y={band.top + 1}
                  width={COLUMN}
                  height={Math.max(band.height - 1, 1)}
                  fill={light.colour}
                  stroke={on ? "#1e1e1e" : "#6a6a6a"}
                  strokeWidth={on ? 2 : 0.7}
                />
                <polyline
                  className={cls("leader")}
                  points={`${COLUMN + 1},${band.top + band.height / 2} ${COLUMN + LEADER - 6},${y} ${COLUMN + LEADER},${y}`}
                />
              </>
            )}
            <g
              className={cls("light-row")}
              data-light={light.name}
              role="slider"
              tabIndex={0}
              aria-label={light.name}
              aria-valuemin={LEAST}
              aria-valuemax={MOST}
              aria-valuenow={light.stops ?? LEAST}
              aria-valuetext={
                light.stops === null
                  ? "off"
                  : `${stopsText(light.stops)} stops, ${Math.round(light.share * 100)} percent of the light`
              }
              onKeyDown={key(light)}
              onFocus={() => choose(light.name)}
              onClick={() => choose(light.name)}
            >
              <rect
                x={COLUMN + LEADER}
                y={y - 12}
                width={260 - COLUMN - LEADER}
                height={24}
                fill="transparent"
              />
              <text x={COLUMN + LEADER + 4} y={y + 4} className={cls(`light-name ${on ? "on" : ""}`)}>
                {light.name.length > 15 ? `${light.name.slice(0, 14)}…` : light.name}
              </text>
              <text x={258} y={y + 4} textAnchor="end" className={cls("light-number")}>
                {stopsText(light.stops)}
              </text>
              <text x={224} y={y + 4} textAnchor="end" className={cls("light-share")}>
                {light.stops === null
                  ? ""
                  : light.share >= 0.005
                    ? `${Math.round(light.share * 100)} %`
                    : "< 1 %"}
              </text>
            </g>
          </g>
        );
      })}
    </svg>
  );
}
