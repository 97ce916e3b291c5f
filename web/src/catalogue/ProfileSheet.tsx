import { api, type ProfileFigures, type ProfileLine } from "../api/client";
import { PolarCurve } from "../fixtures/PolarCurve";
import { Button } from "../ui/Button";
import { PatientImage } from "../ui/PatientImage";
import { useServer } from "../state/server";
import { classesOf } from "../ui/classes";
import styles from "./ProfileSheet.module.css";

const cls = classesOf(styles);

const ZONES = ["0–30°", "0–40°", "0–60°", "60–80°", "80–90°", "0–90°", "90–120°", "90–180°", "0–180°"];

interface Props {
  line: ProfileLine;
  compared: boolean;
  add: () => void;
  compare: () => void;
  alike: () => void;
}

/** One profile: the light it makes, its curve, and every figure a plan asks for. */
export function ProfileSheet({ line, compared, add, compare, alike }: Props) {
  const figures = useServer(["profile", line.sha256], () => api.profile(line.sha256), {
    told: true,
    fixed: true,
  });
  const f = figures;
  return (
    <aside className={cls("profile-sheet")} aria-label={`Profile ${line.name}`}>
      <h2>{line.name}</h2>
      <p className="lead">
        {line.shape}
        {line.maker ? `, ${line.maker}` : ""}
      </p>
      <div className="row-actions mt-0 mb-2">
        <Button size="sm" variant="dark" onClick={add}>
          Add to the project
        </Button>
        <Button size="sm" variant="outline-dark" aria-pressed={compared} onClick={compare}>
          {compared ? "Compared" : "Compare"}
        </Button>
        <Button size="sm" variant="outline-dark" onClick={alike}>
          Similar to this
        </Button>
      </div>
      <PatientImage
        className={cls("portrait")}
        src={api.profilePicture(line.sha256, "floor")}
        alt={`Light of ${line.name} on a floor from 2.7 m, with contours of lux`}
        width={400}
        height={320}
      />
      {f && (
        <>
          <PolarCurve figures={{ ...f, peak_cd: line.peak_cd, kind: { name: line.name } }} size={190} />
          <p className="quiet text-center mb-2">through: C0 to C180, dashed: C90 to C270</p>
          <dl className="figures number">
            <Row name="Flux" value={`${Math.round(line.lumens)} lm`} />
            {f.efficacy_lm_w !== null && (
              <Row name="Power" value={`${line.watts} W, ${Math.round(f.efficacy_lm_w)} lm/W`} />
            )}
            {f.stated_lumens !== null && (
              <Row name="Lamps" value={`${Math.round(f.stated_lumens)} lm stated`} />
            )}
            {f.efficiency !== null && <Row name="Output" value={`${Math.round(100 * f.efficiency)} %`} />}
            <Row name="Peak" value={`${Math.round(line.peak_cd)} cd`} />
            <Row name="Beam" value={`${line.beam_deg.map(Math.round).join("° × ")}°`} />
            <Row name="Field" value={`${f.field_deg.map(Math.round).join("° × ")}°`} />
            <Row name="Symmetry" value={f.symmetry} />
            <Row name="Below" value={`${Math.round(100 * f.downward)} %`} />
            <Row name="Flux code" value={f.flux_code.join(" ")} />
            <Row
              name="Spacing"
              value={
                f.spacing[0] === null ? "no light below" : f.spacing.map((s) => s!.toFixed(2)).join(" / ")
              }
            />
            <Row
              name="Opening"
              value={
                f.opening === "point" ? "point" : `${f.opening} ${f.opening_m.slice(0, 2).join(" × ")} m`
              }
            />
            <Row name="Format" value={line.source_format} />
          </dl>
          {f.lamp_sets.map((s) => (
            <p key={s} className="number quiet mb-1">
              {s}
            </p>
          ))}
          {line.warnings.map((w) => (
            <p key={w} className="error-text mb-1">
              {w}
            </p>
          ))}
          <details>
            <summary>Flux by zones</summary>
            <dl className="figures number">
              {f.zones_lm.map((lm, k) => (
                <Row
                  key={ZONES[k]}
                  name={ZONES[k]}
                  value={`${Math.round(lm)} lm, ${Math.round((100 * lm) / line.lumens)} %`}
                />
              ))}
            </dl>
          </details>
          <details>
            <summary>Glare, UGR by CIE 117</summary>
            {f.glare ? <Glare glare={f.glare} /> : <p className="quiet">No table: {f.no_glare}.</p>}
          </details>
          <div className="row-actions">
            <a className="btn btn-sm btn-outline-dark" href={api.profileFile(line.sha256, "ies")}>
              Save IES
            </a>
            <a className="btn btn-sm btn-outline-dark" href={api.profileFile(line.sha256, "ldt")}>
              Save LDT
            </a>
          </div>
        </>
      )}
    </aside>
  );
}

function Row({ name, value }: { name: string; value: string }) {
  return (
    <>
      <dt>{name}</dt>
      <dd>{value}</dd>
    </>
  );
}

function Glare({ glare }: { glare: NonNullable<ProfileFigures["glare"]> }) {
  return (
    <table className={cls("glare number")}>
      <caption>Ceiling / walls / floor in percent; rooms in heights above the eye; seen crosswise</caption>
      <thead>
        <tr>
          <th scope="col">room</th>
          {glare.reflectances.map((r) => (
            <th scope="col" key={r.join()}>
              {r.map((v) => Math.round(v * 100)).join("/")}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {glare.rooms.map((room, k) => (
          <tr key={room.join()}>
            <th scope="row">{room.join(" × ")} H</th>
            {glare.crosswise[k].map((v, c) => (
              <td key={c}>{v.toFixed(1)}</td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}
