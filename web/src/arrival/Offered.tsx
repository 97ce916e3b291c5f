import { Form } from "react-bootstrap";

import type { Arrival, ArrivalChoices } from "../api/client";
import { classesOf } from "../ui/classes";
import styles from "./arrival.module.css";

const cls = classesOf(styles);

interface Props {
  arrival: Arrival;
  choices: ArrivalChoices;
  choose: (some: Partial<ArrivalChoices>) => void;
}

/** What the file knows beside its surfaces, and, in place of another model, what is new and what lost its match. */
export function Offered({ arrival, choices, choose }: Props) {
  const { cameras, lights, site, layers } = arrival.sheet;
  const near = lights.map((light, k) => ({ light, k })).filter(({ light }) => light.kind !== "distant");
  const far = lights.length - near.length;
  const all = (count: number) => Array.from({ length: count }, (_, k) => k);
  const told = [
    site?.place,
    site?.latitude_deg != null &&
      site.longitude_deg != null &&
      `${site.latitude_deg.toFixed(3)}°, ${site.longitude_deg.toFixed(3)}°`,
    site?.elevation_m != null && `${Math.round(site.elevation_m)} m up`,
  ].filter(Boolean);
  return (
    <>
      {(cameras.length > 0 || lights.length > 0 || site || layers.length > 0) && <h3>The file also knows</h3>}
      {cameras.length > 0 && (
        <Form.Check
          id="arrival-cameras"
          checked={(choices.cameras ?? []).length > 0}
          onChange={(e) => choose({ cameras: e.target.checked ? all(cameras.length) : [] })}
          label={`${plural(cameras.length, "camera")}, as views: ${named(cameras.map((c) => c.name))}`}
        />
      )}
      {near.length > 0 && (
        <Form.Check
          id="arrival-lights"
          checked={(choices.lights ?? []).length > 0}
          onChange={(e) => choose({ lights: e.target.checked ? near.map(({ k }) => k) : [] })}
          label={`${plural(near.length, "light")}, as fixtures: ${named(near.map(({ light }) => light.name))}`}
        />
      )}
      {far > 0 && (
        <p className="quiet mb-1">
          {plural(far, "light")} from afar {far > 1 ? "are" : "is"} left to the sun and the sky.
        </p>
      )}
      {told.length > 0 && (
        <Form.Check
          id="arrival-site"
          checked={choices.site}
          onChange={(e) => choose({ site: e.target.checked })}
          label={`Where it stands: ${told.join(", ")}`}
        />
      )}
      {site?.north_deg != null && (
        <Form.Check
          id="arrival-north"
          checked={choices.north_deg === site.north_deg}
          onChange={(e) => choose({ north_deg: e.target.checked ? (site.north_deg ?? null) : null })}
          label={`True north: the plan's up points ${Number(site.north_deg.toFixed(1))}° clockwise of it`}
        />
      )}
      {layers.length > 0 && (
        <p className="quiet mb-1">
          {plural(layers.length, "layer")}: {named(layers, 6)}
        </p>
      )}
      <ComparedWithOld arrival={arrival} choices={choices} choose={choose} />
    </>
  );
}

function ComparedWithOld({ arrival, choices, choose }: Props) {
  const compared = arrival.sheet.compared;
  if (!compared) return null;
  const renamed = choices.renamed ?? {};
  const follow = (name: string, to: string) => {
    const rest = Object.fromEntries(Object.entries(renamed).filter(([old]) => old !== name));
    choose({ renamed: to ? { ...rest, [name]: to } : rest });
  };
  return (
    <>
      <h3>Beside the one before</h3>
      <p className="mb-1">
        {plural(compared.kept, "object")} stayed.
        {compared.new.length > 0 && ` New: ${named(compared.new, 8)}.`}
        {compared.gone.length > 0 && ` Gone: ${named(compared.gone, 8)}.`}
      </p>
      <Form.Check
        id="arrival-as-before"
        checked={choices.as_before}
        onChange={(e) => choose({ as_before: e.target.checked })}
        label="It stands as the one before did"
      />
      {compared.lost.map(({ name }) => (
        <label key={name} className={cls("lost")}>
          <span>The surface set for “{name}” goes to</span>
          <Form.Select size="sm" value={renamed[name] ?? ""} onChange={(e) => follow(name, e.target.value)}>
            <option value="">none; it is kept, unused</option>
            {arrival.sheet.materials.map((m) => (
              <option key={m}>{m}</option>
            ))}
          </Form.Select>
        </label>
      ))}
    </>
  );
}

const plural = (count: number, word: string) => `${count} ${word}${count === 1 ? "" : "s"}`;

function named(names: string[], most = 4): string {
  const rest = names.length - most;
  return names.slice(0, most).join(", ") + (rest > 0 ? ` and ${rest} more` : "");
}
