import { useEffect, useMemo, useRef, useState } from "react";

import { api, type Fixture, type Project, type View } from "../api/client";
import type { Hands } from "../bench/useBench";
import { useStore } from "../state/store";
import { Button } from "../ui/Button";
import { NumberField } from "../ui/NumberField";
import { useServer } from "../state/server";
import { classesOf } from "../ui/classes";
import styles from "./Section.module.css";
import { pathOfSegments } from "./marks";

const cls = classesOf(styles);

interface Props {
  slug: string;
  project: Project;
  /** The section goes through it, or through the view. */
  fixture: Fixture | null;
  view: View;
  hands: Hands;
  chosen: string[];
  choose: (keys: string[]) => void;
}

const AROUND_M = 9;

/** An upright cut, to set heights: fixtures near it are dragged up and down. */
export function Section({ slug, project, fixture, view, hands, chosen, choose }: Props) {
  const [axis, setAxis] = useState<"x" | "y">("y");
  const svg = useRef<SVGSVGElement>(null);
  const drag = useRef<string | null>(null);
  const moved = useRef(false);
  const centre = fixture?.position ?? view.position;
  const cutAt = axis === "x" ? centre[0] : centre[1];
  const along = axis === "x" ? 1 : 0;
  const [place, setPlace] = useState(cutAt);
  useEffect(() => setPlace(cutAt), [cutAt]);
  const drawing = useServer(["section", slug, axis, place], () => api.section(slug, axis, place), {
    told: true,
  });
  const lines = useMemo(() => pathOfSegments(drawing?.segments ?? []), [drawing]);
  const width = 2 * AROUND_M;
  const box = [centre[along] - AROUND_M, -7, width, 8.4];
  const unit = width / 900;
  const near = (project.fixtures ?? []).filter((f) => Math.abs(f.position[1 - along] - place) < 1.5);
  const height = (e: React.PointerEvent) => {
    const p = new DOMPoint(e.clientX, e.clientY).matrixTransform(svg.current!.getScreenCTM()!.inverse());
    return Math.round(-p.y * 20) / 20;
  };
  const lift = (f: Fixture, z: number, done: boolean | "soon") =>
    hands.fixtures("Height of fixture", [{ ...f, position: [f.position[0], f.position[1], z] }], done);
  return (
    <>
      <svg
        ref={svg}
        viewBox={box.join(" ")}
        role="group"
        aria-label="Section"
        onPointerMove={(e) => {
          const f = near.find((x) => x.key === drag.current);
          if (!f || e.buttons !== 1) return;
          moved.current = true;
          lift(f, height(e), false);
        }}
        onPointerUp={() => {
          const f = near.find((x) => x.key === drag.current);
          if (f && moved.current) lift(f, f.position[2], true);
          drag.current = null;
        }}
        onPointerCancel={() => {
          drag.current = null;
          useStore.getState().setDraft([]);
        }}
      >
        <path d={lines} stroke="#1e1e1e" strokeWidth={unit * 1.5} fill="none" />
        {Array.from({ length: 7 }, (_, k) => (
          <g key={k}>
            <line x1={box[0]} x2={box[0] + width} y1={-k} y2={-k} stroke="#c4c4c4" strokeWidth={unit * 0.7} />
            <text
              x={box[0] + unit * 6}
              y={-k - unit * 3}
              fontSize={unit * 11}
              fontFamily="var(--numbers)"
              fill="#5a5a5a"
            >
              {k} m
            </text>
          </g>
        ))}
        {near.map((f) => {
          const x = f.position[along];
          const on = chosen.includes(f.key);
          return (
            <g key={f.key}>
              <line
                x1={x}
                y1={-f.position[2]}
                x2={f.aim[along]}
                y2={-f.aim[2]}
                stroke={on ? "#66761a" : "#b0501e"}
                strokeWidth={unit}
                strokeDasharray={`${unit * 4}`}
              />
              <circle
                cx={x}
                cy={-f.position[2]}
                r={unit * 7}
                fill={on ? "#66761a" : "#fff"}
                stroke="#1e1e1e"
                strokeWidth={unit * 1.2}
                tabIndex={0}
                role="slider"
                aria-label={`Height of ${f.key}`}
                aria-valuenow={f.position[2]}
                aria-valuetext={`${f.position[2].toFixed(2)} m`}
                style={{ cursor: "ns-resize" }}
                onPointerDown={(e) => {
                  svg.current!.setPointerCapture(e.pointerId);
                  drag.current = f.key;
                  moved.current = false;
                  svg.current!.setPointerCapture(e.pointerId);
                  choose([f.key]);
                }}
                onKeyDown={(e) => {
                  const by = { ArrowUp: 0.05, ArrowDown: -0.05 }[e.key];
                  if (by === undefined) return;
                  e.preventDefault();
                  lift(f, Math.round((f.position[2] + by) * 1000) / 1000, "soon");
                }}
              />
            </g>
          );
        })}
      </svg>
      <div className={cls("section-tools")}>
        {(["x", "y"] as const).map((a) => (
          <Button
            key={a}
            size="sm"
            variant={axis === a ? "dark" : "outline-dark"}
            aria-pressed={axis === a}
            onClick={() => setAxis(a)}
          >
            cut at {a}
          </Button>
        ))}
        <NumberField
          label="Place of the section in m"
          unit="m"
          step={0.5}
          min={-10000}
          max={10000}
          value={Number(place.toFixed(2))}
          onChange={(v) => v !== null && setPlace(v)}
        />
      </div>
    </>
  );
}
