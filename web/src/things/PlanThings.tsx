import { useRef, useState } from "react";

import type { Placement, Project, ThingLine } from "../api/client";
import type { Hands } from "../bench/useBench";
import { useStore } from "../state/store";
import { classesOf } from "../ui/classes";
import { useHand } from "./hand";
import { turned, withGroup } from "./groups";
import { movedTo, round } from "./placing";
import { useSnapping } from "./useSnapping";
import { useThings } from "./useThings";
import styles from "./things.module.css";

const cls = classesOf(styles);

interface Props {
  slug: string;
  project: Project;
  hands: Hands;
  /** Metres of a pixel. */
  unit: number;
  /** They are only shown. */
  still: boolean;
}

/** Objects as their outlines on the plan: dragged to move, by their grip to turn, moved and turned by keys as well. */
export function PlanThings({ slug, project, hands, unit, still }: Props) {
  const snap = useSnapping(slug, project);
  const lines = useThings(slug);
  const { armed, chosen, outline, put } = useHand();
  const drag = useRef<{ key: string; grip: "place" | "turn"; by: [number, number]; moved: boolean } | null>(
    null,
  );
  const [held, setHeld] = useState<string | null>(null);
  const things = (project.placements ?? []).filter((p) => p.made && !p.hidden);
  const inHand = (key: string) => {
    const keys = chosen.includes(key) ? chosen : [key];
    return [key, ...keys.filter((k) => k !== key)]
      .map((k) => things.find((p) => p.key === k))
      .filter((p) => p !== undefined);
  };
  const at = (e: React.PointerEvent<SVGElement>): [number, number] => {
    const svg = e.currentTarget.ownerSVGElement!;
    const p = new DOMPoint(e.clientX, e.clientY).matrixTransform(svg.getScreenCTM()!.inverse());
    return [p.x, -p.y];
  };
  const change = (e: React.PointerEvent<SVGElement>, done: boolean) => {
    const d = drag.current;
    const thing = things.find((p) => p.key === d?.key);
    if (!d || !thing) return;
    const [x, y] = at(e);
    if (d.grip === "turn") {
      const angle = (Math.atan2(y - thing.position![1], x - thing.position![0]) * 180) / Math.PI + 90;
      const turn = e.altKey ? Math.round(angle) : Math.round(angle / 5) * 5;
      const value = ((((turn + 180) % 360) + 360) % 360) - 180;
      const list = thing.group ? inHand(d.key) : [thing];
      hands.changes(`Turn ${thing.name}`.slice(0, 120), turned(list, value - (thing.turn_deg ?? 0)), done);
      return;
    }
    const list = inHand(d.key);
    const keys = list.map((p) => p.key);
    const to = snap(thing, [x - d.by[0], y - d.by[1]], e.altKey, keys);
    const changes = movedTo(list, [round(to[0]), round(to[1]), thing.position![2]]);
    if (changes.length) hands.changes(`Move ${thing.name}`.slice(0, 120), changes, done);
  };
  const handlers = (thing: Placement, grip: "place" | "turn") => ({
    onPointerDown: (e: React.PointerEvent<SVGElement>) => {
      if (e.button !== 0 || outline || armed) return; // the press is for what is in hand
      e.stopPropagation();
      const [x, y] = at(e);
      if (e.shiftKey)
        put({ chosen: [thing.key, ...chosen.filter((k) => k !== thing.key)], tab: "objects", armed: null });
      else if (!chosen.includes(thing.key))
        put({ chosen: withGroup(things, thing.key), tab: "objects", armed: null });
      if (thing.locked) return;
      e.currentTarget.setPointerCapture(e.pointerId);
      drag.current = {
        key: thing.key,
        grip,
        by: [x - thing.position![0], y - thing.position![1]],
        moved: false,
      };
      setHeld(thing.key);
    },
    onPointerMove: (e: React.PointerEvent<SVGElement>) => {
      if (!drag.current || !(e.buttons & 1)) return;
      drag.current.moved = true;
      change(e, false);
    },
    onPointerUp: (e: React.PointerEvent<SVGElement>) => {
      if (drag.current?.moved) change(e, true);
      drag.current = null;
      setHeld(null);
    },
    onPointerCancel: () => {
      drag.current = null;
      setHeld(null);
      useStore.getState().setDraft([]);
    },
  });
  const onKey = (e: React.KeyboardEvent, thing: Placement) => {
    if (e.ctrlKey || e.metaKey) return;
    const by = e.shiftKey ? 1 : 0.05;
    const d = { ArrowLeft: [-by, 0], ArrowRight: [by, 0], ArrowUp: [0, by], ArrowDown: [0, -by] }[e.key];
    const turn = { "[": 5, "]": -5 }[e.key];
    const rise = { PageUp: by, PageDown: -by }[e.key];
    const list = inHand(thing.key);
    const [x, y, z] = thing.position!;
    if (d && !thing.locked)
      hands.changes(
        `Move ${thing.name}`.slice(0, 120),
        movedTo(list, [round(x + d[0]), round(y + d[1]), z]),
        "soon",
      );
    else if (rise && !thing.locked)
      hands.changes(`Raise ${thing.name}`.slice(0, 120), movedTo(list, [x, y, round(z + rise)]), "soon");
    else if (turn && !thing.locked)
      hands.changes(`Turn ${thing.name}`.slice(0, 120), turned(list, turn), "soon");
    else if (e.key === "Delete" || e.key === "Backspace") {
      hands.changes(
        `Take ${thing.name} away`.slice(0, 120),
        list.map((p) => ({ part: "placement" as const, key: p.key, value: null })),
        true,
      );
      put({ chosen: [] });
    } else if (e.key === "Escape") put({ chosen: [] });
    else return;
    e.preventDefault();
    e.stopPropagation();
  };
  return (
    <g aria-label="Objects" role="group" pointerEvents={still ? "none" : undefined}>
      {things.map((p) => {
        const line = lines.find((l) => l.key === p.key);
        if (!line || p.repeat?.kind === "strewn") return null; // its outline is shown instead
        const on = chosen.includes(p.key);
        const [x, y] = p.position!;
        return (
          <g
            key={p.key}
            transform={`translate(${x} ${-y}) rotate(${-(p.turn_deg ?? 0)}) scale(${p.scale ?? 1})`}
          >
            <path
              d={shape(line)}
              className={cls(
                `thing ${on ? "on" : ""} ${p.locked ? "locked" : ""} ${held === p.key ? "held" : ""}`,
              )}
              vectorEffect="non-scaling-stroke"
              role="button"
              tabIndex={still ? -1 : 0}
              aria-pressed={on}
              aria-label={`${p.name} at ${x.toFixed(2)}, ${y.toFixed(2)} m, turned ${Math.round(p.turn_deg ?? 0)}°`}
              data-thing={p.key}
              onFocus={() => !on && put({ chosen: withGroup(things, p.key), tab: "objects" })}
              onKeyDown={(e) => onKey(e, p)}
              {...handlers(p, "place")}
            />
            {on && !p.locked && (
              <circle
                className={cls("grip")}
                cy={-line.low[1] + (unit * 16) / (p.scale ?? 1)}
                r={(unit * 6) / (p.scale ?? 1)}
                vectorEffect="non-scaling-stroke"
                data-grip={p.key}
                {...handlers(p, "turn")}
              />
            )}
          </g>
        );
      })}
      {outline && outline.length > 0 && (
        <path
          className={cls("outline")}
          vectorEffect="non-scaling-stroke"
          d={`M${outline.map(([x, y]) => `${x} ${-y}`).join("L")}${outline.length > 2 ? "Z" : ""}`}
        />
      )}
      {things.map((p) =>
        p.repeat?.kind === "strewn" ? (
          <path
            key={p.key}
            className={cls(`outline strewn ${chosen.includes(p.key) ? "on" : ""}`)}
            role="button"
            tabIndex={still ? -1 : 0}
            aria-pressed={chosen.includes(p.key)}
            aria-label={`${p.name}, strewn`}
            data-thing={p.key}
            onFocus={() => put({ chosen: [p.key], tab: "objects" })}
            onPointerDown={(e) => {
              if (e.button !== 0 || outline || armed) return;
              e.stopPropagation();
              put({ chosen: [p.key], tab: "objects" });
            }}
            vectorEffect="non-scaling-stroke"
            d={`M${p.repeat.outline.map(([x, y]) => `${x} ${-y}`).join("L")}Z`}
          />
        ) : null,
      )}
    </g>
  );
}

/** The box of a thing from above, with a notch at its front. */
function shape({ low, high }: ThingLine): string {
  const [a, b, c, d] = [low[0], high[0], -high[1], -low[1]];
  const notch = Math.min(b - a, d - c) * 0.18;
  const x = (a + b) / 2;
  return `M${a} ${c}H${b}V${d}H${x + notch}L${x} ${d - notch}L${x - notch} ${d}H${a}Z`;
}
