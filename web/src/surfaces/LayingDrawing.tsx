import { useId, useRef } from "react";

import type { Courses, Laying } from "../api/client";
import type { Done } from "../state/store";
import { classesOf } from "../ui/classes";
import { useDrag } from "../ui/useDrag";
import { type Corner, unitsIn } from "./courses";
import { toHex } from "./colours";
import styles from "./surfaces.module.css";

const cls = classesOf(styles);
const [WIDE, HIGH] = [248, 150];

interface Props {
  laying: Laying;
  courses: Courses | null;
  /** Picture that lies on the surface, its height over its width. */
  picture: string | null;
  shape: number;
  base: readonly number[];
  lay: (laying: Partial<Laying>, what: string, done: Done) => void;
  build: (courses: Partial<Courses>, what: string, done: Done) => void;
}

const neat = (v: number) => Number(v.toPrecision(3));
const whole = (v: number) => Math.round(v * 1000) / 1000;

/** The layout as it lies on a wall, in metres: drag it about, pull a tile or a unit larger, turn it by its arm. */
export function LayingDrawing({ laying, courses, picture, shape, base, lay, build }: Props) {
  const svg = useRef<SVGSVGElement>(null);
  const before = useRef<{ at: Corner; shift: Corner; span: number; nth: Corner } | null>(null);
  const id = useId();
  const [tile, tall] = [laying.tile_m ?? 1, laying.tile_height_m ?? (laying.tile_m ?? 1) * shape];
  const [long, high] = [courses?.length_m ?? 0.215, courses?.height_m ?? 0.065];
  const turn = ((laying.turn_deg ?? 0) * Math.PI) / 180;
  const shift: Corner = laying.shift_m ?? [0, 0];
  const [w, h] = courses ? [long, high] : [tile, tall];
  // While something is dragged, the drawing keeps its scale.
  const span = before.current?.span ?? Math.max((2.25 * Math.hypot(w, h) * WIDE) / HIGH, 0.02);
  const rise = (span * HIGH) / WIDE;
  /** Which of the tiles, or units, has its corner by the middle: that is pulled, and all grow about the layout's own zero. */
  const nth = [w, h].map((size, k) => Math.floor(shift[k] / size) + 1 || 1) as Corner;
  const [c, n] = [Math.cos(turn), -Math.sin(turn)];
  /** From the layout to the wall, whose zero lies in the middle of the drawing. */
  const zero: Corner = [span * 0.5, rise * 0.5];
  const onWall = ([a, b]: Corner): Corner => {
    const [x, y] = [a - shift[0], b - shift[1]];
    return [zero[0] + c * x + n * y, rise - (zero[1] - n * x + c * y)];
  };
  const fromWall = ([x, y]: Corner): Corner => {
    const [s, p] = [x - zero[0], rise - y - zero[1]];
    return [c * s - n * p + shift[0], n * s + c * p + shift[1]];
  };
  const place = (e: React.PointerEvent): Corner => {
    const box = svg.current!.getBoundingClientRect();
    return [((e.clientX - box.left) / box.width) * span, ((e.clientY - box.top) / box.height) * rise];
  };
  const begin = (e: React.PointerEvent) => {
    before.current = { at: place(e), shift, span, nth };
  };
  const over = () => {
    before.current = null;
  };
  const shifted = (e: React.PointerEvent, done: boolean) => {
    const was = before.current;
    if (!was) return;
    const [x, y] = place(e);
    const [dx, dy] = [x - was.at[0], -(y - was.at[1])];
    lay(
      { shift_m: [whole(was.shift[0] - c * dx + n * dy), whole(was.shift[1] - n * dx - c * dy)] },
      "Shift",
      done,
    );
  };
  const ground = useDrag({
    start: begin,
    move: (e) => shifted(e, false),
    end: (e) => {
      const was = before.current;
      const still = was && Math.hypot(place(e)[0] - was.at[0], place(e)[1] - was.at[1]) < span / 120;
      if (!still) shifted(e, true);
      over();
    },
    cancel: over,
  });
  const pulled = (e: React.PointerEvent, done: boolean) => {
    const far = fromWall(place(e));
    const [a, b] = far.map((v, k) => v / before.current!.nth[k]);
    if (courses)
      build(
        { length_m: neat(Math.max(Math.abs(a), 0.005)), height_m: neat(Math.max(Math.abs(b), 0.005)) },
        "Size",
        done,
      );
    else lay({ tile_m: neat(Math.max(Math.abs(a), 0.005)) }, "Tile", done);
  };
  const corner = useDrag({
    start: (e) => {
      e.stopPropagation();
      begin(e);
    },
    move: (e) => pulled(e, false),
    end: (e) => {
      pulled(e, true);
      over();
    },
    cancel: over,
  });
  const turned = (e: React.PointerEvent, done: boolean) => {
    const [x, y] = place(e);
    const [s, p] = [x - zero[0], rise - y - zero[1]];
    const wanted = (Math.atan2(p, s) * 180) / Math.PI;
    lay({ turn_deg: e.shiftKey ? Math.round(wanted) : Math.round(wanted / 5) * 5 }, "Turn", done);
  };
  const arm = useDrag({
    start: (e) => {
      e.stopPropagation();
      begin(e);
    },
    move: (e) => turned(e, false),
    end: (e) => {
      turned(e, true);
      over();
    },
    cancel: over,
  });
  const ends = (
    [
      [0, 0],
      [span, 0],
      [span, rise],
      [0, rise],
    ] as Corner[]
  ).map(fromWall);
  const low: Corner = [Math.min(...ends.map((p) => p[0])), Math.min(...ends.map((p) => p[1]))];
  const most: Corner = [Math.max(...ends.map((p) => p[0])), Math.max(...ends.map((p) => p[1]))];
  const units = courses ? unitsIn(courses, low, most) : [];
  const path = (corners: Corner[]) => corners.map((p) => onWall(p).join(",")).join(" ");
  const grip = span / 40;
  const handle = onWall([w * nth[0], h * nth[1]]);
  const pivot: Corner = [zero[0], rise - zero[1]];
  const armEnd: Corner = [zero[0] + c * span * 0.24, rise - (zero[1] - n * span * 0.24)];
  const first = onWall([0, tall]);
  return (
    <svg
      ref={svg}
      className={cls("laying")}
      viewBox={`0 0 ${span} ${rise}`}
      role="group"
      aria-label={`Layout on the surface, ${neat(span)} m across`}
      // A selection, or a picture, would be dragged by the browser itself.
      onMouseDown={(e) => e.preventDefault()}
      onDragStart={(e) => e.preventDefault()}
      {...ground}
    >
      {picture && (
        <defs>
          <pattern
            id={id}
            patternUnits="userSpaceOnUse"
            width={tile}
            height={tall}
            patternTransform={`matrix(${c} ${n} ${-n} ${c} ${first[0]} ${first[1]})`}
          >
            <image href={picture} width={tile} height={tall} preserveAspectRatio="none" />
          </pattern>
        </defs>
      )}
      <rect
        width={span}
        height={rise}
        fill={courses ? toHex(courses.joint_colour ?? [0.5, 0.5, 0.5]) : toHex(base)}
      />
      {picture && !courses && <rect width={span} height={rise} fill={`url(#${id})`} />}
      {units.map((u, k) => (
        <polygon
          key={k}
          points={path(u.corners)}
          fill={toHex(base.map((v) => v * (1 + (courses?.shade ?? 0) * (2 * u.shade - 1))))}
        />
      ))}
      {!courses && (
        <polygon
          points={path([
            [0, 0],
            [tile, 0],
            [tile, tall],
            [0, tall],
          ])}
          className={cls("tile")}
        />
      )}
      <line x1={pivot[0]} y1={pivot[1]} x2={armEnd[0]} y2={armEnd[1]} className={cls("arm")} />
      <circle cx={pivot[0]} cy={pivot[1]} r={grip * 0.4} className={cls("pivot")} />
      <circle cx={armEnd[0]} cy={armEnd[1]} r={grip} className={cls("grip")} data-testid="turn-grip" {...arm}>
        <title>Drag to turn; with Shift by single degrees</title>
      </circle>
      <rect
        x={handle[0] - grip}
        y={handle[1] - grip}
        width={2 * grip}
        height={2 * grip}
        className={cls("grip")}
        data-testid="size-grip"
        {...corner}
      >
        <title>{courses ? "Drag to make the units larger" : "Drag to make the tile larger"}</title>
      </rect>
    </svg>
  );
}
