/** The lights of a picture as amounts: what each is set to, and what setting it changes of an occasion. */
import type { Occasion, Plate, Project, Scene } from "../api/client";

/** A light's level in stops (null: off) and the colour temperature it is given (null: as it was traced). */
export interface Setting {
  stops: number | null;
  kelvin: number | null;
}

export interface Light extends Setting {
  name: string;
  /** What it gives to the picture, of all the light in it. */
  share: number;
  /** The colour temperature it was traced with, and its colour now. */
  own: number | null;
  colour: string;
}

export const [LEAST, MOST] = [-10, 2];
/** Daylight has no switch: so many stops down it is gone. */
const OFF = -20;
const DAYLIGHT = ["sun", "sky", "sky picture", "backdrop", "surfaces"];

const ofStops = (stops: number | null | undefined) => ((stops ?? 0) <= OFF ? null : (stops ?? 0));
export const isGroup = (name: string) => !DAYLIGHT.includes(name);
export const percentOf = (stops: number | null) =>
  stops === null ? 0 : Number((100 * 2 ** stops).toFixed(3));
const stopsOf = (factor: number) => (factor <= 2 ** OFF * 1.01 ? null : Math.log2(factor));

/** What a light is set to at an occasion. */
export function settingOf(occasion: Occasion, name: string): Setting {
  const kelvin = occasion.colours?.[name] ?? null;
  if (name === "sun") return { stops: ofStops(occasion.sun?.level_stops), kelvin };
  if (name === "sky" || name === "sky picture") return { stops: ofStops(occasion.sky?.level_stops), kelvin };
  if (name === "backdrop") return { stops: ofStops(occasion.sky?.picture?.background_stops), kelvin };
  if (name === "surfaces") return { stops: ofStops(occasion.surfaces_stops), kelvin };
  return { stops: stopsOf((occasion.levels?.[name] ?? 100) / 100), kelvin };
}

/** What of an occasion changes when lights are set. */
export function withSettings(occasion: Occasion, settings: Record<string, Setting>): Partial<Occasion> {
  // All that is named is in it: the occasion may be a draft that holds it already, and is still to be kept.
  const patch: Partial<Occasion> = {};
  const levels = { ...occasion.levels };
  const colours = { ...occasion.colours };
  for (const [name, { stops, kelvin }] of Object.entries(settings)) {
    const down = stops ?? OFF;
    if (name === "sun") patch.sun = { ...occasion.sun, level_stops: down };
    else if (name === "sky" || name === "sky picture")
      patch.sky = { ...(patch.sky ?? occasion.sky), level_stops: down } as Occasion["sky"];
    else if (name === "backdrop") {
      const sky = patch.sky ?? occasion.sky;
      if (sky?.picture)
        patch.sky = { ...sky, picture: { ...sky.picture, background_stops: down } } as Occasion["sky"];
    } else if (name === "surfaces") patch.surfaces_stops = down;
    else levels[name] = percentOf(stops);
    if (kelvin === null) delete colours[name];
    else colours[name] = kelvin;
  }
  if (Object.keys(settings).some(isGroup)) patch.levels = levels;
  return { ...patch, colours };
}

/** What the lights of a plate were set to when it was made. */
export const settingsOfPlate = (plate: Plate, names: string[]): Record<string, Setting> =>
  Object.fromEntries(
    names.map((name) => [
      name,
      { stops: stopsOf(plate.levels[name] ?? 1), kelvin: plate.colours[name] ?? null },
    ]),
  );

/** Settings as the server finishes a film with them. */
export function asFactors(settings: Record<string, Setting>): {
  levels: Record<string, number>;
  colours: Record<string, number>;
} {
  const lines = Object.entries(settings);
  return {
    levels: Object.fromEntries(lines.map(([name, { stops }]) => [name, stops === null ? 0 : 2 ** stops])),
    colours: Object.fromEntries(
      lines.flatMap(([name, { kelvin }]) => (kelvin === null ? [] : [[name, kelvin]])),
    ),
  };
}

/** A snapshot of all lights, to be recalled at any occasion. */
export function snapshotOf(key: string, name: string, lights: Light[]): Scene {
  const stops = (light: string) => {
    const found = lights.find((l) => l.name === light);
    return found ? (found.stops ?? OFF) : null;
  };
  return {
    key,
    name,
    levels: Object.fromEntries(
      lights.filter((l) => isGroup(l.name)).map((l) => [l.name, percentOf(l.stops)]),
    ),
    sun_stops: stops("sun"),
    sky_stops: stops("sky") ?? stops("sky picture"),
    surfaces_stops: stops("surfaces"),
    colours: Object.fromEntries(lights.flatMap((l) => (l.kelvin === null ? [] : [[l.name, l.kelvin]]))),
  };
}

/** What a scene sets of an occasion: the groups of the project, and daylight and colours where it holds them. */
export function recalled(scene: Scene, project: Project, occasion: Occasion): Partial<Occasion> {
  const groups = [...new Set((project.fixtures ?? []).map((f) => f.group ?? "Fixtures"))];
  const patch: Partial<Occasion> = {
    levels: {
      ...occasion.levels,
      ...Object.fromEntries(groups.map((g) => [g, scene.levels?.[g] ?? 100])),
    },
  };
  if (scene.sun_stops != null) patch.sun = { ...occasion.sun, level_stops: scene.sun_stops };
  if (scene.sky_stops != null)
    patch.sky = { ...occasion.sky, level_stops: scene.sky_stops } as Occasion["sky"];
  if (scene.surfaces_stops != null) patch.surfaces_stops = scene.surfaces_stops;
  if (scene.colours != null) patch.colours = scene.colours;
  return patch;
}

export interface Band {
  name: string;
  top: number;
  height: number;
}

/** Lights that shine as bands of a column `tall` high, the first lowest; the least of them can still be taken hold of. */
export function bands(lights: Light[], tall: number, least = 5): Band[] {
  const shining = lights.filter((l) => l.stops !== null);
  const sum = shining.reduce((all, l) => all + l.share, 0) || 1;
  const room = Math.max(tall - least * shining.length, 0);
  let top = tall;
  return shining.map((l) => {
    const height = least + (l.share / sum) * room;
    top -= height;
    return { name: l.name, top, height };
  });
}

/** Stops of a light whose band was pulled to another height. */
export function pulledTo(stops: number, height: number, to: number): number {
  const made = stops + Math.log2(Math.max(to, height / 1024) / height);
  return Number(Math.min(Math.max(made, LEAST), MOST).toFixed(2));
}
