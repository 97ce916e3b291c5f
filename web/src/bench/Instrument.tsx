import type { Occasion, Plate, Project, View } from "../api/client";
import { Daylight, type DaylightTab } from "../daylight/Daylight";
import type { useFaces } from "../daylight/useFaces";
import { Finish } from "../finish/Finish";
import type { FinishPointer } from "../finish/useFinishPointer";
import { Fixtures } from "../fixtures/Fixtures";
import type { useFixturePointer } from "../fixtures/useFixturePointer";
import { ComposeInstrument } from "../compose/ComposeInstrument";
import { Balance } from "../balance/Balance";
import type { Balancing } from "../balance/useBalancing";
import { Judge } from "../judge/Judge";
import { AirInstrument } from "../air/AirInstrument";
import { StageInstrument } from "../instruments/StageInstrument";
import { LensInstrument } from "../lens/LensInstrument";
import type { LensPointer } from "../lens/useLensPointer";
import { MeterCard } from "../meter/MeterCard";
import type { Desk } from "./desk";
import type { Step } from "./steps";
import type { useAddress } from "./useAddress";
import type { Hands, LivePicture } from "./useBench";
import type { useMeter } from "./useMeter";

interface Props {
  slug: string;
  project: Project;
  view: View;
  occasion: Occasion;
  hands: Hands;
  live: LivePicture;
  desk: Desk;
  put: (what: Partial<Desk>) => void;
  step: Step;
  tab: DaylightTab;
  go: ReturnType<typeof useAddress>["go"];
  /** The plate that is looked at in place of the live picture. */
  plate: Plate | null;
  /** The plate it is held against. */
  against: Plate | null;
  meter: ReturnType<typeof useMeter>;
  pointer: ReturnType<typeof useFixturePointer>;
  finishing: FinishPointer;
  faces: ReturnType<typeof useFaces>;
  lensing: LensPointer;
  balancing: Balancing;
  /** Plates of this view, of all occasions. */
  ofView: Plate[];
  duplicate: () => void;
  makeSeries: (hours: string[]) => void;
}

/** What lies at the right of the bench: the meter or the balance where they are taken, else the instrument of the step. */
export function Instrument(props: Props) {
  const {
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
    go,
  } = props;
  const here = { slug, project, occasion, hands };
  if (desk.metering)
    return (
      <MeterCard
        slug={slug}
        occasion={occasion.key}
        reading={meter.reading}
        radius={meter.radius}
        setRadius={meter.setRadius}
        close={() => put({ metering: false })}
      />
    );
  if (desk.balancing)
    return (
      <Balance
        {...{
          project,
          occasion,
          hands,
          live,
          balancing: props.balancing,
          plate: props.plate,
          alone: desk.alone,
        }}
        plates={props.ofView}
        setAlone={(alone) => put({ alone })}
      />
    );
  if (desk.judging)
    return (
      <Judge
        {...{
          slug,
          view: view.key,
          occasion: occasion.key,
          plate: props.plate,
          header: live.header,
          mode: desk.mode,
        }}
        against={desk.comparing ? props.against : null}
        setMode={(mode) => put({ mode })}
        proof={desk.proof}
        setProof={(proof) => put({ proof })}
      />
    );
  switch (step) {
    case "stage":
      return (
        <StageInstrument
          {...{ slug, project, hands, surface: desk.surface, view: view.key, occasion: occasion.key }}
          object={desk.object}
          chooseSurface={(name) => put(name === null ? { surface: null, object: null } : { surface: name })}
        />
      );
    case "daylight":
      return (
        <Daylight
          {...here}
          view={view}
          header={live.header}
          tab={props.tab}
          setTab={(tab) => go({ tab })}
          faces={faces}
          makeSeries={props.makeSeries}
        />
      );
    case "fixtures":
      return (
        <Fixtures
          {...here}
          header={live.header}
          chosen={desk.fixtures}
          choose={(fixtures) => put({ fixtures })}
          duplicate={props.duplicate}
          openPlan={() => go({ sheet: "plan" })}
          alone={desk.alone}
          setAlone={(alone) => put({ alone })}
          pointing={pointer.pointing}
          setPointing={pointer.setPointing}
          kind={desk.kind}
          chooseKind={(kind) => {
            put({ kind });
            go({ sheet: "picture" });
          }}
        />
      );
    case "air":
      return <AirInstrument {...here} view={view} />;
    case "lens":
      return (
        <LensInstrument
          {...{ slug, view, occasion, hands, desk, put }}
          header={live.header}
          pointer={props.lensing}
        />
      );
    case "compose":
      return <ComposeInstrument {...{ slug, project, view, occasion, hands }} header={live.header} />;
    case "finish":
      return (
        <Finish
          {...here}
          view={view}
          plate={props.plate}
          header={live.header}
          pointer={finishing}
          marked={desk.marked}
          mark={(marked) => put({ marked })}
        />
      );
  }
}
