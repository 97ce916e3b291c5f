import { useEffect, useState } from "react";
import { Form } from "react-bootstrap";

import { api, type AreaReading, type MeterReading } from "../api/client";
import { lux } from "../fixtures/Readings";
import { useStore } from "../state/store";
import { Button } from "../ui/Button";
import { NumberField } from "../ui/NumberField";
import { useServer } from "../state/server";

interface Props {
  slug: string;
  occasion: string;
  reading: MeterReading | null;
  radius: number;
  setRadius: (radius: number) => void;
  close: () => void;
}

const SIDE_M = 2;

/** What the meter reads where it was pointed. */
export function MeterCard({ slug, occasion, reading, radius, setRadius, close }: Props) {
  const [area, setArea] = useState<AreaReading | null>(null);
  const [busy, setBusy] = useState(false);
  const notify = useStore((s) => s.notify);
  useEffect(() => setArea(null), [reading]);
  const r = reading;
  const around = async () => {
    if (!r?.point || !r.normal) return;
    setBusy(true);
    try {
      setArea(
        await api.area(slug, { occasion, spacing_m: 0.25, direct_only: false, ...square(r.point, r.normal) }),
      );
    } catch (error) {
      notify((error as Error).message, "error");
    } finally {
      setBusy(false);
    }
  };
  const goniometer = async (object: string) => {
    setBusy(true);
    try {
      const line = await api.goniometer(slug, {
        objects: [object],
        name: `${object}, measured`.slice(0, 60),
      });
      notify(`${line.name}: ${Math.round(line.lumens)} lm, in the catalogue.`);
    } catch (error) {
      notify((error as Error).message, "error");
    } finally {
      setBusy(false);
    }
  };
  const groups = Object.entries(r?.lux_by_group ?? {})
    .sort((a, b) => b[1] - a[1])
    .slice(0, 5);
  return (
    <>
      <div className="d-flex align-items-baseline justify-content-between">
        <h2>Meter</h2>
        <Button variant="link" size="sm" onClick={close}>
          put away
        </Button>
      </div>
      <p className="lead">Point at the picture.</p>
      <div className="d-flex gap-3 mb-2" role="radiogroup" aria-label="What is read">
        {(
          [
            [0, "spot"],
            [0.03, "area"],
            [0.1, "wide area"],
          ] as const
        ).map(([size, label]) => (
          <Form.Check
            key={label}
            type="radio"
            name="meter-size"
            id={`meter-${label}`}
            label={label}
            checked={radius === size}
            onChange={() => setRadius(size)}
          />
        ))}
      </div>
      {r && (
        <>
          <dl className="figures number">
            <dt>Luminance</dt>
            <dd>
              {lux(r.luminance_cd_m2)} cd/m²
              {r.greatest_cd_m2 > r.least_cd_m2 * 1.01 &&
                ` (${lux(r.least_cd_m2)} to ${lux(r.greatest_cd_m2)})`}
            </dd>
            <dt>Exposure</dt>
            <dd>
              {r.stops === null
                ? "black"
                : `${r.stops >= 0 ? "+" : "−"}${Math.abs(r.stops).toFixed(1)} stops`}
            </dd>
            <dt>Seen as</dt>
            <dd>{r.kelvin ? `${r.kelvin} K` : "no white"}</dd>
            <dt>Illuminance</dt>
            <dd>{r.lux === null ? "the sky" : `${lux(r.lux)} lx`}</dd>
            {r.light_kelvin && (
              <>
                <dt>Its light</dt>
                <dd>{r.light_kelvin} K</dd>
              </>
            )}
            {r.object && (
              <>
                <dt>Object</dt>
                <dd>
                  {r.object}, {r.distance_m?.toFixed(1)} m
                </dd>
                <dt>Surface</dt>
                <dd>{r.material}</dd>
              </>
            )}
          </dl>
          {groups.length > 1 && (
            <div className="bars" aria-label="Light on the surface by group">
              {groups.map(([name, value]) => (
                <div key={name} className="bar">
                  <span style={{ width: 92 }} className="text-truncate">
                    {name}
                  </span>
                  <i
                    style={{
                      width: `${(38 * value) / groups[0][1]}%`,
                      background: name === "sun" || name === "sky" ? "var(--slate)" : "var(--ember)",
                    }}
                  />
                  <span className="number quiet text-nowrap">{lux(value)} lx</span>
                </div>
              ))}
            </div>
          )}
          {r.point && (
            <div className="row-actions">
              <Button size="sm" variant="outline-dark" disabled={busy} onClick={() => void around()}>
                {busy ? "Measuring…" : `Measure ${SIDE_M} × ${SIDE_M} m here`}
              </Button>
            </div>
          )}
          {r.object && (
            <div className="row-actions">
              <Button
                size="sm"
                variant="outline-dark"
                disabled={busy}
                onClick={() => void goniometer(r.object!)}
              >
                Measure {r.object} as a fixture
              </Button>
            </div>
          )}
          {area && <AreaFigures area={area} />}
        </>
      )}
    </>
  );
}

