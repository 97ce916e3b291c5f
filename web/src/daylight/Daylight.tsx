import { useEffect, useState } from "react";

import { api, type Occasion, type Project, type SkyMeter, type SunDay, type View } from "../api/client";
import type { LiveHeader } from "../api/live";
import type { Hands } from "../bench/useBench";
import { Tabs } from "../ui/Tabs";
import { HourTab } from "./HourTab";
import { SkyTab } from "./SkyTab";
import { SunTab } from "./SunTab";
import type { Faces } from "./useFaces";

export type DaylightTab = "sun" | "sky" | "hour";
const TABS: [DaylightTab, string][] = [
  ["sun", "Sun"],
  ["sky", "Sky"],
  ["hour", "Which hour"],
];

interface Props {
  slug: string;
  project: Project;
  view: View;
  occasion: Occasion;
  header: LiveHeader | null;
  hands: Hands;
  tab: DaylightTab;
  setTab: (tab: DaylightTab) => void;
  faces: Faces;
  makeSeries: (hours: string[]) => void;
}

/** Sun, sky, and the right hour. */
export function Daylight({
  slug,
  project,
  view,
  occasion,
  header,
  hands,
  tab,
  setTab,
  faces,
  makeSeries,
}: Props) {
  const [day, setDay] = useState<SunDay | null>(null);
  const [meter, setMeter] = useState<SkyMeter | null>(null);
  const date = occasion.when.slice(0, 10);
  const turbidity = occasion.sky?.turbidity ?? 2.5;
  useEffect(() => {
    let alive = true;
    api.sun(slug, date, turbidity).then(
      (d) => alive && setDay(d),
      () => undefined,
    );
    return () => {
      alive = false;
    };
  }, [slug, date, turbidity]);
  // The meter follows what is saved, once the first picture of it has come.
  const settled = header
    ? JSON.stringify([header.azimuth_deg, header.altitude_deg, header.sun_lx, header.sky_lx])
    : "";
  useEffect(() => {
    if (!settled) return;
    let alive = true;
    const wait = window.setTimeout(
      () =>
        api.skyMeter(slug, occasion.key).then(
          (m) => alive && setMeter(m),
          () => undefined,
        ),
      900,
    );
    return () => {
      alive = false;
      window.clearTimeout(wait);
    };
  }, [slug, occasion.key, settled]);

  return (
    <>
      <h2>Daylight</h2>
      <Tabs className="subtabs" label="Daylight" tabs={TABS} current={tab} choose={setTab} />
      {tab === "sun" ? (
        <SunTab {...{ slug, project, view, occasion, header, day, meter, hands }} />
      ) : tab === "sky" ? (
        <SkyTab {...{ slug, occasion, header, hands }} />
      ) : (
        <HourTab {...{ slug, view, occasion, hands, faces, makeSeries }} />
      )}
    </>
  );
}
