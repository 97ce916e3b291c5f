import { Form } from "react-bootstrap";

import type { Occasion, Project } from "../api/client";
import type { Hands } from "../bench/useBench";
import { useStage } from "../state/useStage";
import { isAmong, layersOf, shown } from "../things/layers";

interface Props {
  slug: string;
  project: Project;
  occasion: Occasion;
  hands: Hands;
}

/** Season, and which layers of the stage an occasion shows. */
export function SeasonTab({ slug, project, occasion, hands }: Props) {
  const stage = useStage(slug);
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
