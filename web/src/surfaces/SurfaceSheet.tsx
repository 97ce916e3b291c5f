import { useEffect, useRef, useState } from "react";
import { Form } from "react-bootstrap";

import { api, type CatalogueSurface, type Project, type StageSurface, type Surface } from "../api/client";
import type { Hands } from "../bench/useBench";
import { asked } from "../state/asked";
import { type Done, useStore } from "../state/store";
import { AskName } from "../ui/AskName";
import { Button } from "../ui/Button";
import { classesOf } from "../ui/classes";
import { PartMenu } from "../ui/PartMenu";
import { PatientImage } from "../ui/PatientImage";
import { setApart } from "./apart";
import { Layout } from "./Layout";
import { Pictures } from "./Pictures";
import { SurfaceEditor } from "./SurfaceEditor";
import { catalogueChanged } from "./useSurfaces";
import styles from "./surfaces.module.css";

const cls = classesOf(styles);

interface Props {
  slug: string;
  project: Project;
  hands: Hands;
  line: StageSurface;
  /** The object that was pointed at, where one was. */
  object: string | null;
  catalogue: CatalogueSurface[];
  choose: (name: string | null) => void;
  set: (name: string, surface: Surface | null, label: string, done: Done) => void;
}

/** One surface of the stage: its sample, its pictures and layout, what it is made of, and what can be done with it. */
export function SurfaceSheet({ slug, project, hands, line, object, catalogue, choose, set }: Props) {
  const [naming, setNaming] = useState(false);
  const sheet = useRef<HTMLElement>(null);
  // It is opened from a long list: its beginning comes into sight.
  useEffect(() => {
    const room = sheet.current?.closest("aside");
    if (room) room.scrollTop = 0;
  }, []);
  const notify = useStore((s) => s.notify);
  const now = project.stage?.surfaces?.[line.name] ?? line.surface;
  const apart = project.stage?.apart ?? [];
  const own = apart.find((a) => a.name === line.name);
  const put = (patch: Partial<Surface>, what: string, done: Done = true) =>
    set(line.name, { ...now, ...patch }, `${what} of ${line.name}`.slice(0, 120), done);

  const standApart = () => {
    if (!object) return;
    const { name, changes } = setApart(project, object, line.name);
    hands.changes(`${line.name} of ${object} apart`.slice(0, 120), changes, true);
    choose(name);
  };
  const together = () => {
    if (!own) return;
    const surfaces = { ...project.stage?.surfaces };
    delete surfaces[line.name];
    hands.changes(
      `${own.object} like the others`.slice(0, 120),
      [
        { part: "stage", at: ["apart"], value: apart.filter((a) => a !== own) },
        { part: "stage", at: ["surfaces"], value: surfaces },
      ],
      true,
    );
    choose(own.material);
  };
  const keep = async (name: string) => {
    const made = await asked(() => api.keepSurface(name, now));
    if (!made) return;
    await catalogueChanged();
    notify(`${made.name} is in the catalogue now, for all projects.`);
  };
  const save = async (suffix: "glb" | "zip") => {
    const made = await asked(() => api.surfaceAsFile(suffix, line.name.slice(0, 80), now));
    if (!made) return;
    const link = document.createElement("a");
    link.href = URL.createObjectURL(made);
    link.download = `${line.name.replace(/[\\/:*?"<>|]+/g, " ").trim() || "surface"}.${suffix}`;
    link.click();
    window.setTimeout(() => URL.revokeObjectURL(link.href), 10_000);
  };
  return (
    <section aria-label={`Surface ${line.name}`} ref={sheet}>
      <div className={cls("surface-head")}>
        <figure className={cls("sample")}>
          <PatientImage src={api.surfaceSample(slug, line)} alt="" width={112} height={112} />
          <figcaption className="number">{line.sample_m} m</figcaption>
        </figure>
        <div>
          <h3>{line.name}</h3>
          {line.doubt && <p className="error-text mb-1">{line.doubt}</p>}
          {(line.seen ?? 0) > 0 && (
            <p className="quiet number mb-1">{Math.max(1, Math.round(100 * line.seen!))} % of the picture</p>
          )}
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
          )}{" "}
          <PartMenu
            about={`surface ${line.name}`}
            items={[
              { name: "Keep in the catalogue…", act: () => setNaming(true) },
              { name: "Save as glTF material", act: () => void save("glb") },
              { name: "Save as a zip of pictures", act: () => void save("zip") },
            ]}
          />
        </div>
      </div>
      {own ? (
        <p className={cls("apart")}>
          On {own.object} alone.{" "}
          <Button size="sm" variant="outline-dark" onClick={together}>
            Like the others again
          </Button>
        </p>
      ) : (
        object && (
          <p className={cls("apart")}>
            Everywhere it lies.{" "}
            <Button size="sm" variant="outline-dark" onClick={standApart}>
              On {object} alone
            </Button>
          </p>
        )
      )}
      <Form.Select
        size="sm"
        aria-label="Surface from the catalogue"
        value=""
        onChange={(e) => {
          const entry = catalogue.find((c) => c.key === e.target.value);
          if (entry) set(line.name, entry.surface, `${entry.name} on ${line.name}`.slice(0, 120), true);
        }}
      >
        <option value="">Take one from the catalogue…</option>
        {catalogue.map((c) => (
          <option key={c.key} value={c.key}>
            {c.name}
          </option>
        ))}
      </Form.Select>
      {(now.glass ?? "none") === "none" && (
        <>
          <Pictures surface={now} put={put} />
          <Layout surface={now} put={put} />
        </>
      )}
      <h3>Made of</h3>
      <SurfaceEditor
        surface={now}
        hasPicture={line.has_picture}
        onChange={(surface, what, done) => set(line.name, surface, `${what} of ${line.name}`, done)}
      />
      {naming && (
        <AskName
          title="Keep it as"
          value={line.name.slice(0, 80)}
          accept={(n) => void keep(n)}
          close={() => setNaming(false)}
          always
        />
      )}
    </section>
  );
}
