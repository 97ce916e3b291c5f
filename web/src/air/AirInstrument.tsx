import { useState } from "react";

import type { Occasion, Project, View } from "../api/client";
import type { Hands } from "../bench/useBench";
import { classesOf } from "../ui/classes";
import { Tabs } from "../ui/Tabs";
import styles from "./air.module.css";
import { FogTab } from "./FogTab";
import { SeasonTab } from "./SeasonTab";
import { WaterTab } from "./WaterTab";
import { WeatherTab } from "./WeatherTab";

const cls = classesOf(styles);

type AirTab = "fog" | "weather" | "season" | "water";
const TABS: [AirTab, string][] = [
  ["weather", "Weather"],
  ["fog", "Fog"],
  ["season", "Season"],
  ["water", "Water"],
];

interface Props {
  slug: string;
  project: Project;
  view: View;
  occasion: Occasion;
  hands: Hands;
}

/** Fog, snow, rain and wind, and what the season shows of the stage. */
export function AirInstrument(props: Props) {
  const [tab, setTab] = useState<AirTab>("weather");
  return (
    <>
      <h2>Air, season</h2>
      <Tabs
        label="Air and season"
        tabs={TABS}
        current={tab}
        choose={setTab}
        className={cls("tabs")}
        tab={cls("tab")}
      />
      {tab === "fog" && <FogTab {...props} />}
      {tab === "weather" && <WeatherTab {...props} />}
      {tab === "season" && <SeasonTab {...props} />}
      {tab === "water" && <WaterTab {...props} />}
    </>
  );
}
