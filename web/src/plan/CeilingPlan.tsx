import { useEffect, useMemo, useRef, useState } from "react";

import {
  api,
  type AreaReading,
  type ArrangeWanted,
  type Fixture,
  type FixtureKind,
  type LuxGrid,
  type ObjectLine,
  type Occasion,
  type PlanDrawing,
  type Project,
  type View,
} from "../api/client";
import type { Hands } from "../bench/useBench";
import { useStore } from "../state/store";
import { AreaFigures } from "../meter/MeterCard";
import { Button } from "../ui/Button";
import { contour } from "./contours";
import { KindStrip } from "./KindStrip";
import { newFixture } from "./newFixture";
import { type ArrangeFigures, HINTS, Marks, type PlanTool, PlanTools, START_FIGURES } from "./PlanTools";
import { Section } from "./Section";
import { useKinds } from "./useKinds";

interface Props {
  slug: string;
  project: Project;
  view: View;
  occasion: Occasion;
  hands: Hands;
  /** Keys of the chosen fixtures, the one in hand first. */
  chosen: string[];
  choose: (keys: string[]) => void;
  kind: string | null;
  chooseKind: (key: string | null) => void;
  /** Pointing at the plan: place in metres and the height it is cut at. */
  point?: (x: number, y: number, height: number) => void;
}

const CUT_M = 1.2;
const WORKING_PLANE_M = 0.75;
const LEVELS = [20, 50, 100, 200, 300, 500, 1000];
type Grip = "position" | "aim";

