import { useState } from "react";
import { Form } from "react-bootstrap";

import {
  api,
  type Occasion,
  type Project,
  type SkyMeter as Meter,
  type SunDay,
  type View,
} from "../api/client";
import type { LiveHeader } from "../api/live";
import type { Hands } from "../bench/useBench";
import type { Done } from "../state/store";
import { Button } from "../ui/Button";
import { clamp, hourOf, hourText, withHour } from "../ui/format";
import { readHour } from "../ui/reading";
import { DateField } from "../ui/DateField";
import { Value } from "../ui/Value";
import { Place } from "./Place";
import { SkyMeter } from "./SkyMeter";
import { SunPath } from "./SunPath";
import { useModels, useServer } from "../state/server";

interface Props {
  slug: string;
  project: Project;
  view: View;
  occasion: Occasion;
  header: LiveHeader | null;
  day: SunDay | null;
  meter: Meter | null;
  hands: Hands;
}

const QUARTERS = ["north", "north-east", "east", "south-east", "south", "south-west", "west", "north-west"];

function inWords(azimuth: number, altitude: number, byMoon: boolean): string {
  if (byMoon)
    return `Night; the moon stands in the ${QUARTERS[Math.round(azimuth / 45) % 8]}. The picture needs lamps.`;
  if (altitude < -12) return "Night; the picture needs lamps.";
  if (altitude < -4) return "Blue hour and after: the sky alone gives light.";
  if (altitude < -0.6) return "The sun is down; the sky alone gives light.";
  const where = QUARTERS[Math.round(azimuth / 45) % 8];
  const how =
    altitude < 8
      ? "very low and warm"
      : altitude < 25
        ? "low"
        : altitude < 50
          ? "of middling height"
          : "high and white";
  return `The sun stands in the ${where}, ${how}.`;
}

/** What the stage hides of the sky costs the renderer some time: the picture goes first. */
const HORIZON_MS = 1500;

