import { Form } from "react-bootstrap";

import { api, type Occasion, type Project } from "../api/client";
import type { Hands } from "../bench/useBench";
import { useModels, useServer } from "../state/server";
import { type Done, useStore } from "../state/store";
import { useStage } from "../state/useStage";
import { isAmong, layersOf, shown } from "../things/layers";
import { classesOf } from "../ui/classes";
import { Value } from "../ui/Value";
import styles from "./air.module.css";
import { LeafStrip } from "./LeafStrip";

const cls = classesOf(styles);

interface Props {
  slug: string;
  project: Project;
  occasion: Occasion;
  hands: Hands;
}

/** Season, and which layers of the stage an occasion shows. */
export function SeasonTab({ slug, project, occasion, hands }: Props) {
  const stage = useStage(slug);
  const models = useModels();
  const surfaces = useStore((s) => s.saved?.description.stage?.surfaces);
  const saved = useStore((s) => s.saved?.description.occasions?.find((o) => o.key === occasion.key));
  const { by_date = false, held = {}, early_days = 0 } = occasion.planting ?? {};
  const kinds = useServer(
    ["leaves", slug, models, occasion.key, JSON.stringify([surfaces, saved?.planting, saved?.when])],
    () => api.leaves(slug, occasion.key),
    { afterMs: 150 },
  );
  const plant = (label: string, patch: Partial<NonNullable<Occasion["planting"]>>, done: Done) =>
    hands.occasion(label, { planting: { by_date, held, early_days, ...patch } }, done);
  const listed = layersOf(project.layers ?? [], stage?.layers ?? []);
  return (
    <>
      <div className="value" style={{ gridTemplateColumns: "84px 1fr" }}>
        <label htmlFor="season">Season</label>
        <Form.Select
          id="season"
          size="sm"
          value={occasion.season ?? "summer"}
          onChange={(e) => hands.occasion("Season", { season: e.target.value as Occasion["season"] }, true)}
        >
          <option value="summer">Summer</option>
          <option value="autumn">Autumn</option>
          <option value="winter">Winter</option>
        </Form.Select>
      </div>
      <h3>Leaves</h3>
      <Form.Check
        type="switch"
        id="leaves-by-date"
        label="Leaves by the date"
        checked={by_date}
        onChange={(e) =>
          plant(
            e.target.checked ? "Leaves by the date" : "Leaves as modelled",
            { by_date: e.target.checked },
            true,
          )
        }
      />
      {kinds?.length === 0 && (
        <p className={cls("says")}>
          Nothing on the stage says what kind of leaf it is: choose one for a surface in Stage, or plant trees
          from the catalogue.
        </p>
      )}
      {by_date && kinds && kinds.length > 0 && (
        <>
          {kinds.map((leaf) => (
            <LeafStrip
              key={leaf.kind}
              leaf={{ ...leaf, day: held[leaf.kind] ?? leaf.day }}
              year={occasion.when.slice(0, 4)}
              hold={(day, done) =>
                plant(`Day of the ${leaf.kind}`, { held: { ...held, [leaf.kind]: day } }, done)
              }
              letGo={() => {
                const rest = Object.fromEntries(Object.entries(held).filter(([kind]) => kind !== leaf.kind));
                plant(`Let the ${leaf.kind} go`, { held: rest }, true);
              }}
            />
          ))}
          <Value
            label="Early by"
            value={early_days}
            min={-60}
            max={60}
            step={1}
            unit="d"
            onChange={(v, done) => plant("Days ahead", { early_days: v }, done)}
          />
        </>
      )}
      <h3>Layers shown</h3>
      {stage && listed.length === 0 && <p className="quiet">Nothing on the stage has layers.</p>}
      {listed.map((layer) => (
        <Form.Check
          key={layer.key}
          type="switch"
          id={`layer-${layer.key}`}
          label={layer.name}
          checked={!isAmong(occasion.hidden_layers ?? [], layer)}
          onChange={(e) =>
            hands.changes(
              `${e.target.checked ? "Show" : "Hide"} ${layer.name}`.slice(0, 120),
              [shown(occasion, layer, e.target.checked)],
              true,
            )
          }
        />
      ))}
    </>
  );
}
