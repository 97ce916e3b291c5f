import { useState } from "react";
import { Form } from "react-bootstrap";

import { api, type ProfileLine } from "../api/client";
import { useStore } from "../state/store";
import { Button } from "../ui/Button";
import { Value } from "../ui/Value";
import { CurveEditor } from "./CurveEditor";
import { useServer } from "../state/server";
import { classesOf } from "../ui/classes";
import styles from "./OwnProfile.module.css";
import roomStyles from "./catalogue.module.css";

const cls = classesOf(styles, roomStyles);

const ANGLES = [0, 10, 20, 30, 40, 50, 60, 75, 90, 120, 150, 180];
const START = [1, 0.97, 0.86, 0.68, 0.46, 0.26, 0.12, 0.03, 0, 0, 0, 0];

/** Distributions of one's own: drawn by hand, a plain cone, or a usual source. */
export function OwnProfile({
  made,
  addTemplate,
}: {
  made: (line: ProfileLine) => void;
  addTemplate: (key: string) => void;
}) {
  const [name, setName] = useState("Drawn by hand");
  const [planes, setPlanes] = useState<"one" | "two">("one");
  const [across, setAcross] = useState(START);
  const [along, setAlong] = useState(START);
  const [lumens, setLumens] = useState(1000);
  const [beam, setBeam] = useState(30);
  const [field, setField] = useState(52);
  const [softness, setSoftness] = useState(0.5);
  const sources = useServer(["sources"], api.sources, { told: true, fixed: true }) ?? [];
  const notify = useStore((s) => s.notify);
  const keep = async (work: Promise<ProfileLine>) => {
    try {
      const line = await work;
      notify(`${line.name} is in the catalogue.`);
      made(line);
    } catch (error) {
      notify((error as Error).message, "error");
    }
  };
  return (
    <section className={cls("catalogue-list own")} aria-label="Make a profile">
      <article>
        <h2>Draw a distribution</h2>
        <p className="lead">
          Drag the points of the curve, or choose one and use the arrow keys. Nadir is down.
        </p>
        <CurveEditor
          angles={ANGLES}
          across={across}
          along={planes === "two" ? along : null}
          {...{ setAcross, setAlong }}
        />
        <div className="d-flex gap-3 my-2">
          {(["one", "two"] as const).map((p) => (
            <Form.Check
              key={p}
              type="radio"
              name="planes"
              id={`planes-${p}`}
              label={p === "one" ? "the same all round" : "two planes"}
              checked={planes === p}
              onChange={() => setPlanes(p)}
            />
          ))}
        </div>
        <Form.Control
          size="sm"
          aria-label="Name of the profile"
          maxLength={60}
          value={name}
          onChange={(e) => setName(e.target.value)}
        />
        <Value
          label="Flux"
          value={lumens}
          min={1}
          max={50000}
          step={10}
          log
          format={(v) => `${Math.round(v)} lm`}
          unit="lm"
          onChange={setLumens}
        />
        <Button
          size="sm"
          variant="dark"
          disabled={name.trim() === ""}
          onClick={() =>
            void keep(
              api.drawnProfile({
                name: name.trim(),
                angles_deg: ANGLES,
                across,
                along: planes === "two" ? along : null,
                lumens,
              }),
            )
          }
        >
          Keep in the catalogue
        </Button>
      </article>
      <article>
        <h2>A plain cone</h2>
        <p className="lead">Where no pattern of a measured profile will be seen.</p>
        <Value label="Beam" value={beam} min={1} max={170} step={1} unit="°" onChange={setBeam} />
        <Value label="Field" value={field} min={2} max={178} step={1} unit="°" onChange={setField} />
        <Value label="Softness" value={softness} min={0} max={1} step={0.05} onChange={setSoftness} />
        <Button
          size="sm"
          variant="dark"
          onClick={() =>
            void keep(
              api.plainSpot({
                name: `Cone ${beam}°`,
                beam_deg: beam,
                field_deg: field,
                softness,
                lumens,
              }),
            )
          }
        >
          Keep in the catalogue
        </Button>
        <h2 className="mt-4">Usual sources</h2>
        <p className="lead">
          Each becomes a fixture of the project, with its flux, colour and way of dimming.
        </p>
        {sources.map((s) => (
          <div key={s.key} className="d-flex align-items-center gap-2 py-1 border-bottom">
            <span className="flex-grow-1">{s.name}</span>
            <span className="number quiet">
              {s.lumens} lm {s.kelvin} K
            </span>
            <Button
              size="sm"
              variant="outline-dark"
              aria-label={`Add ${s.name}`}
              onClick={() => addTemplate(s.key)}
            >
              Add
            </Button>
          </div>
        ))}
      </article>
    </section>
  );
}
