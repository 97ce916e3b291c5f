import { Form } from "react-bootstrap";

import type { Occasion } from "../api/client";
import type { Hands } from "../bench/useBench";
import { useStage } from "./useStage";

/** Season, and which layers of the stage an occasion shows. */
export function AirInstrument({ slug, occasion, hands }: { slug: string; occasion: Occasion; hands: Hands }) {
  const stage = useStage(slug);
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
      {stage?.layers.length === 0 && <p className="quiet">The models have no layers.</p>}
      {stage?.layers.map((layer) => (
        <Form.Check
          key={layer}
          type="switch"
          id={`layer-${layer}`}
          label={layer}
          checked={!hidden.has(layer)}
          onChange={(e) => {
            const next = new Set(hidden);
            if (e.target.checked) next.delete(layer);
            else next.add(layer);
            hands.occasion(
              `${e.target.checked ? "Show" : "Hide"} ${layer}`,
              { hidden_layers: [...next].sort() },
              true,
            );
          }}
        />
      ))}
    </>
  );
}
