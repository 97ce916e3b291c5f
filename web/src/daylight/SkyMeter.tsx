import type { SkyMeter as Meter } from "../api/client";
import { lux } from "../ui/format";

interface Props {
  meter: Meter | null;
  /** Direction pointed at on the diagram: azimuth and altitude in degrees. */
  at: [number, number] | null;
}

function luminance(meter: Meter, [azimuth, altitude]: [number, number]): number | null {
  if (altitude < 0) return null;
  const row = Math.min(Math.floor((altitude / 90) * meter.rows), meter.rows - 1);
  const column = Math.floor((azimuth / 360) * meter.columns) % meter.columns;
  return meter.luminance[row * meter.columns + column];
}

/** What falls on open ground, and what the sky shows where the diagram is pointed at. */
export function SkyMeter({ meter, at }: Props) {
  if (!meter) return <p className="quiet">Known with the first picture.</p>;
  const most = Math.max(meter.direct_lx, meter.diffuse_lx, 1e-9);
  const seen = at ? luminance(meter, at) : null;
  const { moon } = meter;
  return (
    <>
      <div className="bars number" aria-label="Illuminance of open ground">
        <div className="bar">
          <i style={{ width: `${(meter.direct_lx / most) * 34}%`, background: "var(--ember)" }} />
          {meter.by_moon ? "moon" : "sun"} {lux(meter.direct_lx)}
          {meter.sun_kelvin && meter.direct_lx > 0 ? `, ${meter.sun_kelvin} K` : ""}
        </div>
        <div className="bar">
          <i style={{ width: `${(meter.diffuse_lx / most) * 34}%`, background: "var(--slate)" }} />
          sky {lux(meter.diffuse_lx)}
          {meter.sky_kelvin ? `, ${meter.sky_kelvin} K` : ""}
        </div>
      </div>
      <p className="number quiet mb-1">
        total {lux(meter.direct_lx + meter.diffuse_lx)}, upright {lux(meter.vertical_lx)}
        <br />
        {at && seen !== null
          ? `${at[0].toFixed(0)}° / ${at[1].toFixed(0)}°: ${seen >= 10 ? Math.round(seen) : seen.toPrecision(2)} cd/m²`
          : "point at the diagram for cd/m²"}
        {meter.sun_share < 0.999 && (
          <>
            <br />
            clouds let {Math.round(meter.sun_share * 100)} % of the sun by
          </>
        )}
        {moon && (
          <>
            <br />
            moon {Math.round(moon.lit * 100)} % lit, {moon.waxing ? "waxing" : "waning"},{" "}
            {moon.altitude_deg > 0 ? `${moon.altitude_deg.toFixed(0)}° up` : "down"}
          </>
        )}
      </p>
    </>
  );
}
