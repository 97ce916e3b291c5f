import { useState } from "react";

import type { Project } from "../api/client";
import type { Hands } from "../bench/useBench";
import type { Done } from "../state/store";
import { Value } from "../ui/Value";
import { coordinates, PlaceFinder } from "./PlaceFinder";
import { classesOf } from "../ui/classes";
import roomStyles from "./daylight.module.css";

const cls = classesOf(roomStyles);

/** Where the building stands: a place to start from, or coordinates, time zone and the model's north. */
export function Place({ project, hands }: { project: Project; hands: Hands }) {
  const [open, setOpen] = useState(false);
  const site = project.site ?? {};
  const set = (label: string, patch: object, done: boolean | "soon") =>
    hands.changes(label, [{ part: "site", key: "", value: patch }], done);
  /** Coordinates set by hand are another place: the old name would lie. */
  const byHand = (label: string, patch: { latitude_deg?: number; longitude_deg?: number }, done: Done) => {
    const moved = { latitude_deg: site.latitude_deg, longitude_deg: site.longitude_deg, ...patch };
    set(label, { ...patch, place: `By hand, ${coordinates(moved)}` }, done);
  };
  return (
    <>
      <button className={cls("plain underlined")} aria-expanded={open} onClick={() => setOpen(!open)}>
        {site.place ?? "Place"}, {Math.abs(site.latitude_deg ?? 0).toFixed(1)}°{" "}
        {(site.latitude_deg ?? 0) < 0 ? "south" : "north"}
      </button>
      {open && (
        <div className="mt-1">
          <PlaceFinder
            label="Place"
            value={site.place ?? ""}
            choose={({ name, ...where }) =>
              set(`Place: ${name}`.slice(0, 120), { place: name, ...where }, true)
            }
          />
          <Value
            label="Latitude"
            value={site.latitude_deg ?? 0}
            min={-90}
            max={90}
            step={0.1}
            unit="°"
            onChange={(v, done) => byHand("Latitude", { latitude_deg: v }, done)}
          />
          <Value
            label="Longitude"
            value={site.longitude_deg ?? 0}
            min={-180}
            max={180}
            step={0.1}
            unit="°"
            onChange={(v, done) => byHand("Longitude", { longitude_deg: v }, done)}
          />
          <Value
            label="Model north"
            value={site.north_deg ?? 0}
            min={-180}
            max={180}
            step={1}
            unit="°"
            onChange={(v, done) => set("North", { north_deg: v }, done)}
          />
          <div className="value" style={{ gridTemplateColumns: "84px 1fr" }}>
            <label htmlFor="zone">Time zone</label>
            <input
              key={site.time_zone}
              id="zone"
              type="text"
              defaultValue={site.time_zone ?? "UTC"}
              autoComplete="off"
              onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
              onBlur={(e) => {
                const typed = e.target.value.trim();
                if (typed !== site.time_zone) set("Time zone", { time_zone: typed }, true);
                e.target.value = site.time_zone ?? "UTC";
              }}
            />
          </div>
        </div>
      )}
    </>
  );
}
