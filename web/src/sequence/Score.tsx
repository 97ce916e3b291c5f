import { useRef } from "react";

import { api, type CourseReading, type Run, type Sequence } from "../api/client";
import type { Done } from "../state/store";
import { useDrag } from "../ui/useDrag";
import { classesOf } from "../ui/classes";
import { frameAt, secondOf } from "./times";
import styles from "./sequence.module.css";

const cls = classesOf(styles);
/** The drawing's own width; heights of its rows. */
const WIDE = 1000;
const ROW = 40;
const SCALE = 18;
const THUMBS = 14;

interface Props {
  sequence: Sequence;
  course: CourseReading;
  second: number;
  go: (second: number, dragging: boolean) => void;
  /** The run whose frames lie in the strip. */
  run: Run | null;
  /** Look at a frame of it. */
  open: (number: number) => void;
  /** First and last of the frames chosen, as numbers. */
  chosen: readonly [number, number] | null;
  choose: (chosen: readonly [number, number] | null) => void;
  change: (label: string, patch: Partial<Sequence>, done: Done) => void;
}

/** What a sequence does over its seconds: frames made, the speed of the lens with its stations, the height of the sun, the lamps. */
export function Score(props: Props) {
  const { sequence, course, second, go, run, open, chosen, choose } = props;
  const box = useRef<SVGSVGElement>(null);
  const seconds = sequence.seconds ?? 6;
  const frames = course.frames;
  const rows = [
    ...(course.moves ? ["lens"] : []),
    ...(sequence.hours || sequence.days ? ["sun"] : []),
    ...((sequence.cues ?? []).length > 0 ? ["lamps"] : []),
  ];
  const height = SCALE + Math.max(rows.length, 1) * ROW;
  const x = (t: number) => (t / seconds) * WIDE;
  const at = (e: React.PointerEvent) => {
    const r = box.current!.getBoundingClientRect();
    return Math.min(Math.max(((e.clientX - r.left) / r.width) * seconds, 0), seconds);
  };
  const handle = useRef(second);
  const drag = useDrag({
    start: (e) => {
      handle.current = second;
      go(at(e), true);
    },
    move: (e) => go(at(e), true),
    end: (e) => go(at(e), false),
    cancel: () => go(handle.current, false),
  });
  const step = seconds / Math.max(frames - 1, 1);
  const onKey = (e: React.KeyboardEvent) => {
    const by = { ArrowRight: step, ArrowLeft: -step, PageUp: 1, PageDown: -1 }[e.key];
    const to = e.key === "Home" ? 0 : e.key === "End" ? seconds : by === undefined ? null : second + by;
    if (to === null) return;
    e.preventDefault();
    go(Math.min(Math.max(to, 0), seconds), false);
  };
  return (
    <section className={cls("score")} aria-label="Course">
      <Strip {...{ sequence, frames, run, second, go, open, chosen, choose }} />
      <svg ref={box} viewBox={`0 0 ${WIDE} ${height}`} className={cls("rows")} {...drag}>
        <Scale seconds={seconds} x={x} height={height} />
        {rows.map((row, k) => (
          <g key={row} transform={`translate(0 ${SCALE + k * ROW})`}>
            <line x1={0} x2={WIDE} y1={ROW - 0.5} y2={ROW - 0.5} className={cls("line")} />
            {row === "lens" && <LensRow course={course} sequence={sequence} x={x} />}
            {row === "sun" && <SunRow course={course} x={x} />}
            {row === "lamps" && <LampsRow x={x} {...props} />}
          </g>
        ))}
        <g transform={`translate(${x(second)} 0)`}>
          <line y1={0} y2={height} className={cls("head")} />
          <path d={`M-6 0H6L0 9Z`} className={cls("head-mark")} />
        </g>
      </svg>
      <div
        className={cls("head-key")}
        role="slider"
        tabIndex={0}
        aria-label="Moment"
        aria-valuemin={0}
        aria-valuemax={seconds}
        aria-valuenow={Number(second.toFixed(3))}
        aria-valuetext={`${second.toFixed(2)} s of ${seconds} s`}
        style={{ left: `${(second / seconds) * 100}%` }}
        onKeyDown={onKey}
      />
    </section>
  );
}

