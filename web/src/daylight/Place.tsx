import { useEffect, useState } from "react";
import { Form } from "react-bootstrap";

import { api, type PlaceLine, type Project } from "../api/client";
import type { Hands } from "../bench/useBench";
import { Value } from "../ui/Value";

/** Where the building stands: a place to start from, or coordinates, time zone and the model's north. */
export function Place({ project, hands }: { project: Project; hands: Hands }) {
  const [places, setPlaces] = useState<PlaceLine[]>([]);
  const [open, setOpen] = useState(false);
  const site = project.site ?? {};
  useEffect(() => {
    if (open) void api.places().then(setPlaces, () => undefined);
  }, [open]);
  const set = (label: string, patch: object, done: boolean | "soon") =>
    hands.changes(label, [{ part: "site", key: "", value: { ...site, ...patch } }], done);
  return (
    <>
      <button className="plain underlined" aria-expanded={open} onClick={() => setOpen(!open)}>
        {site.place ?? "Place"}, {Math.abs(site.latitude_deg ?? 0).toFixed(1)}°{" "}
        {(site.latitude_deg ?? 0) < 0 ? "south" : "north"}
      </button>
      {open && (
        <div className="mt-1">
          <div className="value" style={{ gridTemplateColumns: "84px 1fr" }}>
            <label htmlFor="place">Place</label>
            <Form.Select
              id="place"
              size="sm"
              value={places.some((p) => p.name === site.place) ? site.place : ""}
              onChange={(e) => {
                const found = places.find((p) => p.name === e.target.value);
                if (!found) return;
                const { name, ...where } = found;
                set(`Place: ${name}`, { place: name, ...where }, true);
              }}
            >
              <option value="">By coordinates</option>
              {places.map((p) => (
                <option key={p.name}>{p.name}</option>
              ))}
            </Form.Select>
          </div>
          <Value
            label="Latitude"
            value={site.latitude_deg ?? 0}
            min={-90}
            max={90}
            step={0.1}
            unit="°"
            onChange={(v, done) => set("Latitude", { latitude_deg: v }, done)}
          />
          <Value
            label="Longitude"
            value={site.longitude_deg ?? 0}
            min={-180}
            max={180}
            step={0.1}
            unit="°"
            onChange={(v, done) => set("Longitude", { longitude_deg: v }, done)}
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
