import { Form } from "react-bootstrap";

import type { Occasion, Project } from "../api/client";
import type { Hands } from "../bench/useBench";
import { useStage } from "./useStage";

interface Props {
  slug: string;
  project: Project;
  occasion: Occasion;
  hands: Hands;
}

/** The layers of the project, and after them those of its models that go by their own names. */
export function layersOf(layers: NonNullable<Project["layers"]>, onStage: string[]) {
  const keys = new Set(layers.map((layer) => layer.key));
  return [
    ...layers.map(({ key, name, in_models }) => ({
      key,
      name,
      names: in_models && !keys.has(in_models) ? [key, in_models] : [key],
    })),
    ...onStage.filter((name) => !keys.has(name)).map((name) => ({ key: name, name, names: [name] })),
  ];
}

/** Season, and which layers of the stage an occasion shows. */
export function AirInstrument({ slug, project, occasion, hands }: Props) {
  const stage = useStage(slug);
  const listed = layersOf(project.layers ?? [], stage?.layers ?? []);
  const hidden = new Set(occasion.hidden_layers ?? []);
  return (
    <>
      <h2>Air, season</h2>
      <p className="lead">What this occasion shows of the stage.</p>
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
          checked={!layer.names.some((name) => hidden.has(name))}
          onChange={(e) => {
            const next = new Set(hidden);
            if (e.target.checked) layer.names.forEach((name) => next.delete(name));
            else next.add(layer.key);
            hands.occasion(
              `${e.target.checked ? "Show" : "Hide"} ${layer.name}`.slice(0, 120),
              { hidden_layers: [...next].sort() },
              true,
            );
          }}
        />
      ))}
    </>
  );
}
