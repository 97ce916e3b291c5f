import { useCallback, useEffect, useState } from "react";
import { Link, useNavigate, useParams, useSearchParams } from "react-router";

import { api, type Sequence } from "../api/client";
import { useProject } from "../bench/useBench";
import { type Done, useStore } from "../state/store";
import { Button } from "../ui/Button";
import { KeptMenu } from "../ui/KeptMenu";
import { Missing } from "../ui/Missing";
import { useKeys } from "../ui/useKeys";
import { classesOf } from "../ui/classes";
import { Bar } from "./Bar";
import { begun, momentAt, withStation } from "./edits";
import { FromPlates } from "./FromPlates";
import { Making } from "./Making";
import { PathPlan } from "./PathPlan";
import { Score } from "./Score";
import { Settings } from "./Settings";
import { frameAt } from "./times";
import { usePlayer } from "./usePlayer";
import { useCourse, useMoment, useRuns } from "./useSequences";
import styles from "./sequence.module.css";

const cls = classesOf(styles);

/** Sequences of a project: the moment in the picture, the course under it, the path in plan, frames in the making. */
export function SequencePage() {
  const { slug: asked = "", key = "" } = useParams();
  const slug = asked.toLowerCase();
  const [search, setSearch] = useSearchParams();
  const navigate = useNavigate();
  const { saved, missing, load, step, commit, commitSoon, setDraft, notify } = useStore();
  const project = useProject();
  const sequences = project?.sequences ?? [];
  const sequence = sequences.find((s) => s.key === key) ?? sequences[0] ?? null;
  const runs = useRuns(slug);
  const { course, refusal, met } = useCourse(slug, sequence);
  const [second, setSecond] = useState(0);
  /** The head is being dragged: pictures may be smaller, but must keep coming. */
  const [scrubbing, setScrubbing] = useState(false);
  const [station, setStation] = useState<number | null>(null);
  const [chosen, setChosen] = useState<readonly [number, number] | null>(null);
  const fromPlates = search.get("from") === "plates";
  const ofPlates = runs.runs.filter((r) => r.kind !== "traced");
  const own = runs.runs.filter((r) => r.sequence === sequence?.key);
  /** The run looked at; none: the live picture of the moment. */
  const [shownRun, setShownRun] = useState<number | null | "newest">("newest");
  const all = fromPlates ? ofPlates : own;
  const run =
    shownRun === null
      ? null
      : (all.find((r) => r.id === shownRun) ?? (shownRun === "newest" ? all[0] : null) ?? null);
  const [place, setPlace] = useState(0);
  const player = usePlayer(run, setPlace);
  const live = useMoment(slug, fromPlates || run ? null : sequence, second, scrubbing, runs.reload);

  useEffect(() => void load(slug), [slug, load]);
  useEffect(() => {
    if (project) document.title = `${sequence?.name ?? "Sequences"} · Valleylight`;
  }, [project, sequence?.name]);
  const seconds = run && run.kind !== "traced" ? Number(run.wanted.seconds) : (sequence?.seconds ?? 6);
  const last = run ? (run.numbers[run.numbers.length - 1] ?? 1) : 1;
  const number = run && run.made.length > 0 ? run.made[Math.min(place, run.made.length - 1)] : null;
  const head = run && number !== null && player.playing ? (number / Math.max(last, 1)) * seconds : second;

  const go = useCallback(
    (to: number, dragging: boolean) => {
      setSecond(to);
      setScrubbing(dragging);
      player.setPlaying(false);
      if (run) setPlace(Math.max(frameAt(run, to / seconds), 0));
    },
    [player, run, seconds],
  );
  /** Look at a frame that is made, of the run whose frames lie under the picture. */
  const openFrame = (n: number) => {
    const of = run ?? own[0];
    if (!of) return;
    player.setPlaying(false);
    setShownRun(of.id);
    setPlace(Math.max(of.made.indexOf(n), 0));
    setSecond((n / Math.max(of.numbers[of.numbers.length - 1] ?? 1, 1)) * seconds);
  };
  const change = useCallback(
    (label: string, patch: Partial<Sequence>, done: Done) => {
      if (!sequence) return;
      setShownRun(null);
      const list = [{ part: "sequence" as const, key: sequence.key, value: patch }];
      if (done === "soon") commitSoon(label, list);
      else if (done) void commit(label, list);
      else setDraft(list);
    },
    [sequence, commit, commitSoon, setDraft],
  );
  const open = (to: string) => {
    setSecond(0);
    setStation(null);
    setChosen(null);
    setShownRun("newest");
    navigate(`/p/${slug}/sequences/${to}`);
  };
  const begin = async () => {
    const view = project?.views?.find((v) => v.key === search.get("view")) ?? project?.views?.[0];
    const occasion =
      project?.occasions?.find((o) => o.key === search.get("occasion")) ?? project?.occasions?.[0];
    if (!project || !view || !occasion)
      return notify("A sequence begins with a view and an occasion: add them on the wall.", "error");
    const made = begun(project, view, occasion.key);
    if (await commit("Add sequence", [{ part: "sequence", key: made.key, value: made }])) open(made.key);
  };
  const addStation = () => {
    const moment = course && momentAt(course.moments, second);
    if (!sequence || !moment || !course) return;
    const made = withStation(sequence, moment, course.arrives);
    change("Add station", { stations: made.stations }, true);
  };
  const removeStation = (k: number) => {
    if (!sequence) return;
    setStation(null);
    change("Remove station", { stations: (sequence.stations ?? []).filter((_, n) => n !== k) }, true);
  };
  useKeys({
    "ctrl+z": () => void step("undo"),
    "ctrl+shift+z": () => void step("redo"),
    "ctrl+y": () => void step("redo"),
    " ": () => run && player.setPlaying(!player.playing),
    Delete: () => station !== null && removeStation(station),
    Escape: () => {
      setStation(null);
      setChosen(null);
    },
  });

  if (missing) return <Missing what={missing} />;
  if (!saved || saved.slug !== slug || !project) return <div className="page" aria-busy="true" />;
  const views = project.views ?? [];
  const occasions = project.occasions ?? [];
  const view = views.find((v) => v.key === sequence?.view);
  const aspect = run
    ? run.width / run.height
    : view
      ? (view.format?.[0] ?? 16) / (view.format?.[1] ?? 9)
      : 16 / 9;
  const picture = run ? (number === null ? null : api.frame(run, number, "screen.jpg")) : live.url;
  return (
    <div className="page">
      <header className="top">
        <Link className="brand" to="/projects">
          Valleylight
        </Link>
        <h1 className="visually-hidden">Sequences of {project.name}</h1>
        <span className="crumb">
          <Link to={`/p/${slug}`} title={`To the wall of ${project.name}`}>
            {project.name.split(",")[0]}
          </Link>
        </span>
        <nav aria-label="Project" className="top-acts">
          <Link to={`/p/${slug}`}>Wall</Link>
          {views.length > 0 && occasions.length > 0 && (
            <Link
              to={`/p/${slug}/bench/${sequence?.view ?? views[0].key}/${sequence?.occasion ?? occasions[0].key}`}
            >
              Bench
            </Link>
          )}
          <Link to={`/p/${slug}/sequences`} aria-current="page">
            Sequences
          </Link>
          <Link to={`/p/${slug}/catalogue`}>Catalogue</Link>
        </nav>
      </header>
      <div className={cls("room")}>
        <nav className={cls("list")} aria-label="Sequences">
          {sequences.map((s) => (
            <button
              key={s.key}
              aria-pressed={!fromPlates && s.key === sequence?.key}
              onClick={() => open(s.key)}
            >
              {s.name}
            </button>
          ))}
          <button
            aria-pressed={fromPlates}
            onClick={() => {
              setShownRun("newest");
              setSearch({ from: "plates" });
            }}
          >
            Films of plates
          </button>
          <Button size="sm" variant="outline-dark" onClick={() => void begin()}>
            New sequence
          </Button>
        </nav>
        <main className={cls("left")}>
          <div
            className={cls("screen")}
            style={{ aspectRatio: aspect, width: `min(100%, calc((100vh - 320px) * ${aspect}))` }}
          >
            {picture ? (
              <img
                src={picture}
                alt={
                  run ? `Frame ${number} of ${run.name}` : `${sequence?.name ?? ""} at ${second.toFixed(2)} s`
                }
              />
            ) : (
              <p>{wordFor(fromPlates, sequence, run !== null, live.error ?? refusal ?? null)}</p>
            )}
            {run && (
              <span className={cls("said")}>
                {run.kind === "traced"
                  ? `${run.version} version`
                  : run.kind === "push"
                    ? "made from a still"
                    : "made of plates"}
                {number !== null && `, frame ${number}`}
                {run.changed && ", changed since"}
              </span>
            )}
          </div>
          <Bar
            {...{ run, number, seconds, chosen }}
            second={head}
            playing={player.playing}
            play={player.setPlaying}
            loaded={player.loaded}
            again={(frames) => {
              if (run) runs.again(run.id, frames);
              setChosen(null);
            }}
            toLive={run && !fromPlates ? () => setShownRun(null) : undefined}
            toFrames={!run && own.length > 0 && !fromPlates ? () => setShownRun("newest") : undefined}
          />
          {!fromPlates && sequence && course && (
            <Score
              {...{ sequence, course, chosen, go, change }}
              run={run ?? own[0] ?? null}
              open={openFrame}
              second={head}
              choose={setChosen}
            />
          )}
          {fromPlates ? (
            <Making {...{ runs, all: ofPlates, run }} show={setShownRun} />
          ) : (
            sequence && (
              <Making {...{ runs, run }} all={own} show={setShownRun} sequence={sequence} course={course} />
            )
          )}
          {fromPlates && run && (
            <PlatesStrip
              run={run}
              place={place}
              go={(k) => {
                player.setPlaying(false);
                setPlace(k);
              }}
            />
          )}
        </main>
        <aside className={cls("side")} aria-label="Instrument">
          {fromPlates ? (
            <FromPlates slug={slug} project={project} runs={runs} made={() => setShownRun("newest")} />
          ) : sequence ? (
            <>
              <div className={cls("title")}>
                <h2>{sequence.name}</h2>
                <KeptMenu slug={slug} part="sequence" items={sequences} item={sequence} copied={open} />
              </div>
              {refusal && <p className="error-text">{refusal}</p>}
              {course && view && (
                <PathPlan
                  {...{ slug, view, sequence, course, station, change }}
                  second={head}
                  met={met ?? []}
                  choose={setStation}
                />
              )}
              <div className={cls("acts")}>
                <Button size="sm" variant="outline-dark" onClick={addStation} disabled={!course}>
                  Add station
                </Button>
                {station !== null && (
                  <Button size="sm" variant="outline-dark" onClick={() => removeStation(station)}>
                    Remove station {station + 1}
                  </Button>
                )}
              </div>
              {(met ?? []).length > 0 && (
                <p className="error-text" role="status">
                  The lens runs into{" "}
                  {met!.map((m) => `${m.object || m.material} at ${m.second.toFixed(1)} s`).join(", ")}. Move
                  the stations about it.
                </p>
              )}
              <Settings {...{ project, sequence, station, change }} />
            </>
          ) : (
            <p>
              No sequence yet. A sequence is a view whose lens, sun, season or lamps change over some seconds:
              begin one above.
            </p>
          )}
        </aside>
      </div>
    </div>
  );
}

function wordFor(
  fromPlates: boolean,
  sequence: Sequence | null,
  ofRun: boolean,
  error: string | null,
): string {
  if (error) return error;
  if (ofRun) return "The first frame is being made…";
  if (fromPlates) return "Choose plates beside, and make a film of them.";
  return sequence ? "Opening the stage…" : "Begin a sequence with “New sequence”.";
}

/** All frames of a film of plates, one thin mark each. */
function PlatesStrip({
  run,
  place,
  go,
}: {
  run: { made: number[]; numbers: number[] };
  place: number;
  go: (k: number) => void;
}) {
  return (
    <input
      type="range"
      className={cls("plates-strip")}
      aria-label="Frame"
      min={0}
      max={Math.max(run.made.length - 1, 0)}
      value={Math.min(place, Math.max(run.made.length - 1, 0))}
      onChange={(e) => go(Number(e.target.value))}
    />
  );
}
