import React, { useEffect, useMemo, useState } from "react";
import { ProgressBar } from "react-bootstrap";
import { Link, useNavigate, useParams } from "react-router";

import { api, type Occasion, type Plate, type View } from "../api/client";
import { useProject } from "../bench/useBench";
import { coordinates } from "../daylight/PlaceFinder";
import { useStore } from "../state/store";
import { Button } from "../ui/Button";
import { dayText, hourOf, hourText, timeLeft } from "../ui/format";
import { Missing } from "../ui/Missing";
import { KeptMenu } from "../ui/KeptMenu";
import { PartMenu } from "../ui/PartMenu";
import { useKeys } from "../ui/useKeys";
import { OpenModel, useDroppedModels } from "../arrival/OpenModel";
import { isUnderway, useNews, usePlates } from "./useWall";
import { AddOccasion, AddView, Beginning } from "./Adding";
import { CellActs, type CellKey } from "./CellActs";
import { OccasionSky } from "./OccasionSky";
import { Queue } from "./Queue";
import { classesOf } from "../ui/classes";
import styles from "./WallPage.module.css";
import roomStyles from "./wall.module.css";

const cls = classesOf(styles, roomStyles);

interface Cell {
  ready?: Plate;
  making?: Plate;
  halted?: Plate;
  /** The newest, where it failed. */
  failed?: Plate;
}

