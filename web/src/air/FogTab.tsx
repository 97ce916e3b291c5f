import { Form } from "react-bootstrap";

import { api, type Air, type Change, type Occasion, type Project, type View } from "../api/client";
import type { Hands } from "../bench/useBench";
import { useModels, useServer } from "../state/server";
import type { Done } from "../state/store";
import { classesOf } from "../ui/classes";
import { Value } from "../ui/Value";
import styles from "./air.module.css";
import { lengthText } from "./fog";
import { FogDrawing } from "./FogDrawing";

const cls = classesOf(styles);

interface Props {
  slug: string;
  project: Project;
  view: View;
  occasion: Occasion;
  hands: Hands;
}

/** Fog by what people know of it: how far one sees, where it lies, what it is made of. */
export function FogTab({ slug, view, occasion, hands }: Props) {
  const models = useModels();
  const air: Air = occasion.air ?? {};
  const stands = JSON.stringify([view.position, view.target]);
  const offers = useServer(["air", slug, models, view.key, stands], () => api.airOffers(slug, view.key), {
    afterMs: 300,
  });
  const scales = useServer(["air scales"], api.airScales, { fixed: true });
  const sight = scales?.sight_over_free_path;
  const set = (label: string, patch: Partial<Air>, done: Done) =>
    hands.occasion(label, { air: { ...air, ...patch } }, done);
  const path = air.free_path_m ?? 200;
  const length = offers?.[0]?.length_m;
  const kind = scales?.kinds.find((k) => k.forward === air.forward && k.back_share === air.back_share);
  return (
    <>
      <Form.Check
        type="switch"
        id="fog-on"
        label="Fog (key F: with and without)"
        checked={air.on ?? false}
        onChange={(e) => set(e.target.checked ? "Fog on" : "Fog off", { on: e.target.checked }, true)}
      />
      <p className={cls("says")}>
        Made for what this view sees{length ? `, ${lengthText(length)} to its target` : ""}. Takes longer to
        trace: leave it off while testing.
      </p>
      <div className={cls("offers")} role="group" aria-label="Strengths of fog">
        {offers?.map((o) => (
          <button
            key={o.name}
            className={cls("offer")}
            aria-pressed={
              !!air.on &&
              o.air.free_path_m === air.free_path_m &&
              (o.air.fall_m ?? null) === (air.fall_m ?? null)
            }
            onClick={() => hands.occasion(`Fog: ${o.name}`, { air: o.air }, true)}
          >
            {o.name}
            <small>sight {lengthText(o.sight_m)}</small>
          </button>
        ))}
      </div>
      <FogDrawing slug={slug} view={view} air={air} set={set} />
      {sight && (
        <Value
          label="Sight"
          value={path * sight}
          min={1}
          max={1e6}
          step={1}
          unit="m"
          log
          format={(v) => lengthText(v)}
          onChange={(v, done) =>
            set("Sight", { free_path_m: Math.max(Number((v / sight).toPrecision(4)), 0.2), on: true }, done)
          }
        />
      )}
      {length && (
        <p className={cls("says")}>
          {(100 * Math.exp(-length / path)).toFixed(0)} % of the light comes through to the target at the
          density of the ground.
        </p>
      )}
      <div className={cls("offers")} role="group" aria-label="What the fog is made of">
        {scales?.kinds.map((k) => (
          <button
            key={k.key}
            className={cls("offer")}
            aria-pressed={kind === k}
            onClick={() =>
              set(
                `Fog of ${k.name.toLowerCase()}`,
                { forward: k.forward, back: k.back, back_share: k.back_share, colour: k.colour },
                true,
              )
            }
          >
            {k.name}
            <small>{k.radius_um} µm</small>
          </button>
        ))}
      </div>
      <Form.Select
        size="sm"
        aria-label="Where the fog is"
        value={air.extent ?? "everywhere"}
        onChange={(e) => set("Extent of the fog", { extent: e.target.value as Air["extent"] }, true)}
      >
        <option value="everywhere">Everywhere</option>
        <option value="box">In a box</option>
      </Form.Select>
      <Value
        label="Uneven"
        value={air.unevenness ?? 0}
        min={0}
        max={1}
        step={0.05}
        onChange={(v, done) => set("Unevenness of the fog", { unevenness: v }, done)}
      />
      {(air.unevenness ?? 0) > 0 && (
        <Value
          label="Banks of"
          value={air.uneven_size_m ?? 2}
          min={0.1}
          max={1000}
          step={0.1}
          unit="m"
          log
          onChange={(v, done) => set("Size of the fog's banks", { uneven_size_m: v }, done)}
        />
      )}
      <Form.Check
        type="switch"
        id="fog-outdoors"
        label="Closed rooms are clear"
        checked={air.outdoors ?? false}
        onChange={(e) => set("Fog outdoors", { outdoors: e.target.checked }, true)}
      />
      <Form.Check
        type="switch"
        id="fog-beams"
        label="Beams of sun and lamps only, by hand"
        checked={air.beams_only ?? false}
        onChange={(e) => set("Beams only", { beams_only: e.target.checked }, true)}
      />
      <Form.Check
        type="switch"
        id="fog-multiple"
        label="Light is scattered on between drops"
        checked={air.multiple ?? true}
        onChange={(e) => set("Scattering between drops", { multiple: e.target.checked }, true)}
      />
      <Value
        label="Far haze"
        name="Haze of far things, times that of the sky's air"
        value={occasion.sky?.haze_times ?? 1}
        min={0}
        max={50}
        step={0.1}
        unit="×"
        onChange={(v, done) =>
          hands.changes(
            "Haze of far things",
            [{ part: "occasion", key: occasion.key, at: ["sky", "haze_times"], value: v } as Change],
            done,
          )
        }
      />
    </>
  );
}
