import { lazy, Suspense, useCallback, useEffect, useMemo, useState } from "react";
import { ButtonGroup, ProgressBar } from "react-bootstrap";
import { Link, useNavigate, useParams } from "react-router";

import { api, type MeterReading, type Plate, type Quality, Refusal, type Spot } from "../api/client";
import type { PictureMode } from "../api/live";
import { AirInstrument } from "../instruments/AirInstrument";
import { Daylight, type DaylightTab } from "../daylight/Daylight";
import { useFaces } from "../daylight/useFaces";
import { Dayline } from "../instruments/Dayline";
import { Finish } from "../instruments/Finish";
import { Fixtures } from "../fixtures/Fixtures";
import { LensInstrument } from "../instruments/LensInstrument";
import { StageInstrument } from "../instruments/StageInstrument";
import { Yearline } from "../instruments/Yearline";
import { useFixturePointer } from "../fixtures/useFixturePointer";
import { MeterCard } from "../meter/MeterCard";
import { CeilingPlan } from "../plan/CeilingPlan";
import { useStore } from "../state/store";
import { Button } from "../ui/Button";
import { timeLeft } from "../ui/format";
import { Missing } from "../ui/Missing";
import { isUnderway, usePlates } from "../wall/useWall";
import { Balance } from "./Balance";
import { Easel } from "./Easel";
import { lensForEv } from "./exposure";
import { KeySheet } from "./KeySheet";
import { PlateStrip } from "./PlateStrip";
import type { Step } from "./steps";
import { Thread } from "./Thread";
import { useHands, useLive, useProject } from "./useBench";

const WorkingView = lazy(() => import("../plan/WorkingView"));
const SURROUNDS = ["light", "middle", "dark"];
type Sheet = "picture" | "plan" | "stage";
const SHEETS: [Sheet, string][] = [
  ["picture", "Picture"],
  ["plan", "Ceiling plan"],
  ["stage", "Stage view"],
];

