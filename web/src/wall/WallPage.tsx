import { useEffect, useMemo, useRef } from "react";
import { ProgressBar } from "react-bootstrap";
import { Link, useParams } from "react-router";

import { api, type Occasion, type Plate, type View } from "../api/client";
import { useStore } from "../state/store";
import { Button } from "../ui/Button";
import { dayText, hourOf, hourText, timeLeft } from "../ui/format";
import { Missing } from "../ui/Missing";
import { isUnderway, useNews, usePlates } from "./useWall";
import { OccasionSky } from "./OccasionSky";

/** The project's home: views down, occasions across, the newest plate in each cell. */
export function WallPage() {
  const { slug = "" } = useParams();
  const { saved, missing, load } = useStore();
  const { plates, estimate, reload, hear, make, stop } = usePlates(slug);
  useNews(slug, hear, reload);

  useEffect(() => void load(slug), [slug, load]);
  useEffect(() => {
    if (saved) document.title = `${saved.description.name} · Valleylight`;
  }, [saved]);

  const cells = useMemo(() => {
    const newest = new Map<string, { ready?: Plate; making?: Plate }>();
    for (const plate of plates) {
      const key = `${plate.view} ${plate.occasion}`;
      const cell = newest.get(key) ?? {};
      if (plate.ready && !cell.ready) cell.ready = plate;
      if (!plate.ready && isUnderway(plate) && !cell.making) cell.making = plate;
      newest.set(key, cell);
    }
    return newest;
  }, [plates]);

  if (missing) return <Missing what={missing} />;
  if (!saved || saved.slug !== slug) return <div className="page" aria-busy="true" />;
  const { description: project } = saved;
  const { site } = project;
  const places = `${Math.abs(site.latitude_deg ?? 0).toFixed(2)}° ${(site.latitude_deg ?? 0) >= 0 ? "N" : "S"} ${Math.abs(site.longitude_deg ?? 0).toFixed(2)}° ${(site.longitude_deg ?? 0) >= 0 ? "E" : "W"}`;
  const empty = project.views.flatMap((v) =>
    project.occasions.filter((o) => !cells.has(`${v.key} ${o.key}`)).map((o) => [v.key, o.key] as const),
  );

  return (
    <div className="page">
      <header className="top">
        <Link className="brand" to="/projects">
          Valleylight
        </Link>
        <span className="crumb">
          <b>{project.name}</b>
        </span>
        <nav aria-label="Project">
          <Link to={`/p/${slug}`} aria-current="page">
            Wall
          </Link>
          {project.views.length > 0 && project.occasions.length > 0 && (
            <Link to={`/p/${slug}/bench/${project.views[0].key}/${project.occasions[0].key}`}>Bench</Link>
          )}
          <Link to={`/p/${slug}/catalogue`}>Catalogue</Link>
          <OpenModel slug={slug} />
        </nav>
      </header>
      <main className="wall">
        <div className="wall-title">
          <h1>{project.name}</h1>
          <span className="quiet">
            {places}, {site.place} · {project.views.length} views · {project.occasions.length} occasions
          </span>
        </div>
        {project.views.length === 0 || project.occasions.length === 0 ? (
          <Beginning slug={slug} />
        ) : (
          <div
            className="wall-grid"
            style={{ gridTemplateColumns: `150px repeat(${project.occasions.length}, minmax(190px, 1fr))` }}
          >
            <span />
            {project.occasions.map((o) => (
              <div className="occasion-head" key={o.key}>
                <h2>{o.name}</h2>
                <span className="number quiet">
                  {dayText(o.when)} {hourText(hourOf(o.when))}
                </span>
                <OccasionSky slug={slug} occasion={o} />
              </div>
            ))}
            {project.views.map((v) => (
              <Row key={v.key} slug={slug} view={v} occasions={project.occasions} cells={cells} />
            ))}
          </div>
        )}
      </main>
      <Underway plates={plates} stop={stop}>
        {empty.length > 0 && estimate && (
          <Button
            variant="dark"
            onClick={() => void Promise.all(empty.map(([v, o]) => make(v, o, "sketch")))}
          >
            Fill the empty cells: {timeLeft(empty.length * estimate.sketch)}
          </Button>
        )}
      </Underway>
    </div>
  );
}

