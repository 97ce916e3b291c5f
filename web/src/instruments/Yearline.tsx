import { useMemo, useRef } from "react";

import { api, type LeafYear, type Occasion, type Project, type YearDay } from "../api/client";
import type { Hands } from "../bench/useBench";
import { type Done, useStore } from "../state/store";
import { clamp, dayFromIndex, dayOfYear, dayText } from "../ui/format";
import { useDrag } from "../ui/useDrag";
import { useModels, useServer } from "../state/server";
import { classesOf } from "../ui/classes";
import styles from "./Yearline.module.css";

const cls = classesOf(styles);

/** Colour of planting and ground month by month, January first. */
const MONTHS = [
  "#c9cdd2",
  "#c6cac6",
  "#b3b795",
  "#9db277",
  "#86a862",
  "#7aa05a",
  "#82a45c",
  "#94a860",
  "#b09e58",
  "#ae8347",
  "#a08a72",
  "#c2c5c9",
];

const SEASONS = MONTHS.map((c, k) => (
  <i key={k} style={{ flex: 1, background: c, borderLeft: k ? "1px solid #1e1e1e" : undefined }} />
));

const NONE: YearDay[] = [];

/** Bare ground and twigs, where no leaf is. */
const BARE = "#9a9188";

/** The year of the planting: of each few days the leaf that turns, or what is left without it. */
export function plantingOf(kinds: LeafYear[]): string[] {
  const turning = kinds.find((k) => k.year.some(([, share]) => (share as number) < 0.5)) ?? kinds[0];
  return turning.year.map(([colour, share]) => ((share as number) > 0.15 ? (colour as string) : BARE));
}

interface Props {
  slug: string;
  project: Project;
  occasion: Occasion;
  hands: Hands;
}

/** The days of the year with their season, and a marker to drag. */
export function Yearline({ slug, project, occasion, hands }: Props) {
  const year = occasion.when.slice(0, 4);
  const turbidity = occasion.sky?.turbidity ?? 2.5;
  const site = useStore((s) => s.saved?.description.site);
  const skies =
    useServer(["year", slug, site, year, turbidity], () => api.year(slug, year, turbidity)) ?? NONE;
  // Hundreds of pieces that a drag along them does not change.
  const days = useMemo(
    () => skies.map((d) => <i key={d.date} style={{ flex: 1, background: d.colour }} />),
    [skies],
  );
  const models = useModels();
  const byDate = occasion.planting?.by_date ?? false;
  const early = occasion.planting?.early_days ?? 0;
  const kinds = useServer(
    ["leaves of the year", slug, models, occasion.key, site, early],
    () => api.leaves(slug, occasion.key),
    { ready: byDate, afterMs: 300 },
  );
  const planting = useMemo(
    () =>
      byDate && kinds?.length
        ? plantingOf(kinds).map((c, k) => <i key={k} style={{ flex: 1, background: c }} />)
        : SEASONS,
    [byDate, kinds],
  );
  const box = useRef<HTMLDivElement>(null);
  const day = occasion.when.slice(0, 10);
  const index = dayOfYear(day);
  const length = dayOfYear(`${day.slice(0, 4)}-12-31`) + 1;
  const move = (to: number, done: Done) => {
    const date = dayFromIndex(day.slice(0, 4), clamp(Math.round(to), 0, length - 1));
    hands.occasion("Date", { when: `${date}${occasion.when.slice(10)}` }, done);
  };
  const at = (clientX: number) => {
    const rect = box.current!.getBoundingClientRect();
    return clamp((clientX - rect.left) / rect.width, 0, 1) * length - 0.5;
  };
  const drag = useDrag({
    start: (e) => move(at(e.clientX), false),
    move: (e) => move(at(e.clientX), false),
    end: (e) => move(at(e.clientX), true),
    cancel: () => useStore.getState().setDraft([]),
  });
  return (
    <div
      ref={box}
      className={cls("yearline")}
      role="slider"
      tabIndex={0}
      aria-label="Day of the year"
      aria-valuemin={1}
      aria-valuemax={length}
      aria-valuenow={index + 1}
      aria-valuetext={dayText(day)}
      {...drag}
      onKeyDown={(e) => {
        if (e.ctrlKey || e.metaKey || e.altKey) return;
        const days = e.shiftKey ? 10 : 1;
        const by = {
          ArrowLeft: -days,
          ArrowDown: -days,
          ArrowRight: days,
          ArrowUp: days,
          PageDown: -30,
          PageUp: 30,
        }[e.key];
        const to = by !== undefined ? index + by : { Home: 0, End: length - 1 }[e.key];
        if (to === undefined) return;
        e.preventDefault();
        move(to, "soon");
      }}
    >
      <div className={cls("yearline-skies")} aria-hidden="true" title="The sky at noon">
        {days}
      </div>
      {project.occasions
        ?.filter((o) => o.key !== occasion.key)
        .map((o) => (
          <i
            key={o.key}
            title={`${o.name}, ${dayText(o.when)}`}
            style={{
              position: "absolute",
              left: `${((dayOfYear(o.when.slice(0, 10)) + 0.5) / length) * 100}%`,
              top: 5,
              bottom: 0,
              borderLeft: "1px solid #fff",
              zIndex: 1,
              pointerEvents: "none",
            }}
          />
        ))}
      <div className={cls("yearline-months")} aria-hidden="true">
        {planting}
      </div>
      <span
        aria-hidden="true"
        style={{
          position: "absolute",
          left: `${((index + 0.5) / length) * 100}%`,
          top: -1,
          transform: "translateX(-50%)",
          borderLeft: "5px solid transparent",
          borderRight: "5px solid transparent",
          borderTop: "6px solid #1e1e1e",
        }}
      />
    </div>
  );
}
