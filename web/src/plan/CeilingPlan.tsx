import { useEffect, useMemo, useRef, useState } from "react";

import { api, type Fixture, type FixtureKind, type Occasion, type Project, type View } from "../api/client";
import type { Hands } from "../bench/useBench";
import { useStore } from "../state/store";
import { AreaFigures } from "../meter/MeterCard";
import { Button } from "../ui/Button";
import { placeFixture } from "../fixtures/place";
import { PlanLegend } from "./PlanLegend";
import { useLux } from "./useLux";
import { usePlacing } from "./usePlacing";
import { FixtureSymbol, type Grip, type SymbolActs } from "./FixtureSymbol";
import { KindStrip } from "./KindStrip";
import { type ArrangeFigures, Marks, type PlanTool, PlanTools, START_FIGURES } from "./PlanTools";
import { PlanGround } from "./PlanGround";
import { PlanThings } from "../things/PlanThings";
import { CUT_M } from "../things/useSnapping";
import { Section } from "./Section";
import { home, keptInSight, objectsNear, round, wallsNear } from "./snapping";
import { useKinds } from "./useKinds";
import { useModels, useServer } from "../state/server";
import { classesOf } from "../ui/classes";
import styles from "./CeilingPlan.module.css";
import roomStyles from "./plan.module.css";
import { pathOfSegments } from "./marks";

const cls = classesOf(styles, roomStyles);

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

