import { useCallback, useRef, useState } from "react";

import { asSurface } from "../arrival/bundle";
import { filesOf, type Found } from "../arrival/bundle";
import { api, type CatalogueSurface, type Project, type Surface } from "../api/client";
import type { Hands } from "../bench/useBench";
import { asked } from "../state/asked";
import { type Done, useStore } from "../state/store";
import { Button } from "../ui/Button";
import { classesOf } from "../ui/classes";
import { PartMenu } from "../ui/PartMenu";
import { PatientImage } from "../ui/PatientImage";
import tiles from "../ui/tiles.module.css";
import { SurfaceSheet } from "./SurfaceSheet";
import styles from "./surfaces.module.css";
import { DRAGGED } from "./useSurfaceDrop";
import { catalogueChanged, useCatalogue, useSurfaces } from "./useSurfaces";

const cls = classesOf(styles, tiles);

interface Props {
  slug: string;
  view: string;
  occasion: string;
  project: Project;
  hands: Hands;
  chosen: string | null;
  /** The object that was pointed at with it. */
  object: string | null;
  choose: (name: string | null) => void;
}

/** The surfaces of the stage: choose one, here or by pointing at the picture or the plan, and edit it. */
export function Surfaces({ slug, view, occasion, project, hands, chosen, object, choose }: Props) {
  const [dropping, setDropping] = useState<string | null>(null);
  const lines = useSurfaces(slug, view, occasion);
  const catalogue = useCatalogue();

  const set = useCallback(
    (name: string, surface: Surface | null, label: string, done: Done) =>
      hands.changes(
        label,
        [
          surface
            ? { part: "stage", at: ["surfaces", name], value: surface }
            : { part: "stage", at: ["surfaces", name], away: true },
        ],
        done,
      ),
    [hands],
  );
  const line = lines?.find((l) => l.name === chosen);
  const drop = (name: string, key: string) => {
    const entry = catalogue.find((c) => c.key === key);
    if (!entry) return;
    choose(name);
    set(name, entry.surface, `${entry.name} on ${name}`.slice(0, 120), true);
  };

  if (lines === undefined) return <p className="quiet">Reading the surfaces…</p>;
  if (lines.length === 0) return null;
  if (line)
    return (
      <SurfaceSheet key={line.name} {...{ slug, project, hands, line, object, catalogue, choose, set }} />
    );
  const doubtful = lines.filter((l) => l.doubt).length;
  return (
    <>
      <h3>
        Surfaces ({lines.length}
        {doubtful > 0 ? `, ${doubtful} doubtful` : ""})
      </h3>
      <p className="quiet">
        Click a surface here, in the picture or in the plan. Drop one of the catalogue on it, here or in the
        picture, to change it.
      </p>
      <div className={cls("swatches")} role="list" aria-label="Surfaces of the stage">
        {lines.map((l) => (
          <div role="listitem" key={l.name}>
            <button
              className={cls(`swatch ${dropping === l.name ? "over" : ""}`)}
              title={l.doubt ? `${l.name}: ${l.doubt}` : `${l.name}, a sample of ${l.sample_m} m`}
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
      <Catalogue surfaces={catalogue} />
    </>
  );
}

/** Surfaces to drop on others, one's own first; files bring in more. */
function Catalogue({ surfaces }: { surfaces: CatalogueSurface[] }) {
  const [busy, setBusy] = useState(false);
  const input = useRef<HTMLInputElement>(null);
  const notify = useStore((s) => s.notify);
  const take = async (found: Found[]) => {
    if (found.length === 0) return;
    setBusy(true);
    const made = await asked(async () => {
      const file = await asSurface(found);
      return api.takeSurface(file.name, file);
    });
    setBusy(false);
    if (!made) return;
    await catalogueChanged();
    notify([`${made.name} is in the catalogue now.`, ...(made.words ?? [])].join(" "));
  };
  const away = async (surface: CatalogueSurface) => {
    if ((await asked(() => api.putSurfaceAway(surface.own!))) !== null) await catalogueChanged();
  };
  const rename = async (surface: CatalogueSurface, name: string) => {
    if (await asked(() => api.renameSurface(surface.own!, name))) await catalogueChanged();
  };
  return (
    <div
      onDragOver={(e) => e.dataTransfer.types.includes("Files") && e.preventDefault()}
      onDrop={(e) => {
        if (!e.dataTransfer.types.includes("Files")) return;
        e.preventDefault();
        e.stopPropagation();
        void filesOf(e.dataTransfer).then(take);
      }}
    >
      <h3>Catalogue</h3>
      <p className="quiet mb-1">
        Your own: drop a glTF material or pictures named by what they say (colour, roughness, metal, normal,
        height, opacity, light).{" "}
        <Button size="sm" variant="outline-dark" disabled={busy} onClick={() => input.current?.click()}>
          {busy ? "Reading…" : "Bring in a surface"}
        </Button>
      </p>
      <input
        ref={input}
        type="file"
        hidden
        multiple
        aria-label="Files of a surface"
        accept=".glb,.gltf,.zip,.bin,.png,.jpg,.jpeg,.tif,.tiff,.exr,.json"
        onChange={(e) => {
          void take([...(e.target.files ?? [])].map((file) => ({ path: file.name, file })));
          e.target.value = "";
        }}
      />
      <div className={cls("swatches")} role="list" aria-label="Catalogue of surfaces">
        {surfaces.map((c) => (
          <div role="listitem" key={c.key}>
            <div
              className={cls("swatch")}
              draggable
              title={`Drag ${c.name} onto a surface; a sample of ${c.sample_m} m`}
              onDragStart={(e) => {
                e.dataTransfer.setData("text/plain", c.key);
                e.dataTransfer.setData(DRAGGED, c.key);
              }}
            >
              <PatientImage src={api.catalogueSample(c)} alt="" width={56} height={56} />
              <span>{c.name}</span>
            </div>
            {c.own != null && (
              <PartMenu
                about={`surface ${c.name}`}
                name={c.name}
                rename={(name) => void rename(c, name)}
                items={[
                  {
                    name: "Save as glTF material",
                    act: () => window.location.assign(api.surfaceFile(c.key, "glb")),
                  },
                  {
                    name: "Save as a zip of pictures",
                    act: () => window.location.assign(api.surfaceFile(c.key, "zip")),
                  },
                  { name: "Take out of the catalogue", act: () => void away(c) },
                ]}
              />
            )}
          </div>
        ))}
      </div>
    </div>
  );
}
