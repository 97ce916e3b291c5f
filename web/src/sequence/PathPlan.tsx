import { useMemo, useRef, useState } from "react";

import {
  api,
  type CourseMoment,
  type CourseReading,
  type MetOnTheWay,
  type Sequence,
  type View,
} from "../api/client";
import { useModels, useServer } from "../state/server";
import type { Done } from "../state/store";
import { useDrag } from "../ui/useDrag";
import { classesOf } from "../ui/classes";
import { boxOf, type Grip, momentAt, moved, round } from "./edits";
import styles from "./sequence.module.css";

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
  const lines = useMemo(() => {
    const s = plan?.segments ?? [];
    const parts: string[] = [];
    for (let k = 0; k < s.length; k += 4) parts.push(`M${s[k]} ${-s[k + 1]}L${s[k + 2]} ${-s[k + 3]}`);
    return parts.join("");
  }, [plan]);
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
      <Wedge moment={now} view={view} reach={unit * 74} width={unit} />
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
      <ScaleBar box={box} unit={unit} />
    </svg>
  );
}

function Wedge({
  moment,
  view,
  reach,
  width,
}: {
  moment: CourseMoment;
  view: View;
  reach: number;
  width: number;
}) {
  const [x, y] = moment.position;
  const a = Math.atan2(moment.target[1] - y, moment.target[0] - x);
  const half = Math.atan((view.film_width_mm ?? 36) / 2 / moment.focal_mm);
  const p = (t: number) => `${x + reach * Math.cos(t)},${-(y + reach * Math.sin(t))}`;
  return (
    <polygon
      points={`${x},${-y} ${p(a - half)} ${p(a + half)}`}
      className={cls("wedge")}
      strokeWidth={width}
    />
  );
}

function ScaleBar({ box, unit }: { box: readonly number[]; unit: number }) {
  const length = [0.5, 1, 2, 5, 10, 20, 50].find((l) => l > box[2] / 7) ?? 100;
  const [x, y] = [box[0] + unit * 10, box[1] + box[3] - unit * 10];
  return (
    <g pointerEvents="none">
      <path
        d={`M${x} ${y - unit * 4}v${unit * 8}M${x} ${y}h${length}M${x + length} ${y - unit * 4}v${unit * 8}`}
        stroke="#1e1e1e"
        strokeWidth={unit * 1.3}
      />
      <text x={x + length + unit * 6} y={y + unit * 4} fontSize={unit * 11} fontFamily="var(--numbers)">
        {length} m
      </text>
    </g>
  );
}
