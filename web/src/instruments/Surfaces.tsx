import { useCallback, useState } from "react";
import { Form } from "react-bootstrap";

import { api, type CatalogueSurface, type Project, type Surface } from "../api/client";
import type { Hands } from "../bench/useBench";
import { type Done, useStore } from "../state/store";
import { Button } from "../ui/Button";
import { SurfaceEditor } from "./SurfaceEditor";
import { PatientImage } from "../ui/PatientImage";
import { useServer } from "../state/server";
import { classesOf } from "../ui/classes";
import styles from "./Surfaces.module.css";

const cls = classesOf(styles);

const NONE: CatalogueSurface[] = [];

interface Props {
  slug: string;
  project: Project;
  hands: Hands;
  chosen: string | null;
  choose: (name: string | null) => void;
}

/** The surfaces of the stage: choose one, here or by pointing at the picture or the plan, and edit it. */
export function Surfaces({ slug, project, hands, chosen, choose }: Props) {
  const [dropping, setDropping] = useState<string | null>(null);
  const revision = useStore((s) => s.saved?.revision);
  const lines = useServer(["surfaces", slug, revision], () => api.surfaces(slug), {
    told: true,
    otherwise: [],
  });
  const catalogue = useServer(["catalogue of surfaces"], api.catalogueSurfaces, { fixed: true }) ?? NONE;

  const set = useCallback(
    (name: string, surface: Surface | null, label: string, done: Done) => {
      const surfaces = { ...project.stage?.surfaces };
      if (surface) surfaces[name] = surface;
      else delete surfaces[name];
      hands.changes(label, [{ part: "stage", key: "", value: { ...project.stage, surfaces } }], done);
    },
    [project.stage, hands],
  );
  const line = lines?.find((l) => l.name === chosen);
  const now = chosen ? (project.stage?.surfaces?.[chosen] ?? line?.surface) : undefined;

  const drop = (name: string, key: string) => {
    const entry = catalogue.find((c) => c.key === key);
    if (!entry) return;
    choose(name);
    set(name, entry.surface, `${entry.name} on ${name}`, true);
  };

  if (lines === undefined) return <p className="quiet">Reading the surfaces…</p>;
  if (lines.length === 0) return null;
  const doubtful = lines.filter((l) => l.doubt).length;
  return (
    <>
      {line && now ? (
        <section aria-label={`Surface ${line.name}`}>
          <div className={cls("surface-head")}>
            <PatientImage src={api.surfaceSample(slug, line)} alt="" width={72} height={72} />
            <div>
              <h3>{line.name}</h3>
              {line.doubt && <p className="error-text mb-1">{line.doubt}</p>}
              <Button size="sm" variant="outline-dark" onClick={() => choose(null)}>
                All surfaces
              </Button>{" "}
              {line.changed && (
                <Button
                  size="sm"
                  variant="outline-dark"
                  onClick={() => set(line.name, null, `${line.name} as it came`, true)}
                >
                  As it came
                </Button>
              )}
            </div>
          </div>
          <Form.Select
            size="sm"
            aria-label="Surface from the catalogue"
            value=""
            onChange={(e) => drop(line.name, e.target.value)}
          >
            <option value="">Take one from the catalogue…</option>
            {catalogue.map((c) => (
              <option key={c.key} value={c.key}>
                {c.name}
              </option>
            ))}
          </Form.Select>
          <SurfaceEditor
            surface={now}
            hasPicture={line.has_picture}
            onChange={(surface, what, done) => set(line.name, surface, `${what} of ${line.name}`, done)}
          />
        </section>
      ) : (
        <>
          <h3>
            Surfaces ({lines.length}
            {doubtful > 0 ? `, ${doubtful} doubtful` : ""})
          </h3>
          <p className="quiet">
            Click a surface here, in the picture or in the plan. Drop one of the catalogue on it to change it.
          </p>
          <div className={cls("swatches")} role="list" aria-label="Surfaces of the stage">
            {lines.map((l) => (
              <div role="listitem" key={l.name}>
                <button
                  className={cls(`swatch ${dropping === l.name ? "over" : ""}`)}
                  title={l.doubt ? `${l.name}: ${l.doubt}` : l.name}
                  onClick={() => choose(l.name)}
                  onDragOver={(e) => {
                    e.preventDefault();
                    setDropping(l.name);
                  }}
                  onDragLeave={() => setDropping(null)}
                  onDrop={(e) => {
                    e.preventDefault();
                    setDropping(null);
                    drop(l.name, e.dataTransfer.getData("text/plain"));
                  }}
                >
                  <PatientImage src={api.surfaceSample(slug, l)} alt="" width={56} height={56} />
                  <span>
                    {l.doubt && <b className={cls("doubt")}>? </b>}
                    {l.name}
                  </span>
                </button>
              </div>
            ))}
          </div>
          <h3>Catalogue</h3>
          <div className={cls("swatches")} role="list" aria-label="Catalogue of surfaces">
            {catalogue.map((c) => (
              <div role="listitem" key={c.key}>
                <div
                  className={cls("swatch")}
                  draggable
                  title={`Drag ${c.name} onto a surface`}
                  onDragStart={(e) => e.dataTransfer.setData("text/plain", c.key)}
                >
                  <PatientImage src={api.catalogueSample(c.key)} alt="" width={56} height={56} />
                  <span>{c.name}</span>
                </div>
              </div>
            ))}
          </div>
        </>
      )}
    </>
  );
}
