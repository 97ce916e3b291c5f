import { useMemo, useRef, useState } from "react";

import { api, type LensReading, type View } from "../api/client";
import type { Hands } from "../bench/useBench";
import { useModels, useServer } from "../state/server";
import { type Done, useStore } from "../state/store";
import { useDrag } from "../ui/useDrag";
import { classesOf } from "../ui/classes";
import {
  ahead,
  focalFor,
  inPlan,
  offAxis,
  onStage,
  pathOf,
  pitch,
  reachOf,
  sharpBetween,
  type Spot,
} from "./drawing";
import styles from "./lens.module.css";
import { pathOfSegments } from "../plan/marks";

const cls = classesOf(styles);
/** Height of plan and section over their width. */
const [PLAN, SECTION] = [0.52, 0.44];
const round = (v: number) => Math.round(v * 1000) / 1000;

interface Props {
  slug: string;
  view: View;
  reading: LensReading;
  hands: Hands;
}

type Grip = "lens" | "target" | "focus" | "left" | "right";

/** The lens in plan and section, its axis to the right: what it sees and what of that is sharp; taken hold of where it is drawn. */
export function LensDrawing({ slug, view, reading, hands }: Props) {
  const models = useModels();
  // While something is in hand the paper lies still, and the lens moves on it.
  const [still, setStill] = useState<View | null>(null);
  const paper = still ?? view;
  const reach = reachOf(paper);
  const height = Number(paper.position[2].toFixed(2));
  const plan = useServer(["plan", slug, models, height], () => api.plan(slug, height), { afterMs: 150 });
  const stands = JSON.stringify([paper.position, paper.target]);
  const saved = useStore((s) => s.saved?.description.views?.find((v) => v.key === view.key));
  const kept = JSON.stringify(saved && [saved.position, saved.target]);
  const section = useServer(
    ["lens-section", slug, models, view.key, kept, reach],
    () => api.lensSection(slug, view.key, reach),
    { afterMs: 100 },
  );
  const planLines = useMemo(() => {
    const s = plan?.segments ?? [];
    const parts: string[] = [];
    for (let k = 0; k < s.length; k += 4) {
      const [a, b] = [inPlan(paper, [s[k], s[k + 1]]), inPlan(paper, [s[k + 2], s[k + 3]])];
      parts.push(`M${a[0].toFixed(3)} ${(-a[1]).toFixed(3)}L${b[0].toFixed(3)} ${(-b[1]).toFixed(3)}`);
    }
    return parts.join("");
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [plan, stands]);
  const sectionLines = useMemo(() => pathOfSegments(section?.segments ?? []), [section]);

  const width = reach * 1.12;
  const back = reach * 0.12;
  const z = paper.position[2];
  const [along, left] = inPlan(paper, [view.position[0], view.position[1]]);
  const [cos, sin] = inPlan(
    paper,
    onStage({ ...view, position: paper.position, target: sum(paper.position, view) }, [1, 0]),
  );
  const turned = `matrix(${cos} ${-sin} ${sin} ${cos} ${along} ${-left})`;
  const common = { view, hands, hold: setStill };
  return (
    <div className={cls("drawing")}>
      <Sheet
        name="Plan"
        box={[-back, (-width * PLAN) / 2, width, width * PLAN]}
        lines={planLines}
        shift={0}
        stands={turned}
        edges={[reading.left, reading.right].map((t) => [0, 0, reach * 2, -t * reach * 2] as Edge)}
        sharp={pathOf(sharpBetween(reading, reach, -reading.left, -reading.right, (a, t) => [a, a * t]))}
        focus={
          view.focus_m == null
            ? null
            : [
                [view.focus_m, -reading.left * view.focus_m],
                [view.focus_m, -reading.right * view.focus_m],
              ]
        }
        target={inPlan(view, [view.target[0], view.target[1]])}
        {...common}
        move={(grip, [a, b], from) => moved(view, grip, [a, b], from, "plan")}
      />
      <Sheet
        name="Section"
        box={[-back, (-width * SECTION) / 2, width, width * SECTION]}
        lines={sectionLines}
        shift={z}
        stands={`translate(${along} ${z - view.position[2]})`}
        edges={[reading.top, reading.bottom].map((t) => [0, 0, ...offAxis(view, reach * 2, t)] as Edge)}
        sharp={pathOf(
          sharpBetween(reading, reach, reading.bottom, reading.top, (a, t) => offAxis(view, a, t)),
        )}
        focus={
          view.focus_m == null
            ? null
            : [offAxis(view, view.focus_m, reading.top), offAxis(view, view.focus_m, reading.bottom)]
        }
        target={[
          Math.hypot(view.target[0] - view.position[0], view.target[1] - view.position[1]),
          view.target[2] - view.position[2],
        ]}
        {...common}
        move={(grip, [a, b], from) => moved(view, grip, [a, b], from, "section")}
      />
    </div>
  );
}

/** Where a view looks, were its lens to stand at another place. */
const sum = (place: View["position"], view: View) =>
  place.map((v, k) => v + view.target[k] - view.position[k]) as View["position"];

/** What a grip that was brought to a place changes; `from` is where the lens stood when it was taken, in the drawing's metres. */
export function moved(
  view: View,
  grip: Grip,
  [a, b]: Spot,
  from: Spot,
  sheet: "plan" | "section",
): Partial<View> | null {
  const both = (by: [number, number, number]): Partial<View> => ({
    position: view.position.map((v, k) => round(v + by[k])) as View["position"],
    target: view.target.map((v, k) => round(v + by[k])) as View["target"],
  });
  const [dx, dy] = ahead(view);
  if (grip === "lens") {
    const [along, side] = [a - from[0], b - from[1]];
    return sheet === "plan"
      ? both([along * dx - side * dy, along * dy + side * dx, 0])
      : both([along * dx, along * dy, side]);
  }
  if (grip === "target") {
    if (sheet === "plan") {
      if (Math.hypot(a, b) < 0.1) return null;
      const [x, y] = onStage(view, [a, b]);
      return { target: [round(x), round(y), view.target[2]] };
    }
    const [x, y] = onStage(view, [Math.max(a, 0.1), 0]);
    return { target: [round(x), round(y), round(view.position[2] + b)] };
  }
  if (grip === "focus") {
    const along = sheet === "plan" ? a : a * Math.cos(pitch(view)) + b * Math.sin(pitch(view));
    return along > 0.05 ? { focus_m: Number(along.toPrecision(3)) } : null;
  }
  if (a < 0.05) return null;
  const focal = focalFor(view, -b / a, grip);
  return focal === null ? null : { focal_mm: focal };
}

type Edge = [number, number, number, number];
const LABELS: Record<Grip, string> = {
  lens: "Move lens",
  target: "Turn lens",
  focus: "Focus",
  left: "Focal length",
  right: "Focal length",
};

interface SheetProps {
  name: "Plan" | "Section";
  box: number[];
  lines: string;
  /** Height of the lens where the lines are drawn by height. */
  shift: number;
  /** How the lens stands on the paper. */
  stands: string;
  /** The paper is to lie still under a view, or to follow it again. */
  hold: (view: View | null) => void;
  edges: Edge[];
  sharp: string;
  focus: [Spot, Spot] | null;
  target: Spot;
  view: View;
  hands: Hands;
  move: (grip: Grip, to: Spot, from: Spot) => Partial<View> | null;
}

function Sheet({
  name,
  box,
  lines,
  shift,
  stands,
  hold,
  edges,
  sharp,
  focus,
  target,
  view,
  hands,
  move,
}: SheetProps) {
  const svg = useRef<SVGSVGElement>(null);
  const unit = box[2] / 300;
  // What is taken hold of moves by the frame in which it was taken: the drawing turns and moves with the lens.
  const held = useRef<{
    grip: Grip;
    move: SheetProps["move"];
    from: Spot;
    box: DOMRect;
    view: number[];
  } | null>(null);
  const at = (e: { clientX: number; clientY: number }, r: DOMRect, b: number[]): Spot => [
    b[0] + ((e.clientX - r.left) / r.width) * b[2],
    -(b[1] + ((e.clientY - r.top) / r.height) * b[3]),
  ];
  const put = (e: React.PointerEvent, done: Done) => {
    const h = held.current;
    if (!h) return;
    const patch = h.move(h.grip, at(e, h.box, h.view), h.from);
    if (patch) hands.view(LABELS[h.grip], patch, done);
  };
  const drag = useDrag({
    start: (e) => {
      const grip = (e.target as Element).closest<SVGElement>("[data-grip]")?.dataset.grip as Grip | undefined;
      if (!grip) return false;
      const rect = svg.current!.getBoundingClientRect();
      held.current = { grip, move, from: at(e, rect, box), box: rect, view: box };
      if (grip !== "lens") held.current.from = [0, 0];
      hold(view);
    },
    move: (e) => put(e, false),
    end: (e) => {
      put(e, true);
      held.current = null;
      hold(null);
    },
    cancel: () => {
      held.current = null;
      hold(null);
      useStore.getState().setDraft([]);
    },
  });
  const grips: [Grip, Spot, string][] = [
    ["lens", [0, 0], "Lens: arrow keys move it"],
    ["target", target, "Target: arrow keys turn the lens"],
  ];
  const key = (grip: Grip, spot: Spot) => (e: React.KeyboardEvent) => {
    const by = (e.shiftKey ? 1 : 0.1) * (grip === "focus" ? Math.max(1, spot[0]) : 1);
    const d = { ArrowLeft: [-by, 0], ArrowRight: [by, 0], ArrowUp: [0, by], ArrowDown: [0, -by] }[e.key];
    if (!d || e.ctrlKey || e.metaKey) return;
    e.preventDefault();
    const patch = move(grip, [spot[0] + d[0], spot[1] + d[1]], grip === "lens" ? spot : [0, 0]);
    if (patch) hands.view(LABELS[grip], patch, "soon");
  };
  return (
    <svg
      ref={svg}
      viewBox={box.join(" ")}
      width="100%"
      role="group"
      aria-label={`Lens in ${name.toLowerCase()}`}
      {...drag}
    >
      <path
        d={lines}
        transform={`translate(0 ${shift})`}
        stroke="#6a6a6a"
        strokeWidth={unit * 0.8}
        fill="none"
      />
      <g transform={stands}>
        <path d={sharp} fill="#556414" fillOpacity="0.2" />
        {edges.map(([x0, y0, x1, y1], k) => {
          const grip = name === "Plan" ? (k === 0 ? "left" : "right") : null;
          return (
            <g key={k}>
              <line x1={x0} y1={-y0} x2={x1} y2={-y1} stroke="#1e1e1e" strokeWidth={unit} />
              {grip && (
                <line
                  data-grip={grip}
                  className={cls("grip")}
                  style={{ cursor: "ew-resize" }}
                  x1={x1 * 0.12}
                  y1={-y1 * 0.12}
                  x2={x1}
                  y2={-y1}
                  stroke="transparent"
                  strokeWidth={unit * 9}
                />
              )}
            </g>
          );
        })}
        {focus && (
          <g
            data-grip="focus"
            className={cls("grip")}
            tabIndex={0}
            role="slider"
            aria-label={`Focus in ${name.toLowerCase()}`}
            aria-valuenow={view.focus_m ?? undefined}
            aria-valuetext={`${view.focus_m?.toFixed(2)} m`}
            style={{ cursor: "ew-resize" }}
            onKeyDown={key("focus", [view.focus_m!, 0])}
          >
            {["#556414", "transparent"].map((colour, k) => (
              <line
                key={colour}
                x1={focus[0][0]}
                y1={-focus[0][1]}
                x2={focus[1][0]}
                y2={-focus[1][1]}
                stroke={colour}
                strokeWidth={unit * (k ? 10 : 2)}
              />
            ))}
          </g>
        )}
        {grips.map(([grip, spot, label]) => (
          <g
            key={grip}
            data-grip={grip}
            className={cls("grip")}
            tabIndex={0}
            role="button"
            aria-label={`${label}, ${name.toLowerCase()}`}
            style={{ cursor: "grab" }}
            onKeyDown={key(grip, spot)}
          >
            <circle cx={spot[0]} cy={-spot[1]} r={unit * 9} fill="transparent" />
            {grip === "lens" ? (
              <path d={`M${-unit * 7} ${-unit * 4.5}h${unit * 7}v${unit * 9}h${-unit * 7}Z`} fill="#1e1e1e" />
            ) : (
              <circle
                cx={spot[0]}
                cy={-spot[1]}
                r={unit * 4}
                fill="#fff"
                stroke="#1e1e1e"
                strokeWidth={unit * 1.4}
              />
            )}
          </g>
        ))}
      </g>
      <text x={box[0] + unit * 4} y={box[1] + unit * 12} className={cls("sheet-name")} fontSize={unit * 10}>
        {name}
      </text>
    </svg>
  );
}
