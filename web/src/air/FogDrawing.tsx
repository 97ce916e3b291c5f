import { useMemo, useRef } from "react";

import { api, type Air, type View } from "../api/client";
import { ahead, inPlan, onStage, reachOf, type Spot } from "../lens/drawing";
import { useModels, useServer } from "../state/server";
import { type Done, useStore } from "../state/store";
import { classesOf } from "../ui/classes";
import { clamp } from "../ui/format";
import { useDrag } from "../ui/useDrag";
import styles from "./air.module.css";
import { boxMoved, densityAt, fallThrough, highOf, lowOf, type Point, sideMoved } from "./fog";
import { pathOfSegments } from "../plan/marks";

const cls = classesOf(styles);
const [PLAN, SECTION] = [0.5, 0.42];
/** Width of the density curve over that of the section. */
const CURVE = 0.22;

interface Props {
  slug: string;
  view: View;
  air: Air;
  /** A region alone, without a density. */
  plain?: boolean;
  set: (label: string, patch: Partial<Air>, done: Done) => void;
}

type Grip = "west" | "east" | "south" | "north" | "all" | "floor" | "roof" | "base" | "fall";

/** The fog on the plan and in the section along the lens's axis: its box is taken by sides or as a whole, its density by height bent on the curve. */
export function FogDrawing({ slug, view, air, plain = false, set }: Props) {
  const what = plain ? "Region" : "Fog";
  const models = useModels();
  const reach = reachOf(view) * 1.3;
  const z = view.position[2];
  const plan = useServer(
    ["plan", slug, models, Number(z.toFixed(2))],
    () => api.plan(slug, Number(z.toFixed(2))),
    {
      afterMs: 150,
    },
  );
  const section = useServer(
    ["lens-section", slug, models, view.key, JSON.stringify([view.position, view.target]), reach],
    () => api.lensSection(slug, view.key, reach),
    { afterMs: 100 },
  );
  const [dx, dy] = ahead(view);
  const planLines = useMemo(() => pathOfSegments(plan?.segments ?? []), [plan]);
  const sectionLines = useMemo(() => pathOfSegments(section?.segments ?? []), [section]);
  const boxed = air.extent === "box";
  const [low, high] = [lowOf(air), highOf(air)];
  const base = air.base_height_m ?? 0;
  // The plan lies with north up about the middle of what is seen.
  const [mx, my] = onStage(view, [reach * 0.42, 0]);
  const width = reach * 1.2;
  const planBox = [mx - width / 2, -my - (width * PLAN) / 2, width, width * PLAN];
  const back = reach * 0.12;
  const tall = width * SECTION;
  const floor = z - tall * 0.45;
  const sectionBox = [-back, -(floor + tall), width, tall];
  // Where the box is cut by the section.
  const corners = [low[0], high[0]].flatMap((x) => [low[1], high[1]].map((y) => inPlan(view, [x, y])[0]));
  const [near, far] = [Math.min(...corners), Math.max(...corners)];
  const curveX = (density: number) => -back + width * (1 - CURVE + CURVE * 0.92 * density);
  const curve = Array.from({ length: 60 }, (_, k) => {
    const h = floor + (tall * k) / 59;
    return `${k ? "L" : "M"}${curveX(densityAt(air, h)).toFixed(3)} ${(-h).toFixed(3)}`;
  }).join("");
  const shown = air.on ? 0.28 : 0.1;
  return (
    <>
      <Sheet
        name={`${what} in plan`}
        box={planBox}
        air={air}
        set={set}
        grips={
          boxed
            ? {
                all: [(low[0] + high[0]) / 2, (low[1] + high[1]) / 2],
                west: [low[0], (low[1] + high[1]) / 2],
                east: [high[0], (low[1] + high[1]) / 2],
                south: [(low[0] + high[0]) / 2, low[1]],
                north: [(low[0] + high[0]) / 2, high[1]],
              }
            : {}
        }
      >
        <rect
          x={boxed ? low[0] : planBox[0]}
          y={boxed ? -high[1] : planBox[1]}
          width={boxed ? high[0] - low[0] : width}
          height={boxed ? high[1] - low[1] : width * PLAN}
          fill="#35627f"
          fillOpacity={shown}
        />
        <path d={planLines} stroke="#6a6a6a" strokeWidth={width / 380} fill="none" />
        <path
          d={`M${view.position[0]} ${-view.position[1]}l${dx * reach * 0.16} ${-dy * reach * 0.16}`}
          stroke="#1e1e1e"
          strokeWidth={width / 220}
        />
        <circle cx={view.position[0]} cy={-view.position[1]} r={width / 90} fill="#1e1e1e" />
      </Sheet>
      <Sheet
        name={`${what} in section`}
        box={sectionBox}
        air={air}
        set={set}
        grips={{
          ...(boxed ? { floor: [(near + far) / 2, low[2]], roof: [(near + far) / 2, high[2]] } : {}),
          ...(plain
            ? {}
            : {
                base: [curveX(1), base],
                fall: air.fall_m ? [curveX(Math.exp(-1)), base + air.fall_m] : [curveX(1), base + tall * 0.3],
              }),
        }}
        density={(a) => (a - curveX(0)) / (curveX(1) - curveX(0))}
      >
        <defs>
          <linearGradient
            id="fog-fall"
            x1="0"
            x2="0"
            y1={-(floor + tall)}
            y2={-floor}
            gradientUnits="userSpaceOnUse"
          >
            {Array.from({ length: 13 }, (_, k) => (
              <stop
                key={k}
                offset={k / 12}
                stopColor="#35627f"
                stopOpacity={shown * 1.6 * densityAt(air, floor + tall * (1 - k / 12))}
              />
            ))}
          </linearGradient>
        </defs>
        <rect
          x={boxed ? near : -back}
          y={sectionBox[1]}
          width={boxed ? far - near : width}
          height={tall}
          fill="url(#fog-fall)"
        />
        <path d={sectionLines} stroke="#6a6a6a" strokeWidth={width / 380} fill="none" />
        <circle cx={0} cy={-z} r={width / 90} fill="#1e1e1e" />
        {!plain && (
          <>
            <path d={curve} stroke="#1e1e1e" strokeWidth={width / 260} fill="none" />
            <line
              x1={curveX(0)}
              x2={curveX(0)}
              y1={sectionBox[1]}
              y2={sectionBox[1] + tall}
              stroke="#b4b4b4"
              strokeWidth={width / 400}
            />
          </>
        )}
      </Sheet>
    </>
  );
}

