import { lazy, Suspense, useCallback, useEffect, useMemo } from "react";
import { useLocation, useNavigate, useParams } from "react-router";

import { api, type Plate } from "../api/client";
import { useFaces } from "../daylight/useFaces";
import { Dayline } from "../instruments/Dayline";
import { useFinishPointer } from "../finish/useFinishPointer";
import { Yearline } from "../instruments/Yearline";
import { useFixtureClipboard } from "../fixtures/useFixtureClipboard";
import { useSurfaceDrop } from "../surfaces/useSurfaceDrop";
import { useThingPointer } from "../things/useThingPointer";
import { useFixturePointer } from "../fixtures/useFixturePointer";
import { CeilingPlan } from "../plan/CeilingPlan";
import { useStore } from "../state/store";
import { Missing } from "../ui/Missing";
import { useKeys } from "../ui/useKeys";
import { isUnderway, usePlates } from "../wall/useWall";
import { type Desk, JUDGED, SURROUNDS, useDesk } from "./desk";
import { Underway } from "./Underway";
import { useMeter } from "./useMeter";
import { BenchHeader } from "./BenchHeader";
import { Easel } from "./Easel";
import { FirstSteps } from "./FirstSteps";
import { useFirstSteps } from "./firstSteps";
import { Foretold } from "./Foretold";
import { Instrument } from "./Instrument";
import { lensForEv } from "./exposure";
import { KeySheet } from "./KeySheet";
import { pictureActs } from "./pictureActs";
import { PictureOver } from "./PictureOver";
import { PlateStrip } from "./PlateStrip";
import { aspectOf, lensOf, type Step } from "./steps";
import { Placeholders } from "../surfaces/Placeholders";
import { Thread } from "./Thread";
import { useAddress } from "./useAddress";
import { useHands, useLive, useProject } from "./useBench";
import { useWalk } from "./useWalk";
import { useBalancing } from "../balance/useBalancing";
import { useCutOutPointer } from "../compose/useCutOutPointer";
import { useLensPointer } from "../lens/useLensPointer";
import { classesOf } from "../ui/classes";
import styles from "./BenchPage.module.css";

const cls = classesOf(styles);

