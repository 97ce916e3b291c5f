import { useMemo, useRef, useState } from "react";

import { api, type CourseReading, type MetOnTheWay, type Sequence, type View } from "../api/client";
import { useModels, useServer } from "../state/server";
import type { Done } from "../state/store";
import { useDrag } from "../ui/useDrag";
import { classesOf } from "../ui/classes";
import { boxOf, type Grip, momentAt, moved, round } from "./edits";
import styles from "./sequence.module.css";
import { LensMark, pathOfSegments, ScaleBar } from "../plan/marks";

const cls = classesOf(styles);
interface Props {
  slug: string;
  view: View;
  sequence: Sequence;
  course: CourseReading;
  second: number;
  met: MetOnTheWay[];
  station: number | null;
  choose: (station: number | null) => void;
  change: (label: string, patch: Partial<Sequence>, done: Done) => void;
}

/** The path of the lens in plan, at its own height: stations and what they look at, taken hold of where they are drawn. */
export function PathPlan({ slug, view, sequence, course, second, met, station, choose, change }: Props) {
  const models = useModels();
  const stations = useMemo(() => sequence.stations ?? [], [sequence.stations]);
  const now = momentAt(course.moments, second)!;
  const height = Number((stations[0]?.position[2] ?? view.position[2]).toFixed(2));
  const plan = useServer(["plan", slug, models, height], () => api.plan(slug, height), { afterMs: 150 });
  const svg = useRef<SVGSVGElement>(null);
  const [still, setStill] = useState<[number, number, number, number] | null>(null);
  const box = still ?? boxOf([...course.moments.map((m) => m.position), ...stations.map((s) => s.position)]);
  const unit = box[2] / 330;
  const lines = useMemo(() => pathOfSegments(plan?.segments ?? []), [plan]);
  const held = useRef<Grip | null>(null);
  const gone = useRef(false);
  const place = (e: React.PointerEvent): [number, number] => {
    const at = svg.current!.createSVGPoint();
    [at.x, at.y] = [e.clientX, e.clientY];
    const p = at.matrixTransform(svg.current!.getScreenCTM()!.inverse());
    return [round(p.x), round(-p.y)];
  };
  const put = ([k, what]: Grip, [x, y]: [number, number], done: Done) =>
    change(
      what === "position" ? "Move a station" : "Turn a station",
      { stations: moved(stations, [k, what], [x, y]) },
      done,
    );
  const drag = useDrag({
    start: (e) => {
      const grip = (e.target as Element).closest("[data-grip]")?.getAttribute("data-grip")?.split(" ");
      if (!grip) return false;
      held.current = [Number(grip[0]), grip[1] as Grip[1]];
      choose(held.current[0]);
      setStill(box);
      gone.current = false;
    },
    move: (e) => {
      gone.current = true;
      if (held.current) put(held.current, place(e), false);
    },
    end: (e) => {
      // A press that goes nowhere chooses the station, and moves nothing.
      if (held.current && gone.current) put(held.current, place(e), true);
      held.current = null;
      setStill(null);
    },
    cancel: () => {
      if (gone.current) change("Move a station", { stations }, false);
      held.current = null;
      setStill(null);
    },
  });
  const key = (grip: Grip) => (e: React.KeyboardEvent) => {
    const by = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[e.key];
    if (!by) return;
    e.preventDefault();
    const far = e.shiftKey ? 0.5 : 0.05;
    const [x, y] = stations[grip[0]][grip[1]];
    put(grip, [round(x + by[0] * far), round(y + by[1] * far)], "soon");
  };
  return (
    <svg
      ref={svg}
      className={cls("plan")}
      viewBox={box.join(" ")}
      aria-label="Path in plan"
      role="group"
      {...drag}
    >
      <path d={lines} className={cls("walls")} strokeWidth={unit * 1.3} />
      <LensMark
        position={now.position}
        target={now.target}
        focalMm={now.focal_mm}
        filmMm={view.film_width_mm ?? 36}
        reach={unit * 74}
        unit={unit}
      />
      <path
        d={course.moments.map((m, k) => `${k ? "L" : "M"}${m.position[0]} ${-m.position[1]}`).join("")}
        className={cls("path")}
        strokeWidth={unit * 2.2}
      />
      {stations.map((s, k) => (
        <g key={k} className={cls(station === k ? "station taken" : "station")}>
          {station === k && (
            <>
              <line
                x1={s.position[0]}
                y1={-s.position[1]}
                x2={s.target[0]}
                y2={-s.target[1]}
                strokeWidth={unit}
                strokeDasharray={`${unit * 3}`}
                className={cls("sight")}
              />
              <circle
                data-grip={`${k} target`}
                cx={s.target[0]}
                cy={-s.target[1]}
                r={unit * 6}
                strokeWidth={unit * 1.6}
                className={cls("aim")}
                tabIndex={0}
                role="button"
                aria-label={`Turn station ${k + 1}`}
                onKeyDown={key([k, "target"])}
              />
            </>
          )}
          <circle
            data-grip={`${k} position`}
            cx={s.position[0]}
            cy={-s.position[1]}
            r={unit * 7.5}
            strokeWidth={unit * 1.6}
            className={cls("spot")}
            tabIndex={0}
            role="button"
            aria-label={`Station ${k + 1}`}
            aria-pressed={station === k}
            onFocus={() => choose(k)}
            onKeyDown={key([k, "position"])}
          />
          <text
            x={s.position[0]}
            y={-s.position[1] + unit * 3.6}
            fontSize={unit * 10}
            textAnchor="middle"
            className={cls("number-in")}
          >
            {k + 1}
          </text>
        </g>
      ))}
      {met.map((m, k) => {
        const p = momentAt(course.moments, m.second)!.position;
        const r = unit * 6;
        return (
          <path
            key={k}
            d={`M${p[0] - r} ${-p[1] - r}l${2 * r} ${2 * r}m0 ${-2 * r}l${-2 * r} ${2 * r}`}
            strokeWidth={unit * 2.4}
            className={cls("met")}
          >
            <title>{m.object}</title>
          </path>
        );
      })}
      <ScaleBar wide={box[2]} at={[box[0] + unit * 10, box[1] + box[3] - unit * 10]} unit={unit} />
    </svg>
  );
}
