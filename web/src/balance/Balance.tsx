import { useState } from "react";
import { Form } from "react-bootstrap";

import { api, type Occasion, type Plate, type Project } from "../api/client";
import type { Hands, LivePicture } from "../bench/useBench";
import { useServer } from "../state/server";
import type { Done } from "../state/store";
import { AskName } from "../ui/AskName";
import { Button } from "../ui/Button";
import { freeKey } from "../ui/format";
import { PartMenu } from "../ui/PartMenu";
import { Value } from "../ui/Value";
import { classesOf } from "../ui/classes";
import { DuskLine } from "./DuskLine";
import {
  isGroup,
  LEAST,
  type Light,
  MOST,
  recalled,
  type Setting,
  settingOf,
  settingsOfPlate,
  snapshotOf,
  withSettings,
} from "./lights";
import { LightStack } from "./LightStack";
import type { Balancing } from "./useBalancing";
import styles from "./balance.module.css";

const cls = classesOf(styles);

interface Props {
  project: Project;
  occasion: Occasion;
  hands: Hands;
  live: LivePicture;
  /** The plate looked at: it is balanced by itself, the occasion stays. */
  plate: Plate | null;
  /** The plates of this view, of all occasions. */
  plates: Plate[];
  balancing: Balancing;
  alone: string | null;
  setAlone: (name: string | null) => void;
}

/** The lights of the picture as amounts, changed without tracing it again; what is kept of it, and the way from day to night. */
export function Balance(props: Props) {
  const { project, occasion, hands, live, plate, balancing, alone, setAlone } = props;
  const [chosen, setChosen] = useState<string | null>(null);
  const [naming, setNaming] = useState(false);
  const film = useServer(["plate-lights", plate?.id], () => api.plateLights(plate!.id), {
    ready: plate !== null,
  });

  const lights = plate ? ofPlate(plate, film ?? [], balancing.trial) : ofLive(project, occasion, live);
  const put = (label: string, settings: Record<string, Setting>, done: Done) => {
    if (plate) balancing.tryOut({ ...settingsNow(lights), ...settings });
    else hands.occasion(label, withSettings(occasion, settings), done);
  };
  const one = (name: string) => lights.find((l) => l.name === name);
  const light = chosen === null ? undefined : one(chosen);
  const change = (name: string, patch: Partial<Setting>, done: Done) => {
    const now = one(name);
    if (now) put(`Balance of ${name}`, { [name]: { stops: now.stops, kelvin: now.kelvin, ...patch } }, done);
  };
  const scenes = project.scenes ?? [];
  const tried = plate !== null && balancing.trial !== null;
  return (
    <>
      <h2>Balance</h2>
      <p className="lead">
        {plate ? "Of this plate, from its own film." : "Pull a band taller for more of that light."}
      </p>
      {lights.length === 0 ? (
        <p className="quiet">
          {plate ? "Reading the film…" : "Nothing is lit yet: no light is in the film."}
        </p>
      ) : (
        <LightStack
          lights={lights}
          chosen={chosen}
          choose={setChosen}
          set={(name, stops, done) => change(name, { stops }, done)}
        />
      )}
      {light && (
        <section className={cls("one")} aria-label={light.name}>
          <div className={cls("head")}>
            <b>{light.name}</b>
            <Form.Check
              type="switch"
              id="light-on"
              label={light.stops === null ? "off" : "on"}
              checked={light.stops !== null}
              onChange={(e) => change(light.name, { stops: e.target.checked ? 0 : null }, true)}
            />
            {!plate && (
              <Button
                size="sm"
                variant={alone === light.name ? "dark" : "outline-dark"}
                aria-pressed={alone === light.name}
                onClick={() => setAlone(alone === light.name ? null : light.name)}
              >
                Alone
              </Button>
            )}
          </div>
          {light.stops !== null && (
            <Value
              label="Level"
              value={light.stops}
              min={LEAST}
              max={MOST}
              step={0.1}
              unit="stops"
              onChange={(stops, done) => change(light.name, { stops }, done)}
            />
          )}
          <Value
            label="Colour"
            value={light.kelvin ?? light.own ?? 6500}
            min={1500}
            max={15000}
            step={50}
            unit="K"
            log
            kelvin
            onChange={(kelvin, done) => change(light.name, { kelvin: Math.round(kelvin) }, done)}
          />
          {light.kelvin !== null && (
            <Button
              size="sm"
              variant="link"
              className="p-0"
              onClick={() => change(light.name, { kelvin: null }, true)}
            >
              Its own colour{light.own ? `, ${light.own} K` : ""}
            </Button>
          )}
        </section>
      )}
      {plate && (
        <div className={cls("acts")}>
          <Button
            size="sm"
            variant="dark"
            disabled={!tried}
            onClick={() =>
              hands.occasion("Levels of the plate", withSettings(occasion, settingsNow(lights)), true)
            }
          >
            Keep as the occasion's levels
          </Button>
          <Button size="sm" variant="outline-dark" disabled={!tried} onClick={() => balancing.tryOut(null)}>
            As it was made
          </Button>
        </div>
      )}
      <h3>Snapshots</h3>
      {scenes.length === 0 && <p className="quiet mb-1">All levels and colours under a name. None yet.</p>}
      {scenes.map((scene) => (
        <div key={scene.key} className={cls("snapshot")}>
          <button
            onClick={() =>
              plate
                ? put("", settingsOfScene(recalled(scene, project, occasion), occasion, lights), true)
                : hands.occasion(`Snapshot ${scene.name}`, recalled(scene, project, occasion), true)
            }
          >
            {scene.name}
          </button>
          <PartMenu
            about={`snapshot “${scene.name}”`}
            name={scene.name}
            rename={(name) =>
              hands.changes(
                "Rename snapshot",
                [{ part: "scene", key: scene.key, at: ["name"], value: name }],
                true,
              )
            }
            items={[
              {
                name: "Take away",
                act: () =>
                  hands.changes(
                    `Take snapshot ${scene.name} away`,
                    [{ part: "scene", key: scene.key, value: null }],
                    true,
                  ),
              },
            ]}
          />
        </div>
      ))}
      <Button size="sm" variant="outline-dark" disabled={lights.length === 0} onClick={() => setNaming(true)}>
        Keep a snapshot
      </Button>
      {naming && (
        <AskName
          title="Keep a snapshot"
          value={`Balance ${scenes.length + 1}`}
          verb="Keep"
          always
          accept={(name) => {
            const value = snapshotOf(freeKey(name, new Set(scenes.map((s) => s.key))), name, lights);
            hands.changes(`Keep snapshot ${name}`, [{ part: "scene", key: value.key, value }], true);
          }}
          close={() => setNaming(false)}
        />
      )}
      <DuskLine project={project} plates={props.plates} shown={plate} balancing={balancing} />
    </>
  );
}