/** The plan on which fixtures are placed, moved and aimed; with the direct lux on the working plane. */
export function CeilingPlan(props: Props) {
  const { slug, project, view, occasion, hands, chosen: chosenKeys, choose, kind, chooseKind } = props;
  const selected = chosenKeys[0] ?? null;
  const select = (key: string | null, more = false) =>
    choose(key === null ? [] : more ? [key, ...chosenKeys.filter((k) => k !== key)] : [key]);
  const [tool, setTool] = useState<PlanTool>("one");
  const [figures, setFigures] = useState<ArrangeFigures>(START_FIGURES);
  const [line, setLine] = useState<[number, number][]>([]);
  const [box, setBox] = useState<[number, number, number, number] | null>(null);
  const svg = useRef<SVGSVGElement>(null);
  const drag = useRef<{ key: string; grip: Grip; moved: boolean } | null>(null);
  const pan = useRef<[number, number] | null>(null);
  const drawing = useRef(false);
  const [cross, setCross] = useState<[number, number] | null>(null);
  const saved = useStore((s) => s.saved);
  const kinds = useKinds(slug, project);
  const fixtures = useMemo(() => project.fixtures ?? [], [project.fixtures]);
  const placing = usePlacing({
    slug,
    occasion: occasion.key,
    kind,
    fixtures,
    figures,
    choose,
  });
  const models = useModels();

  const plan = useServer(["plan", slug, models], () => api.plan(slug, CUT_M), { told: true });
  const objects = useServer(["objects", slug, models], () => api.objects(slug)) ?? [];
  const framed = plan !== undefined;
  useEffect(() => {
    if (plan) setBox((was) => was ?? home(plan, saved?.description ?? project));
    // The first framing may use any state of the project.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [framed]);

  const { grid, contours, room } = useLux(slug, project, occasion);
  const lines = useMemo(() => pathOfSegments(plan?.segments ?? []), [plan]);
  const kindOf = useMemo(() => new Map((project.kinds ?? []).map((k) => [k.key, k])), [project.kinds]);
  const latest = useRef<SymbolActs | null>(null);
  const acts = useMemo<SymbolActs>(
    () => ({
      grab: (e, f, grip) => latest.current?.grab(e, f, grip),
      focus: (f) => latest.current?.focus(f),
      key: (e, f) => latest.current?.key(e, f),
    }),
    [],
  );

  if (!plan || !box) return <div className={cls("plan-wrap")}>Drawing the plan…</div>;
  const unit = box[2] / 900; // about one pixel in metres
  const middle: [number, number] = [round(box[0] + box[2] / 2), round(-(box[1] + box[3] / 2))];

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
  const { area, counts, measure } = placing;
  const arrange = async (wanted: Parameters<typeof placing.arrange>[0]) => {
    await placing.arrange(wanted);
    setLine([]);
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
    } else if (e.buttons === 1 && drawing.current && line.length > 0 && tool !== "curve") {
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
    if (drawing.current && line.length === 2 && tool !== "curve") drawn([line[0], line[1]]);
    else if (drawing.current && line.length === 1 && tool !== "curve") setLine([]);
    letGo();
  };
  const letGo = () => {
    drag.current = null;
    pan.current = null;
    drawing.current = false;
  };
  /** A row, a rectangle or an area has its second point. */
  const drawn = ([a, b]: [[number, number], [number, number]]) => {
    if (tool === "area") {
      setLine([]);
      void measure(a, b);
    } else if (tool === "row" || tool === "array") void arrange({ how: tool, points: [a, b], ...counts() });
    else setLine([]);
  };
  const place = (e: React.PointerEvent) => {
    if (e.button !== 0) return;
    drawing.current = true;
    const spot = at(e);
    if (begin(props.point && !kind ? spot : snapTo(spot, e.altKey), e.shiftKey)) return;
    select(null);
    pan.current = spot;
  };
  /** What a press at a place of the plan does; false where it takes hold of the paper. */
  const begin = (here: [number, number], several: boolean): boolean => {
    if (props.point && !kind) {
      props.point(...here, CUT_M);
      return true;
    }
    if (tool === "mirror-x" || tool === "mirror-y") {
      void arrange({
        how: "mirror",
        points: [here],
        fixtures: chosenKeys,
        axis: tool === "mirror-x" ? "x" : "y",
      });
      setTool("one");
      return true;
    }
    if (tool === "area" || (kind && (tool === "row" || tool === "array"))) {
      setLine([here]);
      return true;
    }
    if (kind && tool === "curve") {
      setLine([...line, here]);
      return true;
    }
    const chosen = (project.kinds ?? []).find((k) => k.key === kind);
    if (!chosen) return false;
    void put(chosen, here);
    if (!several) chooseKind(null);
    return true;
  };
  const put = async (chosen: FixtureKind, spot: [number, number]) => {
    const key = await placeFixture(slug, { kind: chosen.key, at: spot });
    if (key) select(key);
  };
  latest.current = {
    grab: (e, f, grip) => {
      if (tool === "mirror-x" || tool === "mirror-y") return;
      e.stopPropagation();
      svg.current!.setPointerCapture(e.pointerId);
      drag.current = { key: f.key, grip, moved: false };
      if (e.shiftKey) select(f.key, true);
      else if (!chosenKeys.includes(f.key)) select(f.key);
    },
    focus: (f) => !chosenKeys.includes(f.key) && select(f.key),
    key: (e, f) => {
      if (e.ctrlKey || e.metaKey) return;
      const by = e.shiftKey ? 1 : 0.1;
      const grip: Grip = e.altKey ? "aim" : "position";
      const d = { ArrowLeft: [-by, 0], ArrowRight: [by, 0], ArrowUp: [0, by], ArrowDown: [0, -by] }[e.key];
      const keys = chosenKeys.includes(f.key) ? chosenKeys : [f.key];
      if (d) {
        e.preventDefault();
        const list = fixtures.filter((g) => keys.includes(g.key));
        hands.fixtures(
          grip === "aim" ? "Aim fixture" : "Move fixture",
          list.map((g) => ({
            ...g,
            ...moved(g, grip, round(g[grip][0] + d[0]), round(g[grip][1] + d[1])),
          })),
          "soon",
        );
      } else if (e.key.toLowerCase() === "n") {
        e.preventDefault();
        e.stopPropagation();
        const now = fixtures.findIndex((g) => g.key === f.key);
        focusOn(fixtures[(now + (e.shiftKey ? -1 : 1) + fixtures.length) % fixtures.length].key);
      } else if (e.key === "Escape") {
        e.preventDefault();
        e.stopPropagation();
        select(null);
        svg.current?.focus();
      } else if (e.key === "Delete" || e.key === "Backspace") {
        e.preventDefault();
        hands.changes(
          keys.length > 1 ? `Take ${keys.length} fixtures away` : "Take fixture away",
          keys.map((key) => ({ part: "fixture", key, value: null })),
          true,
        );
        select(null);
        svg.current?.focus();
      }
    },
  };
  const onKey = (e: React.KeyboardEvent) => {
    if (e.target !== e.currentTarget || e.ctrlKey || e.metaKey) return;
    const [cx, cy] = cross ?? [box[0] + box[2] / 2, -(box[1] + box[3] / 2)];
    const by = e.shiftKey ? 1 : 0.25;
    const d = { ArrowLeft: [-by, 0], ArrowRight: [by, 0], ArrowUp: [0, by], ArrowDown: [0, -by] }[e.key];
    if (d) {
      const to: [number, number] = [round(cx + d[0]), round(cy + d[1])];
      setCross(to);
      if (line.length > 0 && tool !== "curve") setLine([line[0], to]);
      setBox((b) => b && keptInSight(b, to));
    } else if (e.key === "Enter" || e.key === " ") {
      setCross([cx, cy]);
      if (line.length > 0 && tool !== "curve") drawn([line[0], [cx, cy]]);
      else begin([cx, cy], e.shiftKey);
    } else if (e.key === "+" || e.key === "=") zoom(1 / 1.25, cx, -cy);
    else if (e.key === "-") zoom(1.25, cx, -cy);
    else if (e.key === "Escape" && line.length > 0) setLine([]);
    else if (e.key.toLowerCase() === "n" && fixtures.length > 0) {
      const now = fixtures.findIndex((f) => f.key === selected);
      const next = fixtures[(now + (e.shiftKey ? -1 : 1) + fixtures.length) % fixtures.length];
      focusOn(next.key);
    } else return;
    e.preventDefault();
    e.stopPropagation();
  };
  const focusOn = (key: string) => {
    select(key);
    svg.current?.querySelector<SVGGElement>(`[data-fixture="${CSS.escape(key)}"]`)?.focus();
  };
  const zoom = (factor: number, cx: number, cy: number) =>
    setBox((b) => b && [cx - (cx - b[0]) * factor, cy - (cy - b[1]) * factor, b[2] * factor, b[3] * factor]);

  return (
    <div className={cls("plan-wrap")}>
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
      <div className={cls("plan")}>
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
        {tool !== "section" && <PlanGround {...{ box, lines, grid, contours, view, unit }} />}
        <svg
          ref={svg}
          className={cls(tool === "section" ? "put-away" : "plan-symbols")}
          viewBox={box.join(" ")}
          aria-label="Ceiling plan"
          aria-describedby="plan-keys"
          role="group"
          tabIndex={tool === "section" ? -1 : 0}
          style={{ cursor: kind ? "copy" : "default" }}
          onKeyDown={onKey}
          onFocus={(e) => e.target === e.currentTarget && setCross((was) => was ?? middle)}
          onBlur={() => setCross(null)}
          onPointerDown={place}
          onPointerCancel={() => {
            letGo();
            useStore.getState().setDraft([]);
          }}
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
          {cross && (
            <path
              className={cls("plan-cross")}
              d={`M${cross[0] - unit * 12} ${-cross[1]}h${unit * 24}M${cross[0]} ${-cross[1] - unit * 12}v${unit * 24}`}
              strokeWidth={unit * 1.6}
            />
          )}
          {line.length > 0 && <Marks line={line} tool={tool} unit={unit} />}
          {fixtures.map((f) => (
            <FixtureSymbol
              key={f.key}
              fixture={f}
              body={kindOf.get(f.kind)?.body ?? "none"}
              name={kindOf.get(f.kind)?.name ?? f.kind}
              lit={f.on !== false && (occasion.levels?.[f.group ?? "Fixtures"] ?? 100) > 0}
              unit={unit}
              selected={chosenKeys.includes(f.key)}
              acts={acts}
            />
          ))}
          <PlanThings {...{ slug, project, hands, unit }} still={!props.point} />
        </svg>
        <span id="plan-keys" className="visually-hidden">
          Arrow keys move a cross, Enter places or points there, plus and minus zoom, N takes the next fixture
          in hand
        </span>
        <PlanLegend tool={tool} places={kind !== null} room={room} />
      </div>
      {area && (
        <div className={cls("plan-area")}>
          <AreaFigures area={area} />
          <Button size="sm" variant="outline-dark" onClick={placing.putAway}>
            Put away
          </Button>
        </div>
      )}
      {!props.point && <KindStrip slug={slug} kinds={kinds} kind={kind} choose={chooseKind} />}
    </div>
  );
}