/** The plan on which fixtures are placed, moved and aimed; with the direct lux on the working plane. */
export function CeilingPlan(props: Props) {
  const { slug, project, view, occasion, hands, chosen: chosenKeys, choose, kind, chooseKind } = props;
  const selected = chosenKeys[0] ?? null;
  const select = (key: string | null, more = false) =>
    choose(key === null ? [] : more ? [key, ...chosenKeys.filter((k) => k !== key)] : [key]);
  const [tool, setTool] = useState<PlanTool>("one");
  const [figures, setFigures] = useState<ArrangeFigures>(START_FIGURES);
  const [line, setLine] = useState<[number, number][]>([]);
  const [area, setArea] = useState<AreaReading | null>(null);
  const [objects, setObjects] = useState<ObjectLine[]>([]);
  const draft = useStore((s) => s.draft);
  const adopt = useStore((s) => s.adopt);
  const [plan, setPlan] = useState<PlanDrawing | null>(null);
  const [grid, setGrid] = useState<LuxGrid | null>(null);
  const [box, setBox] = useState<[number, number, number, number] | null>(null);
  const svg = useRef<SVGSVGElement>(null);
  const drag = useRef<{ key: string; grip: Grip; moved: boolean } | null>(null);
  const pan = useRef<[number, number] | null>(null);
  const notify = useStore((s) => s.notify);
  const saved = useStore((s) => s.saved);
  const kinds = useKinds(slug, project);
  const fixtures = useMemo(() => project.fixtures ?? [], [project.fixtures]);
  const models = (project.stage?.models ?? []).map((m) => m.asset).join();

  useEffect(() => {
    let alive = true;
    api.plan(slug, CUT_M).then(
      (drawing) => {
        if (!alive) return;
        setPlan(drawing);
        setBox((was) => was ?? home(drawing, saved?.description ?? project));
      },
      (error: Error) => notify(error.message, "error"),
    );
    api.objects(slug).then(
      (list) => alive && setObjects(list),
      () => undefined,
    );
    return () => {
      alive = false;
    };
    // The drawing depends on the models alone; the first framing may use any state of the project.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [slug, models, notify]);

  const lit = JSON.stringify([project.fixtures, project.kinds, project.occasions, draft.map((c) => c.key)]);
  // One question at a time: while a fixture is dragged the next one asks for the newest draft.
  const asking = useRef<"no" | "once" | "again">("no");
  const [turn, setTurn] = useState(0);
  useEffect(() => {
    const wait = window.setTimeout(() => {
      if (asking.current !== "no") {
        asking.current = "again";
        return;
      }
      asking.current = "once";
      api
        .luxOfDraft(slug, occasion.key, WORKING_PLANE_M, useStore.getState().draft)
        .then(setGrid, () => setGrid(null))
        .finally(() => {
          if (asking.current === "again") setTurn((t) => t + 1);
          asking.current = "no";
        });
    }, 120);
    return () => window.clearTimeout(wait);
  }, [slug, occasion.key, lit, turn]);

  const lines = useMemo(() => {
    if (!plan) return "";
    const s = plan.segments;
    const parts: string[] = [];
    for (let k = 0; k < s.length; k += 4) parts.push(`M${s[k]} ${-s[k + 1]}L${s[k + 2]} ${-s[k + 3]}`);
    return parts.join("");
  }, [plan]);
  const contours = useMemo(() => (grid ? LEVELS.map((l) => [l, contour(grid, l)] as const) : []), [grid]);
  const room = useMemo(() => roomFigures(grid, project), [grid, project]);

  if (!plan || !box) return <div className="plan-wrap">Drawing the plan…</div>;
  const unit = box[2] / 900; // about one pixel in metres

  const at = (e: { clientX: number; clientY: number }): [number, number] => {
    const matrix = svg.current!.getScreenCTM()!.inverse();
    const p = new DOMPoint(e.clientX, e.clientY).matrixTransform(matrix);
    return [p.x, -p.y];
  };
  const snap = (v: number, fine: boolean) => (fine ? Math.round(v * 100) / 100 : Math.round(v * 20) / 20);
  /** Snap to the axes of other fixtures, to walls and to the centres of objects within reach, else to the grid. */
  const snapTo = (p: [number, number], fine: boolean, apart: string[] = []): [number, number] => {
    if (fine) return [snap(p[0], true), snap(p[1], true)];
    const near = unit * 7;
    return [0, 1].map((k) => {
      const axes = fixtures.filter((f) => !apart.includes(f.key)).map((f) => f.position[k]);
      axes.push(...wallsNear(plan, p, k, near), ...objectsNear(objects, p, k));
      const best = axes.reduce((a, v) => (Math.abs(v - p[k]) < Math.abs(a - p[k]) ? v : a), Infinity);
      return Math.abs(best - p[k]) < near ? best : snap(p[k], false);
    }) as [number, number];
  };
  const arrange = async (wanted: Partial<ArrangeWanted> & Pick<ArrangeWanted, "how">) => {
    try {
      const state = await api.arrange(slug, {
        points: [],
        half_ends: figures.half,
        objects: "",
        fixtures: [],
        axis: "x",
        kind,
        ...wanted,
      });
      const before = new Set(fixtures.map((f) => f.key));
      adopt(state);
      choose((state.description.fixtures ?? []).map((f) => f.key).filter((k) => !before.has(k)));
    } catch (error) {
      notify((error as Error).message, "error");
    }
    setLine([]);
  };
  const counts = () =>
    figures.by === "spacing" ? { spacing_m: figures.spacing } : { count: figures.count, rows: figures.rows };
  const measure = async (a: [number, number], b: [number, number]) => {
    try {
      const [x0, x1] = [Math.min(a[0], b[0]), Math.max(a[0], b[0])];
      const [y0, y1] = [Math.min(a[1], b[1]), Math.max(a[1], b[1])];
      setArea(
        await api.area(slug, {
          occasion: occasion.key,
          corner: [x0, y0, figures.height],
          u: [x1 - x0, 0, 0],
          v: [0, y1 - y0, 0],
          normal: [0, 0, 1],
          spacing_m: Math.max(Math.sqrt(((x1 - x0) * (y1 - y0)) / 300), 0.1),
          direct_only: false,
        }),
      );
    } catch (error) {
      notify((error as Error).message, "error");
    }
  };
  const moved = (fixture: Fixture, grip: Grip, x: number, y: number): Partial<Fixture> => {
    if (grip === "aim") return { aim: [x, y, fixture.aim[2]] };
    const dx = x - fixture.position[0];
    const dy = y - fixture.position[1];
    return {
      position: [x, y, fixture.position[2]],
      aim: [round(fixture.aim[0] + dx), round(fixture.aim[1] + dy), fixture.aim[2]],
    };
  };
  const onPointerMove = (e: React.PointerEvent) => {
    if (drag.current && e.buttons === 1) {
      const fixture = fixtures.find((f) => f.key === drag.current!.key);
      if (!fixture) return;
      const [x, y] = snapTo(at(e), e.altKey, chosenKeys);
      drag.current.moved = true;
      const { grip } = drag.current;
      const [dx, dy] = [x - fixture[grip][0], y - fixture[grip][1]];
      hands.fixtures(
        grip === "aim" ? "Aim fixture" : "Move fixture",
        fixtures
          .filter((f) => chosenKeys.includes(f.key))
          .map((f) => ({ ...f, ...moved(f, grip, round(f[grip][0] + dx), round(f[grip][1] + dy)) })),
        false,
      );
    } else if (e.buttons === 1 && line.length > 0 && tool !== "curve") {
      setLine([line[0], snapTo(at(e), e.altKey)]);
    } else if (pan.current && e.buttons === 1) {
      const [x, y] = at(e);
      const [px, py] = pan.current;
      setBox((b) => b && [b[0] + px - x, b[1] - (py - y), b[2], b[3]]);
    }
  };
  const onPointerUp = () => {
    if (drag.current?.moved) {
      const list = fixtures.filter((f) => chosenKeys.includes(f.key));
      const what = drag.current.grip === "aim" ? "Aim" : "Move";
      hands.fixtures(list.length > 1 ? `${what} ${list.length} fixtures` : `${what} fixture`, list, true);
    }
    if (line.length === 2 && tool !== "curve") {
      const [a, b] = line;
      if (tool === "area") {
        setLine([]);
        void measure(a, b);
      } else if (tool === "row" || tool === "array") void arrange({ how: tool, points: line, ...counts() });
    } else if (line.length === 1 && tool !== "curve") setLine([]);
    drag.current = null;
    pan.current = null;
  };
  const place = (e: React.PointerEvent) => {
    if (props.point && !kind) {
      props.point(...at(e), CUT_M);
      return;
    }
    const here = snapTo(at(e), e.altKey);
    if (tool === "mirror-x" || tool === "mirror-y") {
      void arrange({
        how: "mirror",
        points: [here],
        fixtures: chosenKeys,
        axis: tool === "mirror-x" ? "x" : "y",
      });
      setTool("one");
      return;
    }
    if (tool === "area" || (kind && (tool === "row" || tool === "array"))) {
      setLine([here]);
      return;
    }
    if (kind && tool === "curve") {
      setLine([...line, here]);
      return;
    }
    const chosen = (project.kinds ?? []).find((k) => k.key === kind);
    if (!chosen) {
      select(null);
      pan.current = at(e);
      return;
    }
    void put(chosen, here);
    if (!e.shiftKey) chooseKind(null);
  };
  /** Place one; a ceiling fixture without neighbours of its kind hangs on the ceiling above. */
  const put = async (chosen: FixtureKind, [x, y]: [number, number]) => {
    let z: number | undefined;
    if ((chosen.mounting ?? "ceiling") === "ceiling" && !fixtures.some((f) => f.kind === chosen.key)) {
      const over = await api
        .pick(slug, { view: view.key, occasion: occasion.key, plan: [x, y, CUT_M], up: true })
        .catch(() => null);
      if (over) z = round(over.point[2] - 0.02);
    }
    const made = newFixture(project, chosen, x, y, z);
    hands.fixtures(`Place ${chosen.name}`, [made], true);
    select(made.key);
  };
  const zoom = (factor: number, cx: number, cy: number) =>
    setBox((b) => b && [cx - (cx - b[0]) * factor, cy - (cy - b[1]) * factor, b[2] * factor, b[3] * factor]);

  return (
    <div className="plan-wrap">
      <PlanTools
        tool={tool}
        setTool={(t) => {
          setTool(t);
          setLine([]);
        }}
        figures={figures}
        setFigures={setFigures}
        kind={kind}
        chosen={chosenKeys.length}
        points={tool === "curve" ? line.length : 0}
        finishCurve={() => void arrange({ how: "curve", points: line, ...counts() })}
        underObjects={(name) => void arrange({ how: "objects", objects: name })}
      />
      <div className="plan">
        {tool === "section" && (
          <Section
            slug={slug}
            project={project}
            fixture={fixtures.find((f) => f.key === selected) ?? null}
            view={view}
            hands={hands}
            chosen={chosenKeys}
            choose={choose}
          />
        )}
        <svg
          ref={svg}
          className={tool === "section" ? "put-away" : undefined}
          viewBox={box.join(" ")}
          aria-label="Ceiling plan"
          role="group"
          style={{ cursor: kind ? "copy" : "default" }}
          onPointerDown={place}
          onDoubleClick={() =>
            tool === "curve" && line.length > 1 && void arrange({ how: "curve", points: line, ...counts() })
          }
          onPointerMove={onPointerMove}
          onPointerUp={onPointerUp}
          onWheel={(e) => {
            const [x, y] = at(e);
            zoom(e.deltaY > 0 ? 1.15 : 1 / 1.15, x, -y);
          }}
        >
          {grid && <LuxWash grid={grid} />}
          <path d={lines} stroke="#1e1e1e" strokeWidth={unit * 1.5} fill="none" />
          {contours.map(([level, d]) => (
            <path
              key={level}
              d={d}
              stroke="#b0501e"
              strokeWidth={unit * (level === 300 ? 1.8 : 1)}
              fill="none"
              opacity="0.8"
            />
          ))}
          {contours.map(([level, d]) => (
            <LevelName key={level} level={level} path={d} unit={unit} />
          ))}
          <ViewMark view={view} unit={unit} />
          {line.length > 0 && <Marks line={line} tool={tool} unit={unit} />}
          {fixtures.map((f) => (
            <Symbol
              key={f.key}
              fixture={f}
              body={(project.kinds ?? []).find((k) => k.key === f.kind)?.body ?? "none"}
              name={(project.kinds ?? []).find((k) => k.key === f.kind)?.name ?? f.kind}
              lit={f.on !== false && (occasion.levels?.[f.group ?? "Fixtures"] ?? 100) > 0}
              unit={unit}
              selected={chosenKeys.includes(f.key)}
              onGrab={(e, grip) => {
                if (tool === "mirror-x" || tool === "mirror-y") return;
                e.stopPropagation();
                svg.current!.setPointerCapture(e.pointerId);
                drag.current = { key: f.key, grip, moved: false };
                if (e.shiftKey) select(f.key, true);
                else if (!chosenKeys.includes(f.key)) select(f.key);
              }}
              onFocus={() => !chosenKeys.includes(f.key) && select(f.key)}
              onKey={(e) => {
                const by = e.shiftKey ? 1 : 0.1;
                const d = { ArrowLeft: [-by, 0], ArrowRight: [by, 0], ArrowUp: [0, by], ArrowDown: [0, -by] }[
                  e.key
                ];
                if (d) {
                  e.preventDefault();
                  hands.fixtures(
                    "Move fixture",
                    fixtures
                      .filter((g) => g.key === f.key || chosenKeys.includes(g.key))
                      .map((g) => ({
                        ...g,
                        ...moved(g, "position", round(g.position[0] + d[0]), round(g.position[1] + d[1])),
                      })),
                    "soon",
                  );
                } else if (e.key === "Delete" || e.key === "Backspace") {
                  e.preventDefault();
                  const keys = chosenKeys.includes(f.key) ? chosenKeys : [f.key];
                  hands.changes(
                    keys.length > 1 ? `Take ${keys.length} fixtures away` : "Take fixture away",
                    keys.map((key) => ({ part: "fixture", key, value: null })),
                    true,
                  );
                  select(null);
                }
              }}
            />
          ))}
          <ScaleBar box={box} unit={unit} />
        </svg>
        <div className="legend number">
          <span>
            {kind
              ? (HINTS[tool] ?? "click where it hangs (Shift: several, Alt: finely)")
              : (HINTS[tool] ?? "drag to move, Shift to choose more, the square to aim, wheel to zoom")}
          </span>
          {room && (
            <span>
              direct at {WORKING_PLANE_M} m: mean {Math.round(room.average)} lx, greatest{" "}
              {Math.round(room.greatest)} lx
            </span>
          )}
        </div>
      </div>
      {area && (
        <div className="plan-area">
          <AreaFigures area={area} />
          <Button size="sm" variant="outline-dark" onClick={() => setArea(null)}>
            Put away
          </Button>
        </div>
      )}
      <KindStrip slug={slug} kinds={kinds} kind={kind} choose={chooseKind} />
    </div>
  );
}

const round = (v: number) => Math.round(v * 1000) / 1000;

/** Frame the fixtures and the view, or the whole drawing. */
function home(plan: PlanDrawing, project: Project): [number, number, number, number] {
  const inside = (project.fixtures ?? []).filter((f) => f.position[2] > 1 && f.position[2] < 6);
  const xs = inside.map((f) => f.position[0]).sort((a, b) => a - b);
  const ys = inside.map((f) => f.position[1]).sort((a, b) => a - b);
  const cut = (v: number[], low: number, high: number) =>
    v.length > 5 ? [v[Math.floor(v.length * 0.1)] - 3, v[Math.ceil(v.length * 0.9) - 1] + 3] : [low, high];
  const [x0, x1] = cut(xs, plan.low[0], plan.high[0]);
  const [y0, y1] = cut(ys, plan.low[1], plan.high[1]);
  return [x0, -y1, x1 - x0, y1 - y0];
}

/** Places of walls that run along the other axis beside a point: `k` 0 for x, 1 for y. */
function wallsNear(plan: PlanDrawing, p: [number, number], k: number, near: number): number[] {
  const s = plan.segments;
  const found: number[] = [];
  for (let i = 0; i < s.length; i += 4) {
    const [a, b] = [s[i + k], s[i + 2 + k]];
    const [low, high] = [Math.min(s[i + 1 - k], s[i + 3 - k]), Math.max(s[i + 1 - k], s[i + 3 - k])];
    const beside = p[1 - k] >= low - 0.01 && p[1 - k] <= high + 0.01;
    if (Math.abs(a - b) < 0.005 && high - low > 0.2 && beside && Math.abs(a - p[k]) < near)
      found.push(round(a));
  }
  return found;
}

const LARGEST_OBJECT_M = 4;

/** Centres of the furniture-sized objects whose box holds a point. */
function objectsNear(objects: ObjectLine[], p: [number, number], k: number): number[] {
  return objects
    .filter(
      (o) =>
        o.high[0] - o.low[0] < LARGEST_OBJECT_M &&
        o.high[1] - o.low[1] < LARGEST_OBJECT_M &&
        p[0] > o.low[0] &&
        p[0] < o.high[0] &&
        p[1] > o.low[1] &&
        p[1] < o.high[1],
    )
    .map((o) => round((o.low[k] + o.high[k]) / 2));
}

/** Average and greatest where more than 5 lx fall. */
function roomFigures(grid: LuxGrid | null, project: Project) {
  if (!grid || (project.fixtures ?? []).length === 0) return null;
  const lit = grid.lux.filter((v) => v > 5);
  if (lit.length < 4) return null;
  return {
    average: lit.reduce((a, b) => a + b, 0) / lit.length,
    greatest: Math.max(...lit),
  };
}

function LuxWash({ grid }: { grid: LuxGrid }) {
  const url = useMemo(() => {
    const canvas = document.createElement("canvas");
    canvas.width = grid.columns;
    canvas.height = grid.rows;
    const context = canvas.getContext("2d")!;
    const image = context.createImageData(grid.columns, grid.rows);
    grid.lux.forEach((v, k) => {
      const row = grid.rows - 1 - Math.floor(k / grid.columns);
      const o = (row * grid.columns + (k % grid.columns)) * 4;
      image.data.set([176, 80, 30, Math.min(v / 1000, 0.34) * 255 * (v > 3 ? 1 : 0)], o);
    });
    context.putImageData(image, 0, 0);
    return canvas.toDataURL();
  }, [grid]);
  const h = grid.step_m / 2;
  return (
    <image
      href={url}
      x={grid.x0 - h}
      y={-(grid.y0 + (grid.rows - 1) * grid.step_m) - h}
      width={grid.columns * grid.step_m}
      height={grid.rows * grid.step_m}
      preserveAspectRatio="none"
    />
  );
}

/** The lux of a contour, written where its line is longest drawn in one go. */
function LevelName({ level, path, unit }: { level: number; path: string; unit: number }) {
  const pieces = path.split("M").filter(Boolean);
  if (pieces.length === 0) return null;
  const piece = pieces[Math.floor(pieces.length / 2)];
  const [x, y] = piece.split(/[L ,]+/).map(Number);
  if (!Number.isFinite(x) || !Number.isFinite(y)) return null;
  return (
    <text
      x={x}
      y={y + unit * 3}
      fontSize={unit * 10}
      fontFamily="var(--numbers)"
      textAnchor="middle"
      fill="#8a3c12"
      stroke="#f4f4f4"
      strokeWidth={unit * 3}
      paintOrder="stroke"
      pointerEvents="none"
    >
      {level}
    </text>
  );
}

function ViewMark({ view, unit }: { view: View; unit: number }) {
  const [x, y] = view.position;
  const a = Math.atan2(view.target[1] - y, view.target[0] - x);
  const half = Math.atan((view.film_width_mm ?? 36) / 2 / (view.focal_mm ?? 24));
  const r = unit * 110;
  const p = (t: number) => `${x + r * Math.cos(t)},${-(y + r * Math.sin(t))}`;
  return (
    <polygon
      points={`${x},${-y} ${p(a - half)} ${p(a + half)}`}
      fill="#66761a"
      fillOpacity="0.28"
      stroke="#66761a"
      strokeWidth={unit}
      pointerEvents="none"
    />
  );
}

interface SymbolProps {
  fixture: Fixture;
  body: string;
  name: string;
  lit: boolean;
  unit: number;
  selected: boolean;
  onGrab: (e: React.PointerEvent, grip: Grip) => void;
  onFocus: () => void;
  onKey: (e: React.KeyboardEvent) => void;
}

/** A drafting symbol by the kind of body; the dot of the aim when selected. */
function Symbol({ fixture, body, name, lit, unit, selected, onGrab, onFocus, onKey }: SymbolProps) {
  const [x, y] = fixture.position;
  const r = unit * 8;
  const fill = lit ? "#fff" : "#d0d0d0";
  const stroke = selected ? "#66761a" : "#1e1e1e";
  const width = unit * (selected ? 2 : 1.1);
  const [ax, ay] = fixture.aim;
  const tilted = Math.hypot(ax - x, ay - y) > 0.05;
  return (
    <g>
      {(selected || tilted) && (
        <line
          x1={x}
          y1={-y}
          x2={ax}
          y2={-ay}
          stroke={stroke}
          strokeWidth={unit}
          strokeDasharray={`${unit * 3}`}
        />
      )}
      {selected && (
        <rect
          x={ax - unit * 5}
          y={-ay - unit * 5}
          width={unit * 10}
          height={unit * 10}
          fill="#66761a"
          stroke="#fff"
          strokeWidth={unit}
          style={{ cursor: "move" }}
          onPointerDown={(e) => onGrab(e, "aim")}
          transform={tilted ? undefined : `translate(${unit * 20} 0)`}
        />
      )}
      <g
        tabIndex={0}
        role="button"
        aria-label={`${name} at ${x.toFixed(2)}, ${y.toFixed(2)} m, group ${fixture.group}${lit ? "" : ", off"}`}
        aria-pressed={selected}
        style={{ cursor: "grab" }}
        onPointerDown={(e) => onGrab(e, "position")}
        onFocus={onFocus}
        onKeyDown={onKey}
      >
        {body === "line" ? (
          <rect
            x={x - unit * 16}
            y={-y - unit * 3}
            width={unit * 32}
            height={unit * 6}
            fill={fill}
            stroke={stroke}
            strokeWidth={width}
            transform={`rotate(${-(fixture.turn_deg ?? 0)} ${x} ${-y})`}
          />
        ) : (
          <circle cx={x} cy={-y} r={r} fill={fill} stroke={stroke} strokeWidth={width} />
        )}
        {body === "pendant" && (
          <path d={`M${x - r} ${-y}h${2 * r}M${x} ${-y - r}v${2 * r}`} stroke={stroke} strokeWidth={width} />
        )}
        {body === "downlight" && (
          <circle
            cx={x}
            cy={-y}
            r={r * 0.45}
            fill={lit ? "#b0501e" : "none"}
            stroke={stroke}
            strokeWidth={width}
          />
        )}
        {body === "washer" && (
          <path
            d={`M${x - r} ${-y}a${r} ${r} 0 0 1 ${2 * r} 0z`}
            fill={stroke}
            transform={`rotate(${-(fixture.turn_deg ?? 0)} ${x} ${-y})`}
          />
        )}
        {body === "table" && (
          <rect x={x - r * 0.4} y={-y - r * 0.4} width={r * 0.8} height={r * 0.8} fill={stroke} />
        )}
        {body === "lantern" && (
          <path
            d={`M${x - r * 0.7} ${-y - r * 0.7}l${r * 1.4} ${r * 1.4}m0 ${-r * 1.4}l${-r * 1.4} ${r * 1.4}`}
            stroke={stroke}
            strokeWidth={width}
          />
        )}
      </g>
    </g>
  );
}

function ScaleBar({ box, unit }: { box: [number, number, number, number]; unit: number }) {
  const length = [1, 2, 5, 10, 20, 50].find((l) => l > box[2] / 7) ?? 100;
  const x = box[0] + unit * 24;
  const y = box[1] + unit * 26;
  return (
    <g pointerEvents="none">
      <path
        d={`M${x} ${y - unit * 4}v${unit * 8}M${x} ${y}h${length}M${x + length} ${y - unit * 4}v${unit * 8}`}
        stroke="#1e1e1e"
        strokeWidth={unit * 1.3}
      />
      <text x={x + length + unit * 6} y={y + unit * 4} fontSize={unit * 12} fontFamily="var(--numbers)">
        {length} m
      </text>
    </g>
  );
}