const settingsNow = (lights: Light[]): Record<string, Setting> =>
  Object.fromEntries(lights.map(({ name, stops, kelvin }) => [name, { stops, kelvin }]));

/** What an occasion would set the lights of a film to. */
function settingsOfScene(
  patch: Partial<Occasion>,
  occasion: Occasion,
  lights: Light[],
): Record<string, Setting> {
  const moment = { ...occasion, ...patch };
  return Object.fromEntries(lights.map(({ name }) => [name, settingOf(moment, name)]));
}

/** Daylight first, then groups in their order. */
function ofLive(project: Project, occasion: Occasion, live: LivePicture): Light[] {
  const { header } = live;
  if (!header) return [];
  const groups = [...new Set((project.fixtures ?? []).map((f) => f.group ?? "Fixtures"))];
  const names = [...header.groups.filter((n) => !isGroup(n)), ...groups];
  return names.map((name) => ({
    name,
    ...settingOf(occasion, name),
    share: header.shares[name] ?? 0,
    own: header.lights?.[name]?.kelvin ?? null,
    colour: header.lights?.[name]?.colour ?? "#c4c4c4",
  }));
}

type FilmLight = Awaited<ReturnType<typeof api.plateLights>>[number];

function ofPlate(plate: Plate, film: FilmLight[], trial: Record<string, Setting> | null): Light[] {
  const settings =
    trial ??
    settingsOfPlate(
      plate,
      film.map((l) => l.name),
    );
  const given = film.map((l) => {
    const { stops } = settings[l.name] ?? { stops: 0 };
    return stops === null ? 0 : l.cd_m2 * 2 ** stops;
  });
  const sum = given.reduce((a, b) => a + b, 0) || 1;
  return film.map((l, k) => ({
    name: l.name,
    ...(settings[l.name] ?? { stops: 0, kelvin: null }),
    share: given[k] / sum,
    own: l.kelvin,
    colour: l.colour,
  }));
}