function Scale({ seconds, x, height }: { seconds: number; x: (t: number) => number; height: number }) {
  const every = [0.5, 1, 2, 5, 10, 30, 60, 120].find((s) => seconds / s <= 14) ?? 120;
  const ticks = Array.from({ length: Math.floor(seconds / every) + 1 }, (_, k) => k * every);
  return (
    <>
      {ticks.map((t) => (
        <g key={t}>
          <line x1={x(t)} x2={x(t)} y1={SCALE - 5} y2={height} className={cls("tick")} />
          <text x={Math.min(x(t) + 4, WIDE - 26)} y={SCALE - 6} className={cls("word")}>
            {t} s
          </text>
        </g>
      ))}
    </>
  );
}

function LensRow({
  course,
  sequence,
  x,
}: {
  course: CourseReading;
  sequence: Sequence;
  x: (t: number) => number;
}) {
  const most = Math.max(...course.moments.map((m) => m.speed_m_s), 1e-6);
  const y = (v: number) => ROW - 3 - (v / most) * (ROW - 14);
  const path = course.moments.map((m) => `L${x(m.second)} ${y(m.speed_m_s)}`).join("");
  return (
    <>
      <path d={`M0 ${ROW - 3}${path}L${WIDE} ${ROW - 3}Z`} className={cls("speed")} />
      <text x={6} y={11} className={cls("word")}>
        lens, at most {most.toFixed(2)} m/s
      </text>
      {(sequence.stations ?? []).map((station, k) => (
        <g key={k}>
          {(station.rest_s ?? 0) > 0 && (
            <line
              x1={x(course.arrives[k])}
              x2={x(course.arrives[k] + (station.rest_s ?? 0))}
              y1={ROW - 6}
              y2={ROW - 6}
              className={cls("rest")}
            />
          )}
          <circle
            cx={Math.min(Math.max(x(course.arrives[k] ?? 0), 6), WIDE - 6)}
            cy={ROW - 6}
            r={5.5}
            className={cls("stop")}
          />
        </g>
      ))}
    </>
  );
}

function SunRow({ course, x }: { course: CourseReading; x: (t: number) => number }) {
  const high = Math.max(...course.moments.map((m) => m.altitude_deg), 10);
  const low = Math.min(...course.moments.map((m) => m.altitude_deg), -2);
  const y = (a: number) => 4 + ((high - a) / (high - low)) * (ROW - 8);
  const line = course.moments.map((m) => `L${x(m.second)} ${y(m.altitude_deg)}`).join("");
  const ends = [course.moments[0], course.moments[course.moments.length - 1]];
  const text = (when: string) =>
    ends[0].when.slice(0, 10) === ends[1].when.slice(0, 10) ? when.slice(11, 16) : when.slice(0, 10);
  return (
    <>
      <rect x={0} y={y(0)} width={WIDE} height={Math.max(ROW - 1 - y(0), 0)} className={cls("below")} />
      <path d={`M0 ${y(0)}${line}L${WIDE} ${y(0)}Z`} className={cls("sun")} />
      <path d={`M${x(0)} ${y(ends[0].altitude_deg)}${line}`} className={cls("sun-line")} />
      <text x={6} y={11} className={cls("word")}>
        sun, {text(ends[0].when)}
      </text>
      <text x={WIDE - 6} y={11} textAnchor="end" className={cls("word")}>
        {text(ends[1].when)}, at most {high.toFixed(0)}°
      </text>
    </>
  );
}

