import { api, type Occasion, type Project, type View } from "../api/client";
import type { LiveHeader } from "../api/live";
import type { Hands } from "../bench/useBench";
import { Tabs } from "../ui/Tabs";
import { HourTab } from "./HourTab";
import { SkyTab } from "./SkyTab";
import { SunTab } from "./SunTab";
import type { Faces } from "./useFaces";
import { useServer } from "../state/server";
import { useSunOfDay } from "./useSunOfDay";
import { classesOf } from "../ui/classes";
import styles from "./Daylight.module.css";

const cls = classesOf(styles);

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

/** The sky is asked for its figures once the hand has rested. */
const METER_MS = 900;

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
  const date = occasion.when.slice(0, 10);
  const turbidity = occasion.sky?.turbidity ?? 2.5;
  const day = useSunOfDay(slug, date, turbidity) ?? null;
  // The meter follows what is saved, once the first picture of it has come.
  const settled = header
    ? JSON.stringify([header.azimuth_deg, header.altitude_deg, header.sun_lx, header.sky_lx])
    : "";
  const meter =
    useServer(["sky meter", slug, occasion.key, settled], () => api.skyMeter(slug, occasion.key), {
      afterMs: METER_MS,
      ready: settled !== "",
    }) ?? null;

  return (
    <>
      <h2>Daylight</h2>
      <Tabs className={cls("subtabs")} label="Daylight" tabs={TABS} current={tab} choose={setTab} />
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
