import { useRef, useState } from "react";
import { ButtonGroup } from "react-bootstrap";
import { useSearchParams } from "react-router";

import { api, type FilmOfPlates, type Plate, type Project } from "../api/client";
import { Button } from "../ui/Button";
import { Value } from "../ui/Value";
import { useDrag } from "../ui/useDrag";
import { classesOf } from "../ui/classes";
import { usePlates } from "../wall/useWall";
import type { Runs } from "./useSequences";
import styles from "./sequence.module.css";

const cls = classesOf(styles);
const KINDS: [FilmOfPlates["kind"], string][] = [
  ["fade", "Day to night"],
  ["wipe", "Before and after"],
  ["push", "Push into a still"],
];

/** A film of plates that are made: two that go over into each other, or one that the lens is pushed into. */
export function FromPlates({
  slug,
  project,
  runs,
  made,
}: {
  slug: string;
  project: Project;
  runs: Runs;
  made: () => void;
}) {
  const { plates } = usePlates(slug);
  const ready = plates.filter((p) => p.ready);
  const [search] = useSearchParams();
  const named = (which: string) => (search.has(which) ? Number(search.get(which)) : null);
  const [first, setFirst] = useState<number | null>(() => named("first"));
  const [second, setSecond] = useState<number | null>(() => named("second"));
  const of = (plate: number | null) => ready.find((p) => p.id === plate);
  // Two plates of two views cannot go by their lights: an edge goes over them.
  const [chosenKind, setKind] = useState<FilmOfPlates["kind"] | null>(null);
  const kind =
    chosenKind ?? (of(first) && of(second) && of(first)!.view !== of(second)!.view ? "wipe" : "fade");
  const [seconds, setSeconds] = useState(4);
  const [way, setWay] = useState({ ahead: 1, right: 0, up: 0 });
  const a = ready.find((p) => p.id === first) ?? ready[0];
  // Two plates fade where they are of one view; a wipe asks for one format.
  const fits = (p: Plate) =>
    p.id !== a?.id &&
    (kind === "fade" ? p.view === a?.view : Math.abs((p.width * a.height) / (p.height * a.width) - 1) < 0.02);
  const others = a ? ready.filter(fits) : [];
  const b = others.find((p) => p.id === second) ?? others[0];
  const nameOf = (p: Plate) =>
    `${project.views?.find((v) => v.key === p.view)?.name ?? p.view}, ${project.occasions?.find((o) => o.key === p.occasion)?.name ?? p.occasion}, ${p.quality}`;
  const make = async () => {
    if (!a) return;
    const common = { seconds, rate: 24, first: a.id };
    const film: FilmOfPlates | null =
      kind === "push" ? { kind, ...common, ...way } : b ? { kind, ...common, second: b.id } : null;
    if (film && (await runs.ofPlates(film))) made();
  };
  if (ready.length === 0) return <p>There is no plate yet: make one on the bench first.</p>;
  return (
    <section className={cls("from-plates")} aria-label="Film of plates">
      <h2>Film of plates</h2>
      <ButtonGroup size="sm" aria-label="Kind of film">
        {KINDS.map(([k, label]) => (
          <Button
            key={k}
            variant={kind === k ? "dark" : "outline-dark"}
            aria-pressed={kind === k}
            onClick={() => setKind(k)}
          >
            {label}
          </Button>
        ))}
      </ButtonGroup>
      <Row
        label={kind === "push" ? "Still" : "First"}
        plates={ready}
        chosen={a?.id}
        choose={setFirst}
        nameOf={nameOf}
      />
      {kind !== "push" &&
        (others.length > 0 ? (
          <Row label="Second" plates={others} chosen={b?.id} choose={setSecond} nameOf={nameOf} />
        ) : (
          <p className="error-text">
            {kind === "fade"
              ? "There is no other plate of this view: make it at a second occasion."
              : "There is no other plate of this format."}
          </p>
        ))}
      {kind === "push" && a && <Way plate={a} way={way} put={setWay} />}
      <Value
        label="Lasts"
        value={seconds}
        min={0.5}
        max={20}
        step={0.5}
        unit="s"
        onChange={(v) => setSeconds(v)}
      />
      <div className={cls("acts")}>
        <Button variant="dark" size="sm" disabled={kind !== "push" && !b} onClick={() => void make()}>
          Make the film
        </Button>
      </div>
      {kind === "push" && (
        <p className="quiet">
          No light is traced: what the still did not see is drawn out from its edge, and the film says so.
        </p>
      )}
    </section>
  );
}