/** The sun: the diagram, date and hour, its disc, strength and colour. */
export function SunTab({ slug, project, view, occasion, header, day, meter, hands }: Props) {
  const [at, setAt] = useState<[number, number] | null>(null);
  const sun = occasion.sun ?? {};
  const byPlace = sun.true_to_place ?? true;
  const date = occasion.when.slice(0, 10);
  const models = useModels();
  const hidden =
    useServer(
      ["horizon", slug, view.key, view.position, models, occasion.key],
      () => api.horizon(slug, view.key, occasion.key),
      {
        afterMs: HORIZON_MS,
      },
    ) ?? null;

  const azimuth = byPlace ? (header?.azimuth_deg ?? null) : (sun.azimuth_deg ?? 180);
  const altitude = byPlace ? (header?.altitude_deg ?? null) : (sun.altitude_deg ?? 35);
  const setSun = (label: string, patch: object, done: Done) =>
    hands.occasion(label, { sun: { ...sun, ...patch } }, done);

  /** By place the sun runs along its day: take the hour that comes nearest to where it is dragged. */
  const move = (a: number, h: number, done: Done) => {
    if (!byPlace) {
      setSun("Sun by hand", { azimuth_deg: a, altitude_deg: clamp(h, -30, 90) }, done);
      return;
    }
    if (!day) return;
    let best = 0;
    let least = Infinity;
    day.day.azimuth_deg.forEach((da, k) => {
      const turn = Math.abs(((da - a + 540) % 360) - 180);
      const gap =
        turn * Math.max(Math.cos((h * Math.PI) / 180), 0.1) + Math.abs(day.day.altitude_deg[k] - h) * 0.6;
      if (gap < least && day.day.hours[k] < 24) [best, least] = [k, gap];
    });
    hands.occasion("Hour", { when: withHour(occasion.when, day.day.hours[best]) }, done);
  };

  /** Day to night in one gesture: the end of the blue hour, lamps on, the lens left alone. */
  const toNight = () => {
    const evening = day?.parts.filter((p) => p.name === "civil twilight" && p.start > day.noon)[0];
    const hour = evening ? Math.min(evening.end - 0.05, 23.9) : 23;
    const groups = [...new Set((project.fixtures ?? []).map((f) => f.group ?? "Fixtures"))];
    const levels = Object.fromEntries(groups.map((g) => [g, occasion.levels?.[g] || 100]));
    hands.occasion(
      "Day to night",
      {
        when: withHour(occasion.when, hour),
        levels: { ...occasion.levels, ...levels },
        sun: { ...sun, true_to_place: true },
      },
      true,
    );
  };
  const twilight = day?.parts.filter((p) => ["blue hour", "golden hour"].includes(p.name)) ?? [];

  return (
    <>
      <p className="lead">
        {azimuth !== null && altitude !== null
          ? inWords(azimuth, altitude, byPlace && (header?.by_moon ?? false))
          : project.site?.place}
      </p>
      <SunPath
        sun={day}
        azimuth={azimuth}
        altitude={altitude}
        hidden={hidden}
        onMove={move}
        byPlace={byPlace}
        onPoint={setAt}
      />
      <SkyMeter meter={meter} at={at} />
      <Form.Check
        type="switch"
        id="true-to-place"
        label="True to date and place"
        checked={byPlace}
        onChange={(e) =>
          setSun(
            e.target.checked ? "Sun true to place" : "Sun by hand",
            e.target.checked
              ? { true_to_place: true }
              : {
                  true_to_place: false,
                  azimuth_deg: Number((azimuth ?? 180).toFixed(1)),
                  altitude_deg: clamp(Number((altitude ?? 35).toFixed(1)), -30, 90),
                },
            true,
          )
        }
      />
      <div className="value mt-1">
        <label htmlFor="occasion-date">Date</label>
        <span />
        <DateField
          id="occasion-date"
          value={date}
          change={(day) => hands.occasion("Date", { when: `${day}${occasion.when.slice(10)}` }, true)}
        />
      </div>
      <Value
        label="Hour"
        value={hourOf(occasion.when)}
        min={0}
        max={23.983}
        step={1 / 12}
        format={hourText}
        parse={readHour}
        onChange={(v, done) => hands.occasion("Hour", { when: withHour(occasion.when, v) }, done)}
      />
      {!byPlace && (
        <>
          <Value
            label="Azimuth"
            value={sun.azimuth_deg ?? 180}
            min={0}
            max={360}
            step={1}
            unit="°"
            onChange={(v, done) => setSun("Sun by hand", { azimuth_deg: v }, done)}
          />
          <Value
            label="Altitude"
            value={sun.altitude_deg ?? 35}
            min={-18}
            max={90}
            step={1}
            unit="°"
            onChange={(v, done) => setSun("Sun by hand", { altitude_deg: v }, done)}
          />
        </>
      )}
      <Value
        label="Sun size"
        value={sun.size ?? 1}
        min={0.25}
        max={20}
        step={0.1}
        unit="×"
        log
        onChange={(v, done) => setSun("Sun size", { size: v }, done)}
      />
      <Value
        label="Sun level"
        value={sun.level_stops ?? 0}
        min={-6}
        max={6}
        step={0.1}
        unit="stops"
        onChange={(v, done) => setSun("Sun level", { level_stops: v }, done)}
      />
      <Form.Check
        type="switch"
        id="sun-colour"
        label="Colour by hand"
        checked={sun.kelvin != null}
        onChange={(e) =>
          setSun("Sun colour", { kelvin: e.target.checked ? (meter?.sun_kelvin ?? 5000) : null }, true)
        }
      />
      {sun.kelvin != null && (
        <Value
          label="Colour"
          value={sun.kelvin}
          min={1900}
          max={12000}
          step={50}
          unit="K"
          kelvin
          log
          onChange={(v, done) => setSun("Sun colour", { kelvin: Math.round(v) }, done)}
        />
      )}
      <Form.Check
        type="switch"
        id="sun-disc"
        label="Disc seen by the lens"
        checked={sun.disc ?? true}
        onChange={(e) => setSun("Sun disc", { disc: e.target.checked }, true)}
      />
      <hr />
      {twilight.length > 0 && (
        <p className="number quiet mb-2">
          {twilight.map((p) => (
            <span key={`${p.name}${p.start}`} className="d-block">
              {p.name} {hourText(p.start)} to {hourText(p.end)}
            </span>
          ))}
        </p>
      )}
      <p className="mb-2">
        <Place project={project} hands={hands} />
      </p>
      <Button
        size="sm"
        variant="outline-dark"
        disabled={!day}
        onClick={toNight}
        title="The lens stays as it is"
      >
        Turn to night
      </Button>
    </>
  );
}