/** The working screen: one large picture and the instruments around it. */
export function BenchPage() {
  const { slug = "", view: viewKey = "", occasion: occasionKey = "" } = useParams();
  const navigate = useNavigate();
  const { saved, missing, load, step: undoStep, notify } = useStore();
  const project = useProject();
  const { plates, estimate, reload, hear, make, stop, resume } = usePlates(slug);
  const [alone, setAlone] = useState<string | null>(null);
  const [mode, setMode] = useState<PictureMode>("picture");
  const live = useLive(slug, viewKey, occasionKey, hear, reload, mode, alone);
  const [step, setStep] = useState<Step>("daylight");
  const [sheet, setSheet] = useState<Sheet>("picture");
  const [quality, setQuality] = useState<Quality>("proof");
  const [chosen, setChosen] = useState<number | null>(null);
  const [other, setOther] = useState<number | null>(null);
  const [comparing, setComparing] = useState(false);
  const [balancing, setBalancing] = useState(false);
  const [keys, setKeys] = useState(false);
  const [surround, setSurround] = useState(0);
  const [fixtures, setFixtures] = useState<string[]>([]);
  const [metering, setMetering] = useState(false);
  const [reading, setReading] = useState<MeterReading | null>(null);
  const [metered, setMetered] = useState<{ x: number; y: number } | null>(null);
  const [meterRadius, setMeterRadius] = useState(0);
  const [kind, setKind] = useState<string | null>(null);
  const [surface, setSurface] = useState<string | null>(null);
  const [daylightTab, setDaylightTab] = useState<DaylightTab>("sun");
  const faces = useFaces(slug, viewKey, occasionKey);

  useEffect(() => void load(slug), [slug, load]);
  useEffect(() => {
    document.documentElement.dataset.surround = SURROUNDS[surround];
  }, [surround]);

  const view = project?.views?.find((v) => v.key === viewKey);
  const occasion = project?.occasions?.find((o) => o.key === occasionKey);
  const hands = useHands(view, occasion);
  const here = useMemo(
    () => plates.filter((p) => p.view === viewKey && p.occasion === occasionKey),
    [plates, viewKey, occasionKey],
  );
  const ready = here.filter((p) => p.ready);
  const making = here.find((p) => !p.ready && isUnderway(p));
  const halted = here.find((p) => !p.ready && p.job?.status === "stopped" && p.id > (ready[0]?.id ?? 0));
  const shown = ready.find((p) => p.id === chosen);
  const against = ready.find((p) => p.id === other) ?? ready.find((p) => p.id !== chosen);

  const choose = useCallback((id: number | null) => {
    setChosen((was) => {
      if (was !== null && was !== id) setOther(was);
      return id;
    });
    setSheet("picture");
  }, []);

  const pickSurface = useCallback(
    async (place: Partial<Spot>) => {
      try {
        const met = await api.pick(slug, { view: viewKey, occasion: occasionKey, ...place });
        if (met) setSurface(met.material);
        else notify("Nothing of the stage is there: it is the sky.", "info");
      } catch (error) {
        if (error instanceof Refusal) notify(error.message, "error");
      }
    },
    [slug, viewKey, occasionKey, notify],
  );

  const readMeter = useCallback(
    async (x: number, y: number, radius: number) => {
      setMetered({ x, y });
      try {
        setReading(await api.meter(slug, { view: viewKey, occasion: occasionKey, x, y, radius }));
      } catch (error) {
        notify((error as Error).message, "error");
      }
    },
    [slug, viewKey, occasionKey, notify],
  );

  const pointer = useFixturePointer({
    slug,
    view: viewKey,
    occasion: occasionKey,
    project,
    hands,
    chosen: fixtures,
    choose: setFixtures,
    kind,
    chooseKind: setKind,
  });

  const makePlate = useCallback(async () => {
    if (await make(viewKey, occasionKey, quality)) setSheet("picture");
  }, [make, viewKey, occasionKey, quality]);

  const makeSeries = async (hours: string[]) => {
    for (const when of hours) if (!(await make(viewKey, occasionKey, "sketch", when))) return;
  };

  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      const target = e.target as HTMLElement;
      const typing = target instanceof HTMLInputElement && target.type === "text";
      if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === "z") {
        e.preventDefault();
        void undoStep(e.shiftKey ? "redo" : "undo");
        return;
      }
      if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === "y") {
        e.preventDefault();
        void undoStep("redo");
        return;
      }
      if (typing || e.ctrlKey || e.metaKey || e.altKey || target instanceof HTMLSelectElement) return;
      const key = e.key.toLowerCase();
      if (key === "l") setSurround((s) => (s + 1) % SURROUNDS.length);
      else if (key === "c") setComparing((c) => !c);
      else if (key === "b") setBalancing((b) => !b);
      else if (key === "p") void makePlate();
      else if (key === "m") setMetering((m) => !m);
      else if (e.key === "?") setKeys(true);
      else return;
      e.preventDefault();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [undoStep, makePlate]);

  if (missing) return <Missing what={missing} />;
  if (!project || saved?.slug !== slug) return <div className="page" aria-busy="true" />;
  if (!view || !occasion) {
    return (
      <Missing
        what={`This project has no ${view ? "occasion" : "view"} "${view ? occasionKey : viewKey}".`}
      />
    );
  }
  document.title = `${view.name}, ${occasion.name} · Valleylight`;
  const altitude = live.header?.altitude_deg ?? null;
  const go = (v: string, o: string) => {
    setChosen(null);
    setOther(null);
    navigate(`/p/${slug}/bench/${v}/${o}`);
  };

  return (
    <div className="page">
      <header className="top">
        <Link className="brand" to="/projects">
          Valleylight
        </Link>
        <span className="crumb">
          <Link to={`/p/${slug}`} title={`To the wall of ${project.name}`}>
            {project.name.split(",")[0]}
          </Link>{" "}
          /{" "}
          <Chooser
            label="View"
            value={view.key}
            items={project.views ?? []}
            onChoose={(key) => go(key, occasion.key)}
          />{" "}
          at{" "}
          <Chooser
            label="Occasion"
            value={occasion.key}
            items={project.occasions ?? []}
            onChoose={(key) => go(view.key, key)}
          />
        </span>
        <nav aria-label="Sheets" role="tablist">
          {SHEETS.map(([key, name]) => (
            <button
              key={key}
              className="tab"
              role="tab"
              aria-selected={sheet === key}
              onClick={() => {
                setSheet(key);
                if (key !== "picture" && !(key === "plan" && step === "stage")) setStep("fixtures");
              }}
            >
              {name}
            </button>
          ))}
          <ButtonGroup size="sm" aria-label="Quality of the next plate">
            {(["sketch", "proof", "press"] as const).map((q) => (
              <Button
                key={q}
                variant={quality === q ? "dark" : "outline-dark"}
                aria-pressed={quality === q}
                title={estimate ? `about ${timeLeft(estimate[q])}` : undefined}
                onClick={() => setQuality(q)}
              >
                {q[0].toUpperCase() + q.slice(1)}
              </Button>
            ))}
          </ButtonGroup>
          <Button
            variant="dark"
            onClick={() => void makePlate()}
            title={estimate ? `about ${timeLeft(estimate[quality])}` : undefined}
          >
            Make plate
          </Button>
        </nav>
      </header>
      <div className="bench">
        <Thread
          current={step}
          choose={setStep}
          changed={new Set(ready[0]?.changed ?? [])}
          project={project}
          view={view}
          occasion={occasion}
          altitude={altitude}
          undo={saved.undo ?? null}
          redo={saved.redo ?? null}
          onStep={(way) => void undoStep(way)}
          toggles={[
            ["Balance", "B", balancing, () => setBalancing(!balancing)],
            ["Compare", "C", comparing, () => setComparing(!comparing)],
            ["Surround", "L", surround > 0, () => setSurround((surround + 1) % SURROUNDS.length)],
            ["Keys", "?", keys, () => setKeys(true)],
          ]}
        />
        <main className="middle">
          <div className="easel">
            {sheet === "plan" ? (
              <CeilingPlan
                slug={slug}
                project={project}
                view={view}
                occasion={occasion}
                hands={hands}
                chosen={fixtures}
                choose={setFixtures}
                kind={kind}
                chooseKind={setKind}
                point={
                  step === "stage" ? (x, y, height) => void pickSurface({ plan: [x, y, height] }) : undefined
                }
              />
            ) : sheet === "stage" ? (
              <Suspense fallback={<span>Opening the stage…</span>}>
                <WorkingView
                  slug={slug}
                  project={project}
                  view={view}
                  hands={hands}
                  selected={fixtures[0] ?? null}
                  select={(key) => setFixtures(key === null ? [] : [key])}
                  kind={kind ?? project.kinds?.[0]?.key ?? null}
                  chooseKind={setKind}
                />
              </Suspense>
            ) : (
              <Easel
                live={live}
                shown={shown ?? null}
                against={against ?? null}
                comparing={comparing && ready.length > 0}
                nothingToCompare={comparing && ready.length === 0}
                making={making ?? null}
                label={`${view.name}, ${occasion.name}`}
                modes={{ mode, setMode, metering, setMetering }}
                metered={metering && metered ? { ...metered, radius: meterRadius } : null}
                point={
                  metering
                    ? (x, y) => void readMeter(x, y, meterRadius)
                    : step === "fixtures" && pointer.ready
                      ? (x, y) => void pointer.point(x, y, true)
                      : step === "stage"
                        ? (x, y) => void pickSurface({ picture: [x, y] })
                        : step === "daylight" && daylightTab === "hour" && faces.picking
                          ? (x, y) => void faces.point(x, y)
                          : undefined
                }
                drag={
                  step === "fixtures" && pointer.pointing && !metering
                    ? (x, y) => void pointer.point(x, y, false)
                    : undefined
                }
                setEv={(ev) =>
                  hands.lens("Exposure", lensForEv(view.lens_at?.[occasion.key] ?? view.lens, ev), true)
                }
              />
            )}
          </div>
          <div className="under">
            {making && <Making plate={making} stop={stop} />}
            {!making && halted?.job && (
              <div className="d-flex align-items-center gap-3 pb-2" role="status">
                <b>{halted.quality}</b>
                <span className="number flex-grow-1">
                  stopped at {halted.job.samples_done} of {halted.samples} samples
                </span>
                <Button size="sm" variant="outline-dark" onClick={() => resume(halted.job!.id)}>
                  Go on
                </Button>
              </div>
            )}
            <Dayline slug={slug} project={project} occasion={occasion} hands={hands} />
            <Yearline slug={slug} project={project} occasion={occasion} hands={hands} />
            <PlateStrip
              live={live}
              plates={ready}
              chosen={chosen}
              other={comparing ? (against?.id ?? null) : null}
              choose={choose}
              label={occasion.name}
            />
          </div>
        </main>
        <aside className="instrument" aria-label="Instrument">
          {metering ? (
            <MeterCard
              slug={slug}
              occasion={occasion.key}
              reading={reading}
              radius={meterRadius}
              setRadius={(radius) => {
                setMeterRadius(radius);
                if (metered) void readMeter(metered.x, metered.y, radius);
              }}
              close={() => setMetering(false)}
            />
          ) : balancing ? (
            <Balance project={project} occasion={occasion} hands={hands} live={live} />
          ) : step === "stage" ? (
            <StageInstrument
              slug={slug}
              project={project}
              hands={hands}
              surface={surface}
              chooseSurface={setSurface}
            />
          ) : step === "daylight" ? (
            <Daylight
              slug={slug}
              project={project}
              view={view}
              occasion={occasion}
              header={live.header}
              hands={hands}
              tab={daylightTab}
              setTab={setDaylightTab}
              faces={faces}
              makeSeries={(hours) => void makeSeries(hours)}
            />
          ) : step === "fixtures" ? (
            <Fixtures
              slug={slug}
              project={project}
              occasion={occasion}
              hands={hands}
              header={live.header}
              chosen={fixtures}
              choose={setFixtures}
              openPlan={() => setSheet("plan")}
              alone={alone}
              setAlone={setAlone}
              pointing={pointer.pointing}
              setPointing={pointer.setPointing}
              kind={kind}
              chooseKind={(key) => {
                setKind(key);
                setSheet("picture");
              }}
            />
          ) : step === "air" ? (
            <AirInstrument slug={slug} occasion={occasion} hands={hands} />
          ) : step === "lens" ? (
            <LensInstrument view={view} occasion={occasion} header={live.header} hands={hands} />
          ) : (
            <Finish
              slug={slug}
              project={project}
              view={view}
              occasion={occasion}
              plate={shown ?? null}
              hands={hands}
            />
          )}
        </aside>
      </div>
      <KeySheet show={keys} close={() => setKeys(false)} />
    </div>
  );
}