/** The project's home: views down, occasions across, the newest plate in each cell. */
export function WallPage() {
  const { slug: asked = "" } = useParams();
  const slug = asked.toLowerCase();
  const { saved, missing, load, step } = useStore();
  const { plates, known, estimate, reload, hear, make, stop, resume } = usePlates(slug);
  const [filling, setFilling] = useState(false);
  const [chosen, setChosen] = useState<readonly CellKey[]>([]);
  const navigate = useNavigate();
  useNews(slug, hear, reload);
  const { over } = useDroppedModels(slug);

  useEffect(() => void load(slug), [slug, load]);
  useEffect(() => {
    if (asked !== slug) navigate(`/p/${slug}`, { replace: true });
  }, [asked, slug, navigate]);
  useEffect(() => {
    if (saved) document.title = `${saved.description.name} · Valleylight`;
  }, [saved]);
  useKeys({
    "ctrl+z": () => void step("undo"),
    "ctrl+shift+z": () => void step("redo"),
    "ctrl+y": () => void step("redo"),
    Escape: () => setChosen([]),
  });

  const cells = useMemo(() => {
    const found = new Map<string, Cell>();
    for (const plate of plates) {
      const key = `${plate.view} ${plate.occasion}`;
      const cell = found.get(key) ?? {};
      if (plate.ready) cell.ready = !cell.ready || plate.id > cell.ready.id ? plate : cell.ready;
      else if (isUnderway(plate)) cell.making ??= plate;
      else if (plate.job?.status === "stopped") cell.halted ??= plate;
      else if (plate.job?.status === "failed") cell.failed ??= plate;
      found.set(key, cell);
    }
    // What was stopped and has been made since is history.
    for (const cell of found.values()) {
      if (cell.failed && (cell.making || (cell.ready && cell.failed.id < cell.ready.id))) delete cell.failed;
      if (cell.making || (cell.ready && cell.halted && cell.halted.id < cell.ready.id)) delete cell.halted;
    }
    return found;
  }, [plates]);

  const project = useProject();
  if (missing) return <Missing what={missing} />;
  if (!saved || saved.slug !== slug || !project) return <div className="page" aria-busy="true" />;
  const { site } = project;
  const views = project.views ?? [];
  const occasions = project.occasions ?? [];
  const cellOf = (v: string, o: string): Cell => cells.get(`${v} ${o}`) ?? {};
  const all = views.flatMap((v) => occasions.map((o) => [v.key, o.key] as const));
  const empty = all.filter(([v, o]) => {
    const { ready, making, halted } = cellOf(v, o);
    return !ready && !making && !halted;
  });
  const halted = all.flatMap(([v, o]) => cellOf(v, o).halted ?? []);
  const fill = async () => {
    setFilling(true);
    for (const [v, o] of empty) if (!(await make(v, o, "sketch"))) break;
    setFilling(false);
  };
  const nameOf = ([v, o]: CellKey) =>
    `${views.find((x) => x.key === v)?.name ?? v}, ${occasions.find((x) => x.key === o)?.name ?? o}`;
  const isChosen = ([v, o]: CellKey) => chosen.some(([x, y]) => x === v && y === o);
  /** Choose cells, or let go of them where all of them are chosen. */
  const choose = (cells: CellKey[]) =>
    setChosen(
      cells.every(isChosen)
        ? chosen.filter(([v, o]) => !cells.some(([x, y]) => x === v && y === o))
        : [...chosen, ...cells.filter((cell) => !isChosen(cell))],
    );
  const begun = views.length > 0 && occasions.length > 0;

  return (
    <div className="page">
      <header className="top">
        <Link className="brand" to="/projects">
          Valleylight
        </Link>
        <span className="crumb">
          <b title={project.name}>{project.name}</b>
        </span>
        <nav aria-label="Project" className="top-acts">
          <Link to={`/p/${slug}`} aria-current="page">
            Wall
          </Link>
          {begun && <Link to={`/p/${slug}/bench/${views[0].key}/${occasions[0].key}`}>Bench</Link>}
          {begun && <Link to={`/p/${slug}/sequences`}>Sequences</Link>}
          <Link to={`/p/${slug}/catalogue`}>Catalogue</Link>
          <OpenModel slug={slug} />
        </nav>
      </header>
      <main className={`wall ${over ? "over" : ""}`}>
        <div className={cls("wall-title")}>
          <h1 title={project.name}>{project.name}</h1>
          <PartMenu
            about={`project “${project.name}”`}
            name={project.name}
            rename={(name) =>
              void useStore.getState().commit("Rename project", [{ part: "name", key: "", value: name }])
            }
            items={[]}
          />
          <span className="quiet">
            {coordinates(site ?? {})}, {site?.place} · {views.length} views · {occasions.length} occasions
          </span>
          <span className={cls("wall-undo")}>
            <Button
              size="sm"
              variant="outline-dark"
              disabled={!saved.undo}
              title={saved.undo ?? "Nothing to undo"}
              onClick={() => void step("undo")}
            >
              Undo
            </Button>{" "}
            <Button
              size="sm"
              variant="outline-dark"
              disabled={!saved.redo}
              title={saved.redo ?? "Nothing to redo"}
              onClick={() => void step("redo")}
            >
              Redo
            </Button>
          </span>
        </div>
        {over && <p className={cls("drop-word")}>Let go to put the model on the stage</p>}
        {!begun ? (
          <Beginning slug={slug} />
        ) : (
          <div
            className={cls("wall-grid")}
            style={{ gridTemplateColumns: `150px repeat(${occasions.length}, minmax(190px, 1fr))` }}
          >
            <div className="corner">
              <AddOccasion occasions={occasions} />
              <AddView slug={slug} views={views} />
            </div>
            {occasions.map((o) => (
              <div className={cls("occasion-head")} key={o.key}>
                <div className={cls("head-line")}>
                  <Chosen
                    label={`All views at ${o.name}`}
                    on={views.every((v) => isChosen([v.key, o.key]))}
                    act={() => choose(views.map((v) => [v.key, o.key] as const))}
                  />
                  <h2 title={o.name}>{o.name}</h2>
                  <KeptMenu slug={slug} part="occasion" items={occasions} item={o} />
                </div>
                <span className="number quiet">
                  {dayText(o.when)} {hourText(hourOf(o.when))}
                </span>
                <OccasionSky slug={slug} occasion={o} />
              </div>
            ))}
            {views.map((v) => (
              <Row
                key={v.key}
                slug={slug}
                view={v}
                occasions={occasions}
                cellOf={cellOf}
                known={known}
                resume={resume}
                isChosen={isChosen}
                choose={choose}
              >
                <KeptMenu slug={slug} part="view" items={views} item={v} />
              </Row>
            ))}
          </div>
        )}
      </main>
      <Queue
        {...{ project, plates, stop, reload }}
        expected={(quality) => estimate?.[quality === "live" ? "sketch" : quality] ?? 60}
      >
        {chosen.length > 0 && (
          <CellActs
            {...{ slug, chosen, estimate }}
            first={nameOf(chosen[0])}
            plates={chosen.flatMap(([v, o]) => cellOf(v, o).ready?.id ?? [])}
            clear={() => setChosen([])}
            made={reload}
          />
        )}
        {halted.length > 0 && (
          <Button variant="outline-dark" onClick={() => halted.forEach((p) => p.job && resume(p.job.id))}>
            Go on with {halted.length === 1 ? "the plate" : `${halted.length} plates`} stopped
          </Button>
        )}
        {known && begun && chosen.length === 0 && empty.length > 0 && estimate && (
          <Button variant="dark" disabled={filling} onClick={() => void fill()}>
            Fill the empty cells: about {timeLeft(empty.length * estimate.sketch)}
          </Button>
        )}
      </Queue>
    </div>
  );
}

