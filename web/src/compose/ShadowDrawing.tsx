import { useRef } from "react";

import type { CutOut, Project, View } from "../api/client";
import type { LiveHeader } from "../api/live";
import { clamp } from "../ui/format";
import { useDrag } from "../ui/useDrag";
import { classesOf } from "../ui/classes";
import { facing, type Point } from "./cutouts";
import styles from "./compose.module.css";

const cls = classesOf(styles);
const [WIDTH, HEIGHT] = [300, 142];
/** Where the ground lies and the figure stands in the section; middle and radius of the plan. */
const [GROUND, FOOT, TALL] = [118, 70, 74];
const [PLAN_X, PLAN_Y, R] = [232, 72, 46];
const STEP_DEG = 15;

interface Props {
  cutout: CutOut;
  view: View;
  project: Project;
  header: LiveHeader | null;
  turn: (deg: number, done: boolean) => void;
}

/** Someone in section under the sun, with the shadow that it casts; and in plan between lens and sun, where they are turned. */
export function ShadowDrawing({ cutout, view, project, header, turn }: Props) {
  const svg = useRef<SVGSVGElement>(null);
  const altitude = header?.altitude_deg ?? null;
  const shines = altitude !== null && altitude > 0 && (header?.sun_lx ?? 0) > 0;
  const height = cutout.height_m ?? 1.7;
  const length = shines ? height / Math.tan((altitude * Math.PI) / 180) : 0;
  const drawn = Math.min((length / height) * TALL, WIDTH / 2 - FOOT + 18);
  const toLens = facing(cutout.place as Point, view.position);
  const own = cutout.turn_deg ?? 0;
  // In the plan the lens lies below: what is drawn is turned so.
  const at = (deg: number, r: number): [number, number] => {
    const a = ((deg - toLens) * Math.PI) / 180;
    return [PLAN_X + r * Math.sin(a), PLAN_Y + r * Math.cos(a)];
  };
  // Azimuths go clockwise from north, turns anticlockwise from the model's -Y.
  const sunTurn = 180 - ((header?.azimuth_deg ?? 0) - (project.site?.north_deg ?? 0));
  const [fx, fy] = at(own, R - 8);
  const [sx, sy] = at(sunTurn, R + 9);
  const sunlit =
    header && header.sun_lx + header.sky_lx > 0 ? header.sun_lx / (header.sun_lx + header.sky_lx) : 0;
  const from = (e: React.PointerEvent) => {
    const box = svg.current!.getBoundingClientRect();
    const x = ((e.clientX - box.left) / box.width) * WIDTH - PLAN_X;
    const y = ((e.clientY - box.top) / box.height) * HEIGHT - PLAN_Y;
    return toLens + (Math.atan2(x, y) * 180) / Math.PI;
  };
  const drag = useDrag({
    move: (e) => turn(from(e), false),
    end: (e) => turn(from(e), true),
    cancel: () => turn(own, true),
  });
  return (
    <svg
      ref={svg}
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      className={cls("drawing")}
      role="group"
      aria-label="Light and shadow"
    >
      <path d={`M6 ${GROUND}H${WIDTH / 2 + 10}`} stroke="var(--ink)" />
      {shines && (
        <>
          <path
            d={`M${FOOT} ${GROUND - TALL}L${FOOT + drawn} ${GROUND}`}
            stroke="var(--ember)"
            strokeDasharray="3 3"
            fill="none"
          />
          <rect
            x={FOOT}
            y={GROUND + 1}
            width={drawn}
            height={5}
            fill="var(--ink)"
            opacity={(cutout.cast ?? 1) * sunlit}
          />
        </>
      )}
      <ellipse cx={FOOT} cy={GROUND + 2} rx={13} ry={3} fill="var(--ink)" opacity={cutout.contact ?? 0.7} />
      <path
        d={`M${FOOT - 6} ${GROUND}L${FOOT - 4} ${GROUND - 36}L${FOOT - 10} ${GROUND - 60}L${FOOT + 10} ${GROUND - 60}L${FOOT + 4} ${GROUND - 36}L${FOOT + 6} ${GROUND}Z`}
        fill="var(--ink-2)"
      />
      <circle cx={FOOT} cy={GROUND - TALL + 7} r={7} fill="var(--ink-2)" />
      <text x={8} y={14}>
        {shines
          ? `sun ${altitude.toFixed(0)}° up, shadow ${length < 100 ? length.toFixed(1) : ">100"} m`
          : "no sun: a soft shadow about the feet"}
      </text>
      <text x={8} y={HEIGHT - 4}>
        {shines ? `sun gives ${Math.round(sunlit * 100)} % of the light on the ground` : ""}
      </text>
      <circle cx={PLAN_X} cy={PLAN_Y} r={R} fill="none" stroke="var(--line)" />
      <path d={`M${PLAN_X} ${PLAN_Y + R + 14}l-6 8h12z`} fill="var(--ink)" />
      <text x={PLAN_X + 10} y={PLAN_Y + R + 22}>
        lens
      </text>
      {shines && (
        <circle
          cx={clamp(sx, 6, WIDTH - 6)}
          cy={clamp(sy, 6, HEIGHT - 6)}
          r={5}
          fill="var(--ember)"
          aria-label="sun"
        />
      )}
      <circle cx={PLAN_X} cy={PLAN_Y} r={9} fill="var(--ink-2)" />
      <g
        role="slider"
        tabIndex={cutout.made ? 0 : -1}
        aria-label="Which way it faces: arrow keys turn it"
        aria-valuemin={-180}
        aria-valuemax={180}
        aria-valuenow={own}
        aria-valuetext={`${own} degrees`}
        aria-disabled={!cutout.made}
        onKeyDown={(e) => {
          const by = { ArrowLeft: STEP_DEG, ArrowUp: STEP_DEG, ArrowRight: -STEP_DEG, ArrowDown: -STEP_DEG }[
            e.key
          ];
          if (!by || !cutout.made) return;
          e.preventDefault();
          e.stopPropagation();
          turn(own + by, true);
        }}
        {...(cutout.made ? drag : {})}
      >
        {cutout.made && (
          <>
            <path d={`M${PLAN_X} ${PLAN_Y}L${fx} ${fy}`} stroke="var(--ink)" strokeWidth={2} />
            <circle cx={fx} cy={fy} r={7} fill="var(--paper)" stroke="var(--ink)" strokeWidth={2} />
          </>
        )}
      </g>
    </svg>
  );
}
