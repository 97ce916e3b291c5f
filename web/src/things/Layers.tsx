import { useId, useState } from "react";
import { Form } from "react-bootstrap";

import type { Occasion, Project } from "../api/client";
import type { Hands } from "../bench/useBench";
import { useStage } from "../state/useStage";
import { AskName } from "../ui/AskName";
import { Button } from "../ui/Button";
import { classesOf } from "../ui/classes";
import { countText, freeKey } from "../ui/format";
import { PartMenu } from "../ui/PartMenu";
import { useHand } from "./hand";
import { isAmong, layersOf, shown, type StageLayer, takenAway, withLayer } from "./layers";
import { setField } from "./placing";
import styles from "./layers.module.css";

const cls = classesOf(styles);
/** Triangles of a box. */
const BOX = 12;

interface Props {
  slug: string;
  project: Project;
  occasion: Occasion;
  hands: Hands;
}

/** The layers of the stage: what each holds and costs, which the occasion shows, which stand as boxes while trying, and the one new things go to. */
export function Layers({ slug, project, occasion, hands }: Props) {
  const stage = useStage(slug);
  const { layer: active, chosen, put } = useHand();
  const [naming, setNaming] = useState(false);
  const listed = layersOf(project.layers ?? [], stage?.layers ?? []);
  const boxed = project.stage?.boxed ?? [];
  const weights = new Map((stage?.weights ?? []).map((w) => [w.layer, w]));
  const heaviest = Math.max(1, ...[...weights.values()].map((w) => w.triangles));
  const spared = listed
    .filter((layer) => isAmong(boxed, layer))
    .reduce((sum, layer) => sum + spare(weights.get(layer.key)), 0);
  const change = hands.changes;
  const make = (name: string) => {
    const key = freeKey(name, new Set(listed.flatMap((l) => l.names)));
    change(
      `Make layer ${name}`.slice(0, 120),
      [{ part: "layer", key, value: { key, name, in_models: null } }],
      true,
    );
    put({ layer: key });
  };
  const rename = (layer: StageLayer, name: string) => {
    const key = layer.listed ? layer.key : freeKey(name, new Set(listed.flatMap((l) => l.names)));
    change(
      `Rename layer ${layer.name}`.slice(0, 120),
      [
        layer.listed
          ? { part: "layer", key, at: ["name"], value: name }
          : { part: "layer", key, value: { key, name, in_models: layer.key } },
      ],
      true,
    );
  };
  const inHand = (project.placements ?? []).filter((p) => chosen.includes(p.key));
  return (
    <>
      <p className="lead">
        What {occasion.name} shows and hides together. New objects stand on the marked layer.
      </p>
      {stage && listed.length === 0 && (
        <p className="quiet">There are none yet: make one, or bring in a model that has some.</p>
      )}
      <ul className={cls("layers")} aria-label="Layers">
        {active !== null || listed.length > 0 ? (
          <li className={cls("layer none")}>
            <Active label="No layer" checked={active === null} choose={() => put({ layer: null })} />
          </li>
        ) : null}
        {listed.map((layer) => {
          const weight = weights.get(layer.key);
          const asBoxes = isAmong(boxed, layer);
          const place = (project.layers ?? []).findIndex((l) => l.key === layer.key);
          return (
            <li key={layer.key} className={cls("layer")} aria-label={layer.name}>
              {layer.listed ? (
                <Active
                  label={layer.name}
                  checked={active === layer.key}
                  choose={() => put({ layer: layer.key })}
                />
              ) : (
                <span>{layer.name}</span>
              )}
              <PartMenu
                about={`layer “${layer.name}”`}
                name={layer.name}
                rename={(name) => rename(layer, name)}
                items={[
                  {
                    name: "Up",
                    disabled: place <= 0,
                    act: () =>
                      change("Move layer", [{ part: "layer", key: layer.key, place: place - 1 }], true),
                  },
                  {
                    name: "Down",
                    disabled: place < 0 || place === (project.layers ?? []).length - 1,
                    act: () =>
                      change("Move layer", [{ part: "layer", key: layer.key, place: place + 1 }], true),
                  },
                  {
                    name: "Put what is chosen here",
                    disabled: inHand.length === 0 || !layer.listed,
                    why: "Choose objects first",
                    act: () =>
                      change(
                        `Put on ${layer.name}`.slice(0, 120),
                        setField(inHand, "layer", () => layer.key),
                        true,
                      ),
                  },
                  {
                    name: "Choose what stands on it",
                    disabled: !(project.placements ?? []).some((p) => p.made && p.layer === layer.key),
                    why: "No object of the catalogue stands on it",
                    act: () =>
                      put({
                        chosen: (project.placements ?? [])
                          .filter((p) => p.made && p.layer === layer.key)
                          .map((p) => p.key),
                        tab: "objects",
                        armed: null,
                      }),
                  },
                  {
                    name: "Take away",
                    disabled: layer.inModels,
                    why: "Its model brings it; hide it instead",
                    act: () => {
                      change(`Take layer ${layer.name} away`.slice(0, 120), takenAway(project, layer), true);
                      if (active === layer.key) put({ layer: null });
                    },
                  },
                ]}
              />
              <div className={cls("weight")}>
                <span className={cls("bar")} aria-hidden="true">
                  <span
                    className={cls(asBoxes ? "share boxed" : "share")}
                    style={{ width: `${100 * Math.sqrt((weight?.triangles ?? 0) / heaviest)}%` }}
                  />
                </span>
                <span className="quiet number">
                  {weight ? weightText(weight, asBoxes) : stage ? "empty" : "being counted…"}
                </span>
              </div>
              <div className={cls("switches")}>
                <Form.Check
                  type="switch"
                  id={`shown-${layer.key}`}
                  label="Shown"
                  aria-label={`Shown at ${occasion.name}`}
                  checked={!isAmong(occasion.hidden_layers ?? [], layer)}
                  onChange={(e) =>
                    change(
                      `${e.target.checked ? "Show" : "Hide"} ${layer.name}`.slice(0, 120),
                      [shown(occasion, layer, e.target.checked)],
                      true,
                    )
                  }
                />
                <Form.Check
                  type="switch"
                  id={`boxes-${layer.key}`}
                  label="As boxes"
                  checked={asBoxes}
                  onChange={(e) =>
                    change(
                      e.target.checked ? "Stand as boxes" : "Stand in their shape",
                      [{ part: "stage", at: ["boxed"], value: withLayer(boxed, layer, e.target.checked) }],
                      true,
                    )
                  }
                />
              </div>
            </li>
          );
        })}
      </ul>
      {spared > 0 && (
        <p className={cls("told")}>
          {countText(spared)} triangles less in the live picture while boxes stand for them. Plates, figures
          and plans have everything in its own shape.
        </p>
      )}
      <Button size="sm" variant="outline-dark" onClick={() => setNaming(true)}>
        Make a layer
      </Button>
      {naming && (
        <AskName
          title="Name of the new layer"
          value="New layer"
          always
          verb="Make it"
          accept={make}
          close={() => setNaming(false)}
        />
      )}
    </>
  );
}

type Weight = { pieces: number; triangles: number; kept: number };

const spare = (weight?: Weight) => Math.max(0, (weight?.triangles ?? 0) - BOX * (weight?.pieces ?? 0));

function weightText({ pieces, triangles, kept }: Weight, asBoxes: boolean): string {
  const many = `${countText(pieces)} ${pieces === 1 ? "piece" : "pieces"}`;
  if (asBoxes) return `${many}, boxes for ${countText(triangles)} triangles`;
  const memory = kept < triangles ? ` from ${countText(kept)}` : "";
  return `${many}, ${countText(triangles)} triangles${memory}`;
}

/** The name of a layer with the mark that new things stand on it. */
function Active({ label, checked, choose }: { label: string; checked: boolean; choose: () => void }) {
  const id = useId();
  return (
    <Form.Check
      type="radio"
      name="active-layer"
      id={id}
      label={label}
      title="New objects stand on it"
      checked={checked}
      onChange={choose}
    />
  );
}
