import { useEffect, useState } from "react";
import { Form } from "react-bootstrap";
import type { Done } from "../state/store";

import { api, type Occasion, type Project, type SkyType, type SunDay } from "../api/client";
import type { LiveHeader } from "../api/live";
import type { Hands } from "../bench/useBench";
import { clamp, hourOf, hourText, lux, parseHour, withHour } from "../ui/format";
import { Value } from "../ui/Value";
import { SunPath } from "./SunPath";

interface Props {
  slug: string;
  project: Project;
  occasion: Occasion;
  header: LiveHeader | null;
  hands: Hands;
}

const QUARTERS = ["north", "north-east", "east", "south-east", "south", "south-west", "west", "north-west"];

function inWords(azimuth: number, altitude: number): string {
  if (altitude < -12) return "Night; the picture needs lamps.";
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

/** Sun and sky: the diagram, date and hour, sky type, and what falls on open ground. */
export function Daylight({ slug, project, occasion, header, hands }: Props) {
  const [skies, setSkies] = useState<SkyType[]>([]);
  const [day, setDay] = useState<SunDay | null>(null);
  const sun = occasion.sun ?? {};
  const sky = occasion.sky ?? {};
  const byPlace = sun.true_to_place ?? true;
  const date = occasion.when.slice(0, 10);
  const turbidity = sky.turbidity ?? 2.5;
  useEffect(() => void api.skies().then(setSkies, () => undefined), []);
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

  const azimuth = byPlace ? (header?.azimuth_deg ?? null) : (sun.azimuth_deg ?? 180);
  const altitude = byPlace ? (header?.altitude_deg ?? null) : (sun.altitude_deg ?? 35);
  const setSun = (label: string, patch: object, done: Done) =>
    hands.occasion(label, { sun: { ...sun, ...patch } }, done);
  const setSky = (label: string, patch: object, done: Done) =>
    hands.occasion(label, { sky: { ...sky, ...patch } }, done);
  const most = Math.max(header?.sun_lx ?? 0, header?.sky_lx ?? 0, 1e-6);

  return (
    <>
      <h2>Daylight</h2>
      <p className="lead">
        {azimuth !== null && altitude !== null ? inWords(azimuth, altitude) : project.site?.place}
      </p>
      <SunPath
        sun={day}
        azimuth={azimuth}
        altitude={altitude}
        onMove={
          byPlace
            ? undefined
            : (a, h, done) => setSun("Sun by hand", { azimuth_deg: a, altitude_deg: clamp(h, -30, 90) }, done)
        }
      />
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
        <input
          key={date}
          id="occasion-date"
          type="text"
          defaultValue={date}
          autoComplete="off"
          aria-describedby="date-form"
          onFocus={(e) => e.target.select()}
          onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
          onBlur={(e) => {
            const typed = e.target.value.trim();
            if (typed !== date) hands.occasion("Date", { when: `${typed}${occasion.when.slice(10)}` }, true);
            e.target.value = date;
          }}
        />
      </div>
      <span id="date-form" className="visually-hidden">
        Year, month and day as 2026-06-21
      </span>
      <Value
        label="Hour"
        value={hourOf(occasion.when)}
        min={0}
        max={23.983}
        step={1 / 12}
        format={hourText}
        parse={parseHour}
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
      <div className="value" style={{ gridTemplateColumns: "84px 1fr" }}>
        <label htmlFor="sky-type">Sky</label>
        <Form.Select
          id="sky-type"
          size="sm"
          value={sky.cie_type ?? 12}
          onChange={(e) => setSky("Sky", { cie_type: Number(e.target.value) }, true)}
        >
          {skies.map((s) => (
            <option key={s.number} value={s.number}>
              {s.number} {s.name}
            </option>
          ))}
        </Form.Select>
      </div>
      <Value
        label="Turbidity"
        value={turbidity}
        min={1.5}
        max={8}
        step={0.1}
        unit=""
        onChange={(v, done) => setSky("Turbidity", { turbidity: v }, done)}
      />
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
      <Value
        label="Sky level"
        value={sky.level_stops ?? 0}
        min={-6}
        max={6}
        step={0.1}
        unit="stops"
        onChange={(v, done) => setSky("Sky level", { level_stops: v }, done)}
      />
      <hr />
      <h3>On open ground</h3>
      {header ? (
        <div className="bars number">
          <div className="bar">
            <i style={{ width: `${(header.sun_lx / most) * 36}%`, background: "var(--ember)" }} />
            sun {lux(header.sun_lx)}
            {header.sun_kelvin ? `, ${header.sun_kelvin} K` : ""}
          </div>
          <div className="bar">
            <i style={{ width: `${(header.sky_lx / most) * 36}%`, background: "var(--slate)" }} />
            sky {lux(header.sky_lx)}
            {header.sky_kelvin ? `, ${header.sky_kelvin} K` : ""}
          </div>
        </div>
      ) : (
        <p className="quiet">Known with the first picture.</p>
      )}
    </>
  );
}