function Row(props: {
  slug: string;
  view: View;
  occasions: Occasion[];
  cells: Map<string, { ready?: Plate; making?: Plate }>;
}) {
  const { slug, view, occasions, cells } = props;
  return (
    <>
      <div className="view-head">
        <b>{view.name}</b>
        <span className="quiet number">
          {view.focal_mm} mm at {view.position[2].toFixed(2)} m
        </span>
      </div>
      {occasions.map((o) => {
        const { ready, making } = cells.get(`${view.key} ${o.key}`) ?? {};
        const to = `/p/${slug}/bench/${view.key}/${o.key}`;
        const label = `${view.name}, ${o.name}`;
        if (!ready) {
          return (
            <Link key={o.key} to={to} className="print empty" aria-label={`${label}: not made yet`}>
              <div className="hole">
                <span>
                  {making ? (making.job?.status === "running" ? "being made" : "waiting") : "not made yet"}
                </span>
                {making?.job?.status === "running" && <Progress plate={making} />}
              </div>
            </Link>
          );
        }
        return (
          <Link key={o.key} to={to} className="print" aria-label={label}>
            <img src={api.thumb(ready.id)} alt={`Plate: ${label}`} />
            <span className="label">
              <span>
                {making
                  ? "being made anew"
                  : ready.changed.length === 0
                    ? ready.quality
                    : `${ready.quality}, ${ready.changed[0]} changed since`}
              </span>
              <span className="number">EV {ready.ev100.toFixed(1)}</span>
            </span>
          </Link>
        );
      })}
    </>
  );
}

function Progress({ plate }: { plate: Plate }) {
  const share = (plate.job?.samples_done ?? 0) / plate.samples;
  return <ProgressBar now={share * 100} aria-label="Progress" />;
}

function Underway({
  plates,
  stop,
  children,
}: {
  plates: Plate[];
  stop: (job: number) => void;
  children: React.ReactNode;
}) {
  const queue = plates.filter(isUnderway);
  const running = queue.find((p) => p.job?.status === "running");
  if (queue.length === 0) return children ? <footer className="wall-foot">{children}</footer> : null;
  const share = running ? (running.job?.samples_done ?? 0) / running.samples : 0;
  return (
    <footer className="wall-foot">
      <b>Making {queue.length === 1 ? "a plate" : `${queue.length} plates`}</b>
      <ProgressBar now={share * 100} aria-label="Progress of the plate in the making" />
      <span className="number">
        {running ? `this one: ${timeLeft(running.job?.seconds_left)} left` : "waiting for the renderer"}
      </span>
      {running?.job?.message && <span className="quiet">{running.job.message}</span>}
      <Button variant="outline-dark" onClick={() => queue.forEach((p) => p.job && stop(p.job.id))}>
        Stop
      </Button>
      {children}
    </footer>
  );
}

function OpenModel({ slug }: { slug: string }) {
  const input = useRef<HTMLInputElement>(null);
  const { adopt, notify } = useStore();
  return (
    <>
      <Button variant="outline-dark" onClick={() => input.current?.click()}>
        Open model
      </Button>
      <input
        ref={input}
        type="file"
        hidden
        accept=".glb,model/gltf-binary"
        aria-label="Model file"
        onChange={async (e) => {
          const file = e.target.files?.[0];
          e.target.value = "";
          if (!file) return;
          try {
            adopt(await api.uploadModel(slug, file));
            notify(`${file.name} stands on the stage.`);
          } catch (error) {
            notify((error as Error).message, "error");
          }
        }}
      />
    </>
  );
}

/** A project without views: add a first view and occasion that see the whole stage. */
function Beginning({ slug }: { slug: string }) {
  const { saved, commit } = useStore();
  const hasModel = (saved?.description.stage.models ?? []).length > 0;
  const begin = async () => {
    const size = await api.stage(slug).then(
      (s) => Math.max(...s.size_m, 4),
      () => 10,
    );
    const year = new Date().getFullYear();
    await commit("First view and occasion", [
      {
        part: "view",
        key: "first-view",
        value: {
          key: "first-view",
          name: "First view",
          position: [size * 0.9, -size * 1.1, 1.6],
          target: [0, 0, size * 0.15],
        },
      },
      {
        part: "occasion",
        key: "first-occasion",
        value: { key: "first-occasion", name: "June noon", when: `${year}-06-21T12:00:00` },
      },
    ]);
  };
  return (
    <div className="sheet" style={{ maxWidth: 640 }}>
      <h2 style={{ fontSize: 21 }}>{hasModel ? "Look at it" : "Nothing stands on the stage yet"}</h2>
      <p className="mt-2">
        {hasModel
          ? "The model is on the stage. Add a first view and a first occasion; both can be changed on the bench."
          : "Open a model as glTF binary (.glb) with the button above: metres, with its materials. Then add a first view and occasion."}
      </p>
      {hasModel && (
        <Button variant="dark" onClick={() => void begin()}>
          Add a view and an occasion
        </Button>
      )}
    </div>
  );
}
