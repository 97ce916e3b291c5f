import { Form } from "react-bootstrap";

import { type Project } from "../api/client";
import type { Hands } from "../bench/useBench";
import { countText } from "../ui/format";
import { Button } from "../ui/Button";
import { OpenModel } from "../wall/OpenModel";
import { Standing } from "./Standing";
import { Surfaces } from "./Surfaces";
import { useStage } from "./useStage";
import { classesOf } from "../ui/classes";
import styles from "./StageInstrument.module.css";

const cls = classesOf(styles);

interface Props {
  slug: string;
  project: Project;
  hands: Hands;
  surface: string | null;
  chooseSurface: (name: string | null) => void;
}

/** What stands in front of the lens, its size, white card, and its surfaces. */
export function StageInstrument({ slug, project, hands, surface, chooseSurface }: Props) {
  const stage = useStage(slug);
  const placements = project.placements ?? [];
  return (
    <>
      <h2>Stage</h2>
      <p className="lead">
        {placements.length ? "What stands in front of the lens." : "Nothing yet: open a model."}
      </p>
      <ul className="list-unstyled mb-2" aria-label="Models">
        {placements.map((m) => (
          <li key={m.key}>
            <div className={cls("model-line")}>
              <span title={m.name}>{m.name}</span>
              <OpenModel slug={slug} replace={m.key} label="Replace" about={`Replace ${m.name}`} size="sm" />
              <Button
                size="sm"
                variant="outline-dark"
                aria-label={`Take away ${m.name}`}
                onClick={() =>
                  hands.changes(
                    `Take ${m.name} away`.slice(0, 120),
                    [{ part: "placement", key: m.key, value: null }],
                    true,
                  )
                }
              >
                Take away
              </Button>
            </div>
            <Standing placement={m} layers={project.layers ?? []} hands={hands} />
          </li>
        ))}
        <li className="mt-1">
          <OpenModel slug={slug} size="sm" />
        </li>
      </ul>
      <Form.Check
        type="switch"
        id="white-card"
        label="White card: every surface matt grey"
        checked={project.stage?.white_card ?? false}
        onChange={(e) =>
          hands.changes(
            e.target.checked ? "White card" : "Materials",
            [{ part: "stage", at: ["white_card"], value: e.target.checked }],
            true,
          )
        }
      />
      {stage && (
        <>
          <hr />
          <p className="number mb-1">
            {stage.objects} objects, {countText(stage.triangles)} triangles
            <br />
            {stage.size_m.map((v) => v.toFixed(1)).join(" × ")} m
          </p>
          {stage.notes.map((note) => (
            <p key={note} className="error-text mb-1">
              {note}
            </p>
          ))}
        </>
      )}
      <hr />
      <Surfaces slug={slug} project={project} hands={hands} chosen={surface} choose={chooseSurface} />
    </>
  );
}