/** Mean, least and uniformity, held against values of the user's choice. */
export function AreaFigures({ area }: { area: AreaReading }) {
  const targets = useServer(["targets"], api.targets, { fixed: true }) ?? [];
  const [mean, setMean] = useState<number | null>(null);
  const [uniformity, setUniformity] = useState<number | null>(null);
  const verdict = (want: number | null, is: number) =>
    want === null ? null : is >= want ? (
      <span className="lichen"> reached</span>
    ) : (
      <span className="error-text"> short</span>
    );
  return (
    <section aria-label="Measured area" className="mt-2">
      <dl className="figures number">
        <dt>Mean</dt>
        <dd>
          {lux(area.mean_lx)} lx{verdict(mean, area.mean_lx)}
        </dd>
        <dt>Least</dt>
        <dd>{lux(area.least_lx)} lx</dd>
        <dt>Greatest</dt>
        <dd>{lux(area.greatest_lx)} lx</dd>
        <dt>Uniformity</dt>
        <dd>
          {area.uniformity.toFixed(2)}
          {verdict(uniformity, area.uniformity)}
        </dd>
        <dt>Points</dt>
        <dd>
          {area.columns} × {area.rows}
        </dd>
      </dl>
      <Form.Select
        size="sm"
        aria-label="Usual values"
        value=""
        onChange={(e) => {
          const t = targets.find((x) => x.name === e.target.value);
          if (t) {
            setMean(t.mean_lx);
            setUniformity(t.uniformity);
          }
        }}
      >
        <option value="">Usual values, from memory</option>
        {targets.map((t) => (
          <option key={t.name} value={t.name}>
            {t.name}: {t.mean_lx} lx, {t.uniformity}
          </option>
        ))}
      </Form.Select>
      <div className="d-flex gap-2 mt-1">
        <NumberField
          label="Wanted mean in lx"
          placeholder="mean, lx"
          unit="lx"
          min={0}
          step={50}
          value={mean}
          onChange={setMean}
        />
        <NumberField
          label="Wanted uniformity"
          placeholder="uniformity"
          min={0}
          max={1}
          step={0.05}
          value={uniformity}
          onChange={setUniformity}
        />
      </div>
    </section>
  );
}

type Point = [number, number, number];

/** A square about a point, in its surface. */
function square(point: Point, normal: Point): { corner: Point; u: Point; v: Point; normal: Point } {
  const level = Math.abs(normal[2]) > 0.9;
  const u: Point = level ? [1, 0, 0] : unit([-normal[1], normal[0], 0]);
  const v = unit(cross(normal, u));
  const corner = point.map((p, k) => p - (SIDE_M / 2) * (u[k] + v[k])) as Point;
  const scale = (a: Point) => a.map((x) => x * SIDE_M) as Point;
  const square_u = unit(cross(v, normal));
  return { corner, u: scale(square_u), v: scale(v), normal };
}

function cross(a: Point, b: Point): Point {
  return [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]];
}

function unit(a: Point): Point {
  const length = Math.hypot(...a) || 1;
  return a.map((x) => x / length) as Point;
}