function Chooser(props: {
  label: string;
  value: string;
  items: { key: string; name: string }[];
  onChoose: (key: string) => void;
}) {
  return (
    <select
      aria-label={props.label}
      value={props.value}
      onChange={(e) => props.onChoose(e.target.value)}
      style={{ border: 0, background: "none", fontWeight: 600, color: "var(--ink)", maxWidth: 190 }}
    >
      {props.items.map((item) => (
        <option key={item.key} value={item.key}>
          {item.name}
        </option>
      ))}
    </select>
  );
}

function Making({ plate, stop }: { plate: Plate; stop: (job: number) => void }) {
  const { job } = plate;
  if (!job) return null;
  const share = job.samples_done / plate.samples;
  return (
    <div className="d-flex align-items-center gap-3 pb-2" role="status">
      <b>{plate.quality}</b>
      <ProgressBar
        className="flex-grow-1"
        now={share * 100}
        aria-label={`Progress of the ${plate.quality}`}
      />
      <span className="number">
        {job.status === "waiting"
          ? "waiting its turn"
          : `${job.samples_done} of ${plate.samples} samples · ${timeLeft(job.seconds_left)} left`}
      </span>
      {job.message && <span className="quiet">{job.message}</span>}
      <Button size="sm" variant="outline-dark" onClick={() => stop(job.id)}>
        Stop
      </Button>
    </div>
  );
}