function Row(props: {
  slug: string;
  view: View;
  occasions: Occasion[];
  cellOf: (view: string, occasion: string) => Cell;
  /** The plates have been read: what is missing is missing. */
  known: boolean;
  resume: (job: number) => void;
  isChosen: (cell: CellKey) => boolean;
  choose: (cells: CellKey[]) => void;
  children: React.ReactNode;
}) {
  const { slug, view, occasions, cellOf, known, resume, isChosen, choose, children } = props;
  return (
    <>
      <div className={cls("view-head")}>
        <b title={view.name}>
          <Chosen
            label={`${view.name} at all occasions`}
            on={occasions.every((o) => isChosen([view.key, o.key]))}
            act={() => choose(occasions.map((o) => [view.key, o.key] as const))}
          />
          {view.name}
        </b>
        <span className="quiet number">
          {view.focal_mm} mm at {view.position[2].toFixed(2)} m
        </span>
        {children}
      </div>
      {occasions.map((o) => {
        const { ready, making, halted, failed } = cellOf(view.key, o.key);
        const to = `/p/${slug}/bench/${view.key}/${o.key}`;
        const label = `${view.name}, ${o.name}`;
        const cell = [view.key, o.key] as const;
        const mark = <Chosen label={`Choose ${label}`} on={isChosen(cell)} act={() => choose([cell])} />;
        if (!ready) {
          const state = making
            ? making.job?.status === "running"
              ? "being made"
              : "waiting"
            : halted
              ? `stopped at ${halted.job?.samples_done ?? 0} of ${halted.samples}`
              : "not made yet";
          return (
            <div key={o.key} className={cls(`print empty ${isChosen(cell) ? "chosen" : ""}`)}>
              <Link
                to={to}
                className={cls("hole")}
                aria-label={`${label}: ${making || halted ? state : "not made yet"}`}
              >
                <span>{known ? (failed?.job?.message ?? state) : ""}</span>
                {making?.job?.status === "running" && <Progress plate={making} />}
              </Link>
              <div className={cls("label")}>
                {mark}
                {halted?.job && (
                  <Button
                    size="sm"
                    variant="outline-dark"
                    aria-label={`Go on with ${label}`}
                    onClick={() => resume(halted.job!.id)}
                  >
                    Go on
                  </Button>
                )}
              </div>
            </div>
          );
        }
        return (
          <div key={o.key} className={cls(`print ${isChosen(cell) ? "chosen" : ""}`)}>
            <Link to={to} className={cls("to-bench")} aria-label={label}>
              <img src={api.thumb(ready.id)} alt={`Plate: ${label}`} />
            </Link>
            <div className={cls("label")}>
              {mark}
              <span>
                {making
                  ? "being made anew"
                  : ready.changed.length === 0
                    ? ready.quality
                    : `${ready.quality}, ${ready.changed[0]} changed since`}
              </span>
              <span className="number">EV {ready.ev100.toFixed(1)}</span>
            </div>
            {failed && (
              <p className={cls("failed")} role="note">
                {failed.job!.message}
              </p>
            )}
          </div>
        );
      })}
    </>
  );
}

/** A mark by which cells are chosen. */
function Chosen({ label, on, act }: { label: string; on: boolean; act: () => void }) {
  return <input type="checkbox" className={cls("chooser")} aria-label={label} checked={on} onChange={act} />;
}

function Progress({ plate }: { plate: Plate }) {
  const share = (plate.job?.samples_done ?? 0) / plate.samples;
  return <ProgressBar now={share * 100} aria-label="Progress" />;
}