/** Plates that are compared beside the two. */
const MOST_MORE = 2;
const StageView = lazy(() => import("../stageview/StageView"));
/** The working screen: one large picture and the instruments around it. */
export function BenchPage() {
  const { slug: asked = "", view: askedView = "", occasion: askedOccasion = "" } = useParams();
  const slug = asked.toLowerCase();
  const navigate = useNavigate();
  const location = useLocation();
  const { saved, missing, load, step: undoStep, notify } = useStore();
  const project = useProject();
  const view =
    project?.views?.find((v) => v.key === askedView.toLowerCase()) ?? byChance(project?.views, askedView);
  const occasion =
    project?.occasions?.find((o) => o.key === askedOccasion.toLowerCase()) ??
    byChance(project?.occasions, askedOccasion);
  const viewKey = view?.key ?? "";
  const occasionKey = occasion?.key ?? "";
  const { plates, estimate, reload, hear, make, keepLive, stop, resume } = usePlates(slug);
  const [desk, act] = useDesk();
  const put = useCallback((what: Partial<Desk>) => act({ put: what }), [act]);
  const { mode, alone, fixtures, kind, comparing, metering } = desk;
  const live = useLive(slug, viewKey, occasionKey, hear, reload, mode, alone);
  const { step, sheet, plate: chosen, tab: daylightTab, go: goTo } = useAddress();
  const meter = useMeter(slug, viewKey, occasionKey);
  const setFixtures = useCallback((keys: string[]) => put({ fixtures: keys }), [put]);
  const setKind = useCallback((key: string | null) => put({ kind: key }), [put]);
  const faces = useFaces(slug, viewKey, occasionKey);

  useEffect(() => void load(slug), [slug, load]);
  useEffect(() => {
    document.documentElement.dataset.surround = SURROUNDS[desk.surround];
  }, [desk.surround]);
  // An address without view or occasion, or with other letters, leads to its one true form.
  const search = location.search;
  useEffect(() => {
    if (!viewKey || !occasionKey || saved?.slug !== slug) return;
    if (asked !== slug || askedView !== viewKey || askedOccasion !== occasionKey)
      navigate(`/p/${slug}/bench/${viewKey}/${occasionKey}${search}`, { replace: true });
  }, [asked, slug, askedView, viewKey, askedOccasion, occasionKey, saved?.slug, search, navigate]);

  const hands = useHands(viewKey, occasionKey);
  const walk = useWalk(view, hands);
  const here = useMemo(
    () => plates.filter((p) => p.view === viewKey && p.occasion === occasionKey),
    [plates, viewKey, occasionKey],
  );
  const ready = here.filter((p) => p.ready);
  const making = here.find((p) => !p.ready && isUnderway(p));
  const newest = ready.reduce<Plate | undefined>((a, b) => (a && a.id > b.id ? a : b), undefined);
  const halted = here.find((p) => !p.ready && p.job?.status === "stopped" && p.id > (newest?.id ?? 0));
  const shown = ready.find((p) => p.id === chosen);
  const against = ready.find((p) => p.id === desk.other) ?? ready.find((p) => p.id !== chosen);
  const cannotCompare = !comparing
    ? null
    : ready.length === 0
      ? "Make a plate first, then compare with it"
      : !against
        ? "There is no other plate to compare with: make a second one, or choose “now”"
        : null;

  const choose = useCallback(
    (id: number | null) => {
      if (chosen !== null && chosen !== id) put({ other: chosen });
      goTo({ plate: id, sheet: "picture" });
    },
    [chosen, goTo, put],
  );
  const setStep = (to: Step) => goTo({ step: to });

  const openSurface = (name: string) => {
    put({ surface: name, object: null });
    goTo({ step: "stage", sheet: "picture" });
  };
  const bench = { slug, view: viewKey, occasion: occasionKey, project, hands };
  const dropped = useSurfaceDrop({ ...bench, open: openSurface });
  const things = useThingPointer({
    ...bench,
    otherwise: (met) => put({ surface: met.material, object: met.object }),
  });

  const pointer = useFixturePointer({
    ...bench,
    chosen: fixtures,
    choose: setFixtures,
    kind,
    chooseKind: setKind,
  });

  const finishing = useFinishPointer(bench);
  const lensing = useLensPointer(bench);
  const composing = useCutOutPointer(bench);
  const balancing = useBalancing(slug, shown ?? null, desk.balancing);
  /** A plate as it is looked at now: as it was made, read otherwise, or as it prints. */
  const urlOf = (plate: Plate) =>
    desk.proof
      ? api.plateProof(plate.id, desk.proof.sha256, desk.proof.paperWhite)
      : JUDGED.includes(mode)
        ? api.plateRead(plate.id, mode)
        : api.picture(plate.id);
  const ofView = useMemo(() => plates.filter((p) => p.view === viewKey && p.ready), [plates, viewKey]);

  const makePlate = useCallback(async () => {
    if (await make(viewKey, occasionKey, desk.quality)) goTo({ sheet: "picture" });
  }, [make, viewKey, occasionKey, desk.quality, goTo]);
  const keep = useCallback(async () => {
    const kept = await keepLive(viewKey, occasionKey);
    if (kept) notify("The live picture is kept as a plate.");
  }, [keepLive, viewKey, occasionKey, notify]);

  const makeSeries = async (hours: string[]) => {
    for (const when of hours) if (!(await make(viewKey, occasionKey, "sketch", when))) return;
  };
  const first = useFirstSteps();
  const clipboard = useFixtureClipboard(project, hands, fixtures, setFixtures);

  useKeys({
    "ctrl+z": () => void undoStep("undo"),
    "ctrl+shift+z": () => void undoStep("redo"),
    "ctrl+y": () => void undoStep("redo"),
    ...(step === "fixtures" || sheet !== "picture"
      ? { "ctrl+c": clipboard.copy, "ctrl+v": clipboard.paste, "ctrl+d": clipboard.duplicate }
      : {}),
    l: () => act("next surround"),
    c: () => act({ turn: "comparing" }),
    b: () => act({ turn: "balancing" }),
    j: () => act({ turn: "judging" }),
    p: () => void makePlate(),
    k: () => void keep(),
    m: () => act({ turn: "metering" }),
    f: () => {
      const air = occasion?.air;
      if (air) hands.occasion(air.on ? "Fog off" : "Fog on", { air: { ...air, on: !air.on } }, true);
    },
    "?": () => put({ keys: true }),
    Escape: () => {
      if (!kind && pointer.pointing) pointer.setPointing(null);
      else if (finishing.inPicture) finishing.setInPicture(null);
      else if (lensing.pointing) lensing.setPointing(null);
      else if (things.putAway() || composing.putAway()) return;
      else act("put away");
    },
  });

  if (missing) return <Missing what={missing} />;
  if (!project || saved?.slug !== slug) return <div className="page" aria-busy="true" />;
  if (!view || !occasion) {
    if (!askedView || !askedOccasion)
      return (
        <Missing what="This project has no view and occasion yet: add them on its wall." to={`/p/${slug}`} />
      );
    return (
      <Missing
        what={`This project has no ${view ? "occasion" : "view"} "${view ? askedOccasion : askedView}".`}
        to={`/p/${slug}`}
      />
    );
  }
  document.title = `${view.name}, ${occasion.name} · Valleylight`;
  const altitude = live.header?.altitude_deg ?? null;
  const go = (v: string, o: string) => {
    put({ other: null });
    const kept = new URLSearchParams(location.search);
    kept.delete("plate");
    navigate(`/p/${slug}/bench/${v}/${o}${kept.size ? `?${kept}` : ""}`);
  };

  return (
    <div className="page">
      <BenchHeader
        {...{ slug, project, view, occasion, go, sheet, quality: desk.quality, estimate }}
        setQuality={(quality) => put({ quality })}
        setSheet={(key) => {
          // Plan and stage view are for fixtures, but where one points at surfaces or looks for a place to stand.
          const stays = key === "picture" || step === "lens" || step === "stage";
          goTo(stays ? { sheet: key } : { sheet: key, step: "fixtures" });
        }}
        makePlate={() => void makePlate()}
      />
      <div className={cls("bench")}>
        <Thread
          current={step}
          choose={setStep}
          changed={new Set(newest?.changed ?? [])}
          project={project}
          view={view}
          occasion={occasion}
          altitude={altitude}
          undo={saved.undo ?? null}
          redo={saved.redo ?? null}
          onStep={(way) => void undoStep(way)}
          toggles={[
            ["Balance", "B", desk.balancing, () => act({ turn: "balancing" })],
            ["Compare", "C", comparing, () => act({ turn: "comparing" })],
            ["Judge", "J", desk.judging, () => act({ turn: "judging" })],
            ["Surround", "L", desk.surround > 0, () => act("next surround")],
            ["Keys", "?", desk.keys, () => put({ keys: true })],
            ["First steps", "", first.note !== null, () => first.turn(first.note === null ? 0 : null)],
          ]}
        />
        <main className={cls("middle")}>
          <div className={cls("easel")}>
            {sheet === "plan" ? (
              <CeilingPlan
                {...{ slug, project, view, occasion, hands }}
                chosen={fixtures}
                choose={setFixtures}
                kind={kind}
                chooseKind={setKind}
                point={
                  step === "stage" ? (x, y, height) => void things.point({ plan: [x, y, height] }) : undefined
                }
              />
            ) : sheet === "stage" ? (
              <Suspense fallback={<span>Opening the stage…</span>}>
                <StageView
                  {...{ slug, project, view, occasion, hands }}
                  selected={fixtures[0] ?? null}
                  select={(key) => setFixtures(key === null ? [] : [key])}
                  kind={kind ?? project.kinds?.[0]?.key ?? null}
                  chooseKind={setKind}
                  openView={(key) => go(key, occasion.key)}
                  furnishing={step === "stage"}
                />
              </Suspense>
            ) : (
              <Easel
                live={live}
                shown={shown ?? null}
                against={against ?? null}
                comparing={comparing && against !== undefined}
                cannotCompare={cannotCompare}
                making={making ?? null}
                label={`${view.name}, ${occasion.name}`}
                aspect={aspectOf(view)}
                modes={{
                  mode,
                  setMode: (to) => put({ mode: to }),
                  metering,
                  setMetering: (on) => put({ metering: on }),
                }}
                metered={metering ? meter.spot : null}
                beside={
                  !shown && (
                    <Placeholders slug={slug} view={viewKey} occasion={occasionKey} open={openSurface} />
                  )
                }
                {...pictureActs({
                  ...{ step, metering, meter, things, faces, finishing, lensing },
                  composing: composing.acts,
                  plateShown: shown !== undefined,
                  fixtures: pointer,
                  pickingHour: daylightTab === "hour",
                })}
                over={
                  !shown && (
                    <PictureOver
                      {...{ step, desk, put, view, occasion, hands, bench, finishing }}
                      header={live.header}
                    />
                  )
                }
                drop={step === "stage" && !shown ? dropped : undefined}
                walk={step === "lens" && !shown && !desk.cropping ? walk : undefined}
                instead={balancing.url}
                more={ready.filter((p) => desk.more.includes(p.id))}
                urlOf={urlOf}
                saves={{ slug, plates: ready }}
                setEv={(ev) => hands.lens("Exposure", lensForEv(lensOf(view, occasion.key), ev), true)}
              />
            )}
          </div>
          <div className={cls("under")}>
            <Underway making={making} halted={halted} stop={stop} resume={resume} />
            <Dayline slug={slug} project={project} occasion={occasion} hands={hands} />
            <Yearline slug={slug} project={project} occasion={occasion} hands={hands} />
            <PlateStrip
              live={live}
              plates={ready}
              keep={() => void keep()}
              chosen={shown ? chosen : null}
              others={comparing ? [against?.id ?? 0, ...desk.more] : []}
              together={(id) =>
                put({
                  comparing: true,
                  more: desk.more.includes(id)
                    ? desk.more.filter((n) => n !== id)
                    : [...desk.more, id].slice(-MOST_MORE),
                })
              }
              slug={slug}
              openCell={go}
              foretold={<Foretold slug={slug} view={viewKey} occasion={occasionKey} quality={desk.quality} />}
              choose={choose}
              label={occasion.name}
            />
          </div>
        </main>
        <aside className={cls("instrument")} aria-label="Instrument">
          {first.note !== null && <FirstSteps note={first.note} turn={first.turn} go={setStep} />}
          <Instrument
            {...{
              slug,
              project,
              view,
              occasion,
              hands,
              live,
              desk,
              put,
              step,
              meter,
              pointer,
              finishing,
              faces,
              lensing,
              balancing,
              ofView,
            }}
            plate={shown ?? null}
            against={against ?? null}
            tab={daylightTab}
            go={goTo}
            duplicate={clipboard.duplicate}
            makeSeries={(hours) => void makeSeries(hours)}
          />
        </aside>
      </div>
      <KeySheet show={desk.keys} close={() => put({ keys: false })} />
    </div>
  );
}

/** The first of a list where the address names none. */
function byChance<T>(items: T[] | undefined, asked: string): T | undefined {
  return asked === "" ? items?.[0] : undefined;
}
