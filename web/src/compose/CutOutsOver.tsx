import type { CutOut, CutOutStanding } from "../api/client";
import type { LiveHeader } from "../api/live";
import type { AtBench } from "../bench/useBench";
import { clamp } from "../ui/format";
import { useDrag } from "../ui/useDrag";
import { classesOf } from "../ui/classes";
import { cutOutsAt, movedTo, type Point, round, setField, turnOf } from "./cutouts";
import { useCutOutHand } from "./hand";
import { useStanding } from "./useCutOuts";
import styles from "./compose.module.css";

const cls = classesOf(styles);
const PERCENT = (v: number) => `${v * 100}%`;
/** Metres and degrees of a step by keys. */
const STEP_M = 0.1;
const TURN_DEG = 15;

/** Who stands in the picture: their edges, the line of the eye where one is in hand, and the hold of its height. */
export function CutOutsOver({ at, header }: { at: AtBench; header: LiveHeader | null }) {
  const { slug, view, occasion, project, hands } = at;
  const { chosen, path, armed, put } = useCutOutHand();
  const own = (project?.cutouts ?? []).filter((c) => c.view === view);
  const standing = useStanding(slug, view, occasion, own);
  if (!project || header === null) return null;
  const here = cutOutsAt(project, view, occasion);
  const lens = project.views!.find((v) => v.key === view)!;
  const ahead = Math.atan2(lens.target[1] - lens.position[1], lens.target[0] - lens.position[0]);
  const first = standing.find((s) => s.key === chosen[0]);
  const held = here.find((c) => c.key === chosen[0]);

  const onKey = (e: React.KeyboardEvent, c: CutOut) => {
    const cutouts = chosen.includes(c.key) ? here.filter((o) => chosen.includes(o.key)) : [c];
    const ordered = [c, ...cutouts.filter((o) => o !== c)];
    const step = e.shiftKey ? 10 * STEP_M : STEP_M;
    const by = { ArrowRight: [1, 0], ArrowLeft: [-1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[e.key];
    if (by && !c.locked) {
      const [x, y] = [by[0] * step, by[1] * step];
      const to: Point = [
        round(c.place[0] + y * Math.cos(ahead) + x * Math.sin(ahead)),
        round(c.place[1] + y * Math.sin(ahead) - x * Math.cos(ahead)),
        c.place[2],
      ];
      hands.changes(`Move ${c.name}`.slice(0, 120), movedTo(ordered, to), "soon");
    } else if (e.key === "[" || e.key === "]") {
      const turn = e.key === "[" ? TURN_DEG : -TURN_DEG;
      const value = (o: CutOut) => turnOf((o.turn_deg ?? 0) + turn);
      hands.changes(`Turn ${c.name}`.slice(0, 120), setField(ordered, "turn_deg", value), "soon");
    } else if (e.key === "+" || e.key === "-") {
      const value = (o: CutOut) =>
        clamp(round((o.height_m ?? 1.7) + (e.key === "+" ? 0.02 : -0.02)), 0.05, 80);
      hands.changes(`Height of ${c.name}`.slice(0, 120), setField(ordered, "height_m", value), "soon");
    } else if (e.key === "Delete" || e.key === "Backspace") {
      hands.changes(
        `Take ${c.name} away`.slice(0, 120),
        ordered.map((o) => ({ part: "cutout" as const, key: o.key, value: null })),
        true,
      );
      put({ chosen: [] });
    } else if (e.key === "Enter" || e.key === " ") put({ chosen: [c.key] });
    else return;
    e.preventDefault();
    e.stopPropagation();
  };

  return (
    <div className={cls("over")}>
      {!armed &&
        !path &&
        here.map((c) => {
          const s = standing.find((line) => line.key === c.key);
          if (!s) return null;
          return (
            <button
              key={c.key}
              className={cls(`edge ${chosen.includes(c.key) ? "chosen" : ""}`)}
              aria-pressed={chosen.includes(c.key)}
              aria-label={`${c.name}, ${s.distance_m.toFixed(1)} m off: arrow keys move, [ and ] turn, + and - change its height`}
              style={{
                left: PERCENT(s.left),
                top: PERCENT(s.top),
                width: PERCENT(s.right - s.left),
                height: PERCENT(s.feet[1] - s.top),
              }}
              onKeyDown={(e) => onKey(e, c)}
            />
          );
        })}
      {first && held && !armed && !path && <EyeLine standing={first} cutout={held} hands={hands} />}
    </div>
  );
}

/** The line of the eye through someone, with their height on a rule beside them: the head is pulled up and down. */
function EyeLine({
  standing: s,
  cutout,
  hands,
}: {
  standing: CutOutStanding;
  cutout: CutOut;
  hands: AtBench["hands"];
}) {
  const height = cutout.height_m ?? 1.7;
  const tall = s.feet[1] - s.top;
  const eye = s.feet[1] - (tall * s.eye_m) / height;
  const heightAt = (e: React.PointerEvent) => {
    const box = (e.currentTarget as HTMLElement).offsetParent!.getBoundingClientRect();
    const y = (e.clientY - box.top) / box.height;
    return clamp(round((height * (s.feet[1] - y)) / tall), 0.05, 80);
  };
  const set = (to: number, done: boolean) =>
    hands.changes(
      `Height of ${cutout.name}`.slice(0, 120),
      setField([cutout], "height_m", () => to),
      done,
    );
  const drag = useDrag({
    start: (e) => {
      e.stopPropagation();
    },
    move: (e) => set(heightAt(e), false),
    end: (e) => set(heightAt(e), true),
    cancel: () => hands.changes("", [], false),
  });
  return (
    <>
      {eye > 0 && eye < 1 && (
        <div className={cls("eye")} style={{ top: PERCENT(eye) }}>
          <span>eye level, {s.eye_m.toFixed(2)} m</span>
        </div>
      )}
      <div
        className={cls("rule")}
        style={{ left: PERCENT(s.right + 0.004), top: PERCENT(s.top), height: PERCENT(tall) }}
      />
      <div
        className={cls("head number")}
        role="slider"
        tabIndex={0}
        aria-label={`Height of ${cutout.name}`}
        aria-orientation="vertical"
        aria-valuemin={0.05}
        aria-valuemax={80}
        aria-valuenow={height}
        aria-valuetext={`${height.toFixed(2)} metres`}
        style={{ left: PERCENT(s.right + 0.004), top: PERCENT(s.top) }}
        onKeyDown={(e) => {
          const by = { ArrowUp: 0.01, ArrowDown: -0.01, PageUp: 0.1, PageDown: -0.1 }[e.key];
          if (!by) return;
          e.preventDefault();
          e.stopPropagation();
          hands.changes(
            `Height of ${cutout.name}`.slice(0, 120),
            setField([cutout], "height_m", () => clamp(round(height + by), 0.05, 80)),
            "soon",
          );
        }}
        {...drag}
      >
        {height.toFixed(2)} m
      </div>
    </>
  );
}
