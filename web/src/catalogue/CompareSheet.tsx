import { useState } from "react";

import { api, type ProfileLine } from "../api/client";
import { PolarCurve } from "../fixtures/PolarCurve";
import { Button } from "../ui/Button";
import { PatientImage } from "../ui/PatientImage";
import { readNumber } from "../ui/reading";
import { Value } from "../ui/Value";
import { beamText } from "./CataloguePage";
import { useServer } from "../state/server";
import { classesOf } from "../ui/classes";
import styles from "./CompareSheet.module.css";
import roomStyles from "./catalogue.module.css";

const cls = classesOf(styles, roomStyles);

const USUAL_EV = 6.5;

/** Up to four profiles side by side under one exposure, so that a brighter lamp looks brighter. */
export function CompareSheet({
  compared,
  remove,
}: {
  compared: ProfileLine[];
  remove: (line: ProfileLine) => void;
}) {
  const [ev, setEv] = useState(USUAL_EV);
  const [asked, setAsked] = useState(USUAL_EV);
  if (compared.length === 0)
    return (
      <section className={cls("catalogue-list")}>
        <p className="lead">
          Nothing to compare yet. Choose a profile in the catalogue and press Compare; up to four stand side
          by side.
        </p>
      </section>
    );
  return (
    <section className={cls("catalogue-list")} aria-label="Compared profiles">
      <div style={{ maxWidth: 420 }}>
        <Value
          label="Exposure"
          value={ev}
          min={-2}
          max={16}
          step={0.5}
          format={(v) => `EV ${v.toFixed(1)}`}
          parse={(t) => readNumber(t.replace(/^\s*ev/i, ""), "EV")}
          onChange={(v, done) => {
            setEv(v);
            if (done) setAsked(v);
          }}
        />
      </div>
      <div className={cls("compared")}>
        {compared.map((p) => (
          <Card key={p.sha256} line={p} ev={asked} remove={() => remove(p)} />
        ))}
      </div>
    </section>
  );
}

function Card({ line, ev, remove }: { line: ProfileLine; ev: number; remove: () => void }) {
  const figures = useServer(["profile", line.sha256], () => api.profile(line.sha256), { fixed: true });
  return (
    <article aria-label={line.name}>
      <PatientImage
        src={api.profilePicture(line.sha256, "wall", ev)}
        alt={`Light of ${line.name} on a wall from 0.5 m and from 1 m`}
        width={240}
        height={160}
      />
      <PatientImage
        src={api.profilePicture(line.sha256, "floor", ev - 2)}
        alt={`Light of ${line.name} on a floor from 2.7 m`}
        width={400}
        height={320}
      />
      {figures && (
        <PolarCurve figures={{ ...figures, peak_cd: line.peak_cd, kind: { name: line.name } }} size={150} />
      )}
      <h3 className="mt-1">{line.name}</h3>
      <p className="number quiet mb-1">
        {Math.round(line.lumens)} lm, {beamText(line.beam_deg)}, {Math.round(line.peak_cd)} cd
      </p>
      <p className="quiet mb-1">{line.shape}</p>
      <Button size="sm" variant="outline-dark" onClick={remove}>
        Put away
      </Button>
    </article>
  );
}