function LampsRow({ course, x, sequence, change }: { x: (t: number) => number } & Props) {
  const groups = Object.keys(course.moments[0].levels).filter((g) =>
    course.moments.some((m) => m.levels[g] > 0),
  );
  const most = Math.max(...course.moments.flatMap((m) => groups.map((g) => m.levels[g])), 100);
  const y = (v: number) => ROW - 4 - (v / most) * (ROW - 10);
  const cues = sequence.cues ?? [];
  const held = useRef(0);
  const seconds = sequence.seconds ?? 6;
  const moved = (k: number, to: number) =>
    cues.map((cue, n) => (n === k ? { ...cue, at: Math.min(Math.max(Number(to.toFixed(4)), 0), 1) } : cue));
  const acts = (k: number) => ({
    tabIndex: 0,
    role: "slider",
    "aria-label": `When the scene ${cues[k].scene} is reached`,
    "aria-valuenow": Number((cues[k].at * seconds).toFixed(2)),
    "aria-valuetext": `${(cues[k].at * seconds).toFixed(2)} s`,
    onPointerDown: (e: React.PointerEvent) => {
      e.stopPropagation();
      e.currentTarget.setPointerCapture(e.pointerId);
      held.current = k + 1;
    },
    onPointerMove: (e: React.PointerEvent<SVGElement>) => {
      if (held.current !== k + 1) return;
      e.stopPropagation();
      change("Move a scene of light", { cues: moved(k, share(e)) }, false);
    },
    onPointerUp: (e: React.PointerEvent<SVGElement>) => {
      if (held.current !== k + 1) return;
      e.stopPropagation();
      held.current = 0;
      change("Move a scene of light", { cues: moved(k, share(e)) }, true);
    },
    onKeyDown: (e: React.KeyboardEvent) => {
      const by = { ArrowLeft: -0.01, ArrowRight: 0.01 }[e.key];
      if (by === undefined) return;
      e.preventDefault();
      change("Move a scene of light", { cues: moved(k, cues[k].at + by) }, "soon");
    },
  });
  return (
    <>
      {groups.map((g) => (
        <path
          key={g}
          d={course.moments.map((m, k) => `${k ? "L" : "M"}${x(m.second)} ${y(m.levels[g])}`).join("")}
          className={cls("level")}
        >
          <title>{g}</title>
        </path>
      ))}
      <text x={6} y={11} className={cls("word")}>
        lamps
      </text>
      {cues.map((cue, k) => (
        <g
          key={k}
          transform={`translate(${Math.min(Math.max(cue.at * WIDE, 8), WIDE - 8)} ${ROW - 10})`}
          className={cls("cue")}
          {...acts(k)}
        >
          <rect x={-5} y={-5} width={10} height={10} transform="rotate(45)" />
          <text
            x={cue.at > 0.7 ? -10 : 10}
            y={4}
            textAnchor={cue.at > 0.7 ? "end" : "start"}
            className={cls("word")}
          >
            {cue.scene}
          </text>
        </g>
      ))}
    </>
  );
}

const share = (e: React.PointerEvent<SVGElement>) => {
  const r = e.currentTarget.ownerSVGElement!.getBoundingClientRect();
  return (e.clientX - r.left) / r.width;
};

interface StripProps extends Pick<
  Props,
  "sequence" | "run" | "second" | "go" | "open" | "chosen" | "choose"
> {
  frames: number;
}

/** Frames of the run laid in time: pictures where they are made, holes where not. Shift extends what is chosen. */
function Strip({ sequence, frames, run, second, go, open, chosen, choose }: StripProps) {
  const seconds = sequence.seconds ?? 6;
  const last = run ? run.numbers[run.numbers.length - 1] : frames - 1;
  const shares = Array.from({ length: THUMBS }, (_, k) => (k + 0.5) / THUMBS);
  return (
    <div className={cls("strip")} role="group" aria-label="Frames">
      {shares.map((s, k) => {
        const place = run ? frameAt(run, s) : -1;
        const number = place >= 0 ? run!.made[place] : -1;
        const near = number >= 0 && Math.abs(number / (last || 1) - s) <= 0.5 / THUMBS + 1e-9;
        const within = chosen && number >= chosen[0] && number <= chosen[1];
        const to = number >= 0 && near ? secondOf(seconds, frames, number) : s * seconds;
        return (
          <button
            key={k}
            className={cls(`frame ${within ? "chosen" : ""}`)}
            aria-label={near ? `Frame ${number}` : `${to.toFixed(1)} s, not made yet`}
            onClick={(e) => {
              if (!near) {
                go(to, false);
                return choose(null);
              }
              open(number);
              const from = Math.round((second / seconds) * last);
              choose(
                e.shiftKey
                  ? [Math.min(chosen?.[0] ?? from, number), Math.max(chosen?.[1] ?? from, number)]
                  : null,
              );
            }}
          >
            {near && run && <img src={api.frame(run, number, "strip.jpg")} alt="" loading="lazy" />}
          </button>
        );
      })}
    </div>
  );
}