interface RowProps {
  label: string;
  plates: Plate[];
  chosen: number | undefined;
  choose: (plate: number) => void;
  nameOf: (plate: Plate) => string;
}

function Row({ label, plates, chosen, choose, nameOf }: RowProps) {
  return (
    <div className={cls("plates")} role="group" aria-label={label}>
      <span>{label}</span>
      <div>
        {plates.map((p) => (
          <button
            key={p.id}
            aria-pressed={p.id === chosen}
            aria-label={nameOf(p)}
            title={nameOf(p)}
            onClick={() => choose(p.id)}
          >
            <img src={api.thumb(p.id)} alt="" loading="lazy" />
          </button>
        ))}
      </div>
    </div>
  );
}

interface WayProps {
  plate: Plate;
  way: { ahead: number; right: number; up: number };
  put: (way: WayProps["way"]) => void;
}

/** Where the lens goes, drawn on the still: the mark is dragged to where it heads, the frame about it is what it ends at. */
function Way({ plate, way, put }: WayProps) {
  const box = useRef<HTMLDivElement>(null);
  const before = useRef(way);
  const at = (e: React.PointerEvent) => {
    const r = box.current!.getBoundingClientRect();
    const share = (v: number) => Math.round(Math.min(Math.max(v, -1), 1) * 100) / 100;
    return {
      ...way,
      right: share(((e.clientX - r.left) / r.width) * 2 - 1),
      up: share(1 - ((e.clientY - r.top) / r.height) * 2),
    };
  };
  const drag = useDrag({
    start: (e) => {
      before.current = way;
      put(at(e));
    },
    move: (e) => put(at(e)),
    end: (e) => put(at(e)),
    cancel: () => put(before.current),
  });
  const onKey = (e: React.KeyboardEvent) => {
    const by = { ArrowLeft: [-0.05, 0], ArrowRight: [0.05, 0], ArrowUp: [0, 0.05], ArrowDown: [0, -0.05] }[
      e.key
    ];
    if (!by) return;
    e.preventDefault();
    const held = (v: number) => Math.round(Math.min(Math.max(v, -1), 1) * 100) / 100;
    put({ ...way, right: held(way.right + by[0]), up: held(way.up + by[1]) });
  };
  const size = 100 * (1 - 0.3 * Math.max(way.ahead, 0));
  return (
    <>
      <div
        ref={box}
        className={cls("way")}
        tabIndex={0}
        role="application"
        aria-label={`Where the lens goes: ${way.right} to the right, ${way.up} up`}
        onKeyDown={onKey}
        {...drag}
      >
        <img src={api.thumb(plate.id)} alt="" draggable={false} />
        <span
          className={cls("ends-at")}
          style={{
            width: `${size}%`,
            height: `${size}%`,
            left: `${(100 - size) * (0.5 + way.right / 2)}%`,
            top: `${(100 - size) * (0.5 - way.up / 2)}%`,
          }}
        />
        <i style={{ left: `${50 + way.right * 50}%`, top: `${50 - way.up * 50}%` }} />
      </div>
      <Value
        label="Ahead"
        value={Math.round(way.ahead * 100)}
        min={-100}
        max={100}
        step={5}
        unit="%"
        onChange={(v) => put({ ...way, ahead: v / 100 })}
      />
    </>
  );
}
