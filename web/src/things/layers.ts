import type { Change, Occasion, Project } from "../api/client";

type Layers = NonNullable<Project["layers"]>;

/** A layer of the stage. `names` are all it goes by; `listed` whether the project knows it itself. */
export interface StageLayer {
  key: string;
  name: string;
  names: string[];
  inModels: boolean;
  listed: boolean;
}

/** The layers of the project, and after them those of its models that go by their own names. */
export function layersOf(layers: Layers, onStage: string[]): StageLayer[] {
  const keys = new Set(layers.map((layer) => layer.key));
  return [
    ...layers.map(({ key, name, in_models }) => ({
      key,
      name,
      names: in_models && !keys.has(in_models) ? [key, in_models] : [key],
      inModels: in_models != null,
      listed: true,
    })),
    ...onStage
      .filter((name) => !keys.has(name))
      .map((name) => ({ key: name, name, names: [name], inModels: true, listed: false })),
  ];
}

/** Names with a layer among them, or without it under whatever name. */
export function withLayer(names: readonly string[], layer: StageLayer, on: boolean): string[] {
  const rest = names.filter((name) => !layer.names.includes(name));
  return (on ? [...rest, layer.key] : rest).sort();
}

export const isAmong = (names: readonly string[], layer: StageLayer) =>
  layer.names.some((name) => names.includes(name));

/** Show or hide a layer at an occasion. */
export const shown = (occasion: Occasion, layer: StageLayer, on: boolean): Change => ({
  part: "occasion",
  key: occasion.key,
  at: ["hidden_layers"],
  value: withLayer(occasion.hidden_layers ?? [], layer, !on),
});

/** Take a layer of our own away; what stands on it stays, on none. */
export function takenAway(project: Project, layer: StageLayer): Change[] {
  const hiding = (project.occasions ?? []).filter((o) => isAmong(o.hidden_layers ?? [], layer));
  const boxed = project.stage?.boxed ?? [];
  return [
    ...(project.placements ?? [])
      .filter((p) => p.layer === layer.key)
      .map((p): Change => ({ part: "placement", key: p.key, at: ["layer"], value: null })),
    ...hiding.map((o) => shown(o, layer, true)),
    ...(isAmong(boxed, layer)
      ? [{ part: "stage", at: ["boxed"], value: withLayer(boxed, layer, false) } as Change]
      : []),
    { part: "layer", key: layer.key, value: null },
  ];
}