const LABELS: Record<Grip, string> = {
  west: "West side of the box",
  east: "East side of the box",
  south: "South side of the box",
  north: "North side of the box",
  all: "Place of the box",
  floor: "Lower side of the box",
  roof: "Upper side of the box",
  base: "Height up to which the fog is even",
  fall: "Fall of the fog with height",
};

interface SheetProps {
  name: string;
  box: number[];
  air: Air;
  set: Props["set"];
  grips: Partial<Record<Grip, Spot>>;
  /** Density that a place across the section stands for. */
  density?: (across: number) => number;
  children: React.ReactNode;
}

function Sheet({ name, box, air, set, grips, density, children }: SheetProps) {
  const svg = useRef<SVGSVGElement>(null);
  const held = useRef<{ grip: Grip; from: Spot; air: Air; box: number[]; rect: DOMRect } | null>(null);
  const at = (e: { clientX: number; clientY: number }, rect: DOMRect, b: number[]): Spot => [
    b[0] + ((e.clientX - rect.left) / rect.width) * b[2],
    -(b[1] + ((e.clientY - rect.top) / rect.height) * b[3]),
  ];
  const put = (e: React.PointerEvent, done: Done) => {
    const h = held.current;
    if (!h) return;
    const to = at(e, h.rect, h.box);
    set(LABELS[h.grip], moved(h.air, h.grip, to, h.from, density), done);
  };
  const drag = useDrag({
    start: (e) => {
      const grip = (e.target as Element).closest<SVGElement>("[data-grip]")?.dataset.grip as Grip | undefined;
      if (!grip) return false;
      const rect = svg.current!.getBoundingClientRect();
      held.current = { grip, from: at(e, rect, box), air, box, rect };
    },
    move: (e) => put(e, false),
    end: (e) => {
      put(e, true);
      held.current = null;
    },
    cancel: () => {
      held.current = null;
      useStore.getState().setDraft([]);
    },
  });
  const unit = box[2] / 300;
  return (
    <svg
      ref={svg}
      className={cls("sheet")}
      viewBox={box.join(" ")}
      width="100%"
      role="group"
      aria-label={name}
      {...drag}
    >
      {children}
      {(Object.entries(grips) as [Grip, Spot][]).map(([grip, [a, b]]) => (
        <circle
          key={grip}
          data-grip={grip}
          className={cls("grip")}
          tabIndex={0}
          role="slider"
          aria-label={LABELS[grip]}
          aria-valuenow={Number((grip === "west" || grip === "east" ? a : b).toFixed(2))}
          aria-valuetext={`${(grip === "west" || grip === "east" ? a : b).toFixed(2)} m`}
          cx={clamp(a, box[0] + unit * 7, box[0] + box[2] - unit * 7)}
          cy={clamp(-b, box[1] + unit * 7, box[1] + box[3] - unit * 7)}
          r={unit * (grip === "all" ? 6 : 5)}
          fill={grip === "fall" ? "#fff" : "#556414"}
          stroke="#1e1e1e"
          strokeWidth={unit}
          style={{ cursor: grip === "all" ? "move" : "grab" }}
          onKeyDown={(e) => {
            const by = e.shiftKey ? 1 : 0.1;
            const d = { ArrowLeft: [-by, 0], ArrowRight: [by, 0], ArrowUp: [0, by], ArrowDown: [0, -by] }[
              e.key
            ];
            if (!d || e.ctrlKey || e.metaKey || e.altKey) return;
            e.preventDefault();
            const across = grip === "fall" && d[0] ? (d[0] * box[2]) / 60 : d[0];
            set(LABELS[grip], moved(air, grip, [a + across, b + d[1]], [a, b], density), "soon");
          }}
        />
      ))}
    </svg>
  );
}

/** What a grip that was brought to a place changes of the fog; `from` is where it was taken. */
export function moved(
  air: Air,
  grip: Grip,
  [a, b]: Spot,
  from: Spot,
  density: ((across: number) => number) | undefined,
): Partial<Air> {
  switch (grip) {
    case "west":
    case "east":
      return sideMoved(air, 0, grip === "west" ? "low" : "high", a);
    case "south":
    case "north":
      return sideMoved(air, 1, grip === "south" ? "low" : "high", b);
    case "floor":
    case "roof":
      return sideMoved(air, 2, grip === "floor" ? "low" : "high", b);
    case "all":
      return boxMoved(air, [a - from[0], b - from[1], 0] as Point);
    case "base":
      return { base_height_m: Math.round(b * 100) / 100 };
    case "fall":
      return { fall_m: fallThrough(air, b, density ? density(a) : 1) };
  }
}
