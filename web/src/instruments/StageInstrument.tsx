import { Form } from "react-bootstrap";

import { type Project } from "../api/client";
import type { Hands } from "../bench/useBench";
import { countText } from "../ui/format";
import { Button } from "../ui/Button";
import { OpenModel } from "../arrival/OpenModel";
import { Standing } from "./Standing";
import { Tabs } from "../ui/Tabs";
import { type StageTab, useHand } from "../things/hand";
import { Layers } from "../things/Layers";
import { Objects } from "../things/Objects";
import { Surfaces } from "../surfaces/Surfaces";
import { useStage } from "../state/useStage";
import { classesOf } from "../ui/classes";
import styles from "./StageInstrument.module.css";

const cls = classesOf(styles);

interface Props {
  slug: string;
  project: Project;
  hands: Hands;
  view: string;
  occasion: string;
  surface: string | null;
  object: string | null;
  chooseSurface: (name: string | null) => void;
}

const TABS: [StageTab, string][] = [
  ["models", "Models and surfaces"],
  ["objects", "Objects"],
  ["layers", "Layers"],
];

/** The stage: models that were brought in, objects of the catalogue, and the surfaces of both. */
export function StageInstrument({
  slug,
  project,
  hands,
  view,
  occasion,
  surface,
  object,
  chooseSurface,
}: Props) {
  const { tab, put } = useHand();
  const at = project.occasions?.find((o) => o.key === occasion);
  return (
    <>
      <h2>Stage</h2>
      <Tabs
        label="Parts of the stage"
        tabs={TABS}
        current={tab}
        choose={(to) => put({ tab: to })}
        className={cls("subtabs")}
      />
      {tab === "objects" ? (
        at && <Objects slug={slug} project={project} occasion={at} hands={hands} />
      ) : tab === "layers" ? (
        at && <Layers slug={slug} project={project} occasion={at} hands={hands} />
      ) : (
        <>
          {surface === null && (
            <>
              <Models slug={slug} project={project} hands={hands} />
              <hr />
            </>
          )}
          <Surfaces
            {...{ slug, view, occasion, project, hands, object }}
            chosen={surface}
            choose={chooseSurface}
          />
        </>
      )}
    </>
  );
}

/** What stands in front of the lens, its size, and white card. */
function Models({ slug, project, hands }: Pick<Props, "slug" | "project" | "hands">) {
  const stage = useStage(slug);
  const placements = (project.placements ?? []).filter((p) => !p.made);
  return (
    <>
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
    </>
  );
}
