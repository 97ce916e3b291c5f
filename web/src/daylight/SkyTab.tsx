import { useState } from "react";
import { Form } from "react-bootstrap";

import { api, type Occasion, type Sky } from "../api/client";
import type { LiveHeader } from "../api/live";
import type { Hands } from "../bench/useBench";
import type { Done } from "../state/store";
import { Button } from "../ui/Button";
import { Value } from "../ui/Value";
import { PictureSky } from "./PictureSky";
import { SkyPicker } from "./SkyPicker";
import { useServer } from "../state/server";

interface Props {
  slug: string;
  occasion: Occasion;
  header: LiveHeader | null;
  hands: Hands;
}

const MODELS: [Sky["model"], string][] = [
  ["atmosphere", "Air and clouds"],
  ["cie", "CIE standard sky"],
  ["measured", "Measured weather"],
  ["picture", "Picture all round"],
];

/** The sky: which kind, its clouds, its horizon, or the picture that stands in for it. */
export function SkyTab({ slug, occasion, header, hands }: Props) {
  const types = useServer(["skies"], api.skies, { fixed: true }) ?? [];
  const [picking, setPicking] = useState(false);
  const [byPicture, setByPicture] = useState(false);
  const sky: Partial<Sky> = occasion.sky ?? {};
  const model = byPicture ? "picture" : (sky.model ?? "atmosphere");
  const clouds: Partial<NonNullable<Sky["clouds"]>> = sky.clouds ?? {};
  const horizon: Partial<NonNullable<Sky["horizon"]>> = sky.horizon ?? {};
  const measured: Partial<NonNullable<Sky["measured"]>> = sky.measured ?? {};
  const setSky = (label: string, patch: object, done: Done) =>
    hands.occasion(label, { sky: { ...sky, ...patch } as Sky }, done);
  const setClouds = (label: string, patch: object, done: Done) =>
    setSky(label, { clouds: { ...clouds, ...patch } }, done);
  const setHorizon = (patch: object, done: Done) =>
    setSky("Horizon", { horizon: { ...horizon, ...patch } }, done);

  return (
    <>
      <div className="value" style={{ gridTemplateColumns: "84px 1fr" }}>
        <label htmlFor="sky-model">Sky</label>
        <Form.Select
          id="sky-model"
          size="sm"
          value={model}
          onChange={(e) => {
            const next = e.target.value as Sky["model"];
            // A picture sky begins with its picture; until one is chosen the sky stays as it is.
            setByPicture(next === "picture" && !sky.picture);
            if (next !== "picture" || sky.picture) setSky("Sky", { model: next }, true);
          }}
        >
          {MODELS.map(([key, name]) => (
            <option key={key} value={key}>
              {name}
            </option>
          ))}
        </Form.Select>
      </div>
      {model === "atmosphere" && (
        <>
          <p className="mt-2 mb-1">
            <b>{clouds.name || "Clear"}</b>{" "}
            <Button
              size="sm"
              variant="outline-dark"
              aria-expanded={picking}
              onClick={() => setPicking(!picking)}
            >
              {picking ? "Close the catalogue" : "Choose a sky"}
            </Button>
          </p>
          {picking && (
            <SkyPicker
              azimuth={header?.azimuth_deg ?? 180}
              altitude={header?.by_moon ? -10 : (header?.altitude_deg ?? 35)}
              chosen={clouds.name || "Clear"}
              choose={(line) =>
                setSky(
                  `Sky: ${line.name}`,
                  {
                    model: "atmosphere",
                    turbidity: line.sky.turbidity,
                    clouds: { ...line.sky.clouds, name: line.name },
                    glow: line.sky.glow,
                  },
                  true,
                )
              }
            />
          )}
          {(clouds.layers?.length ?? 0) > 0 && (
            <>
              <Value
                label="Clouds turn"
                value={clouds.turn_deg ?? 0}
                min={-180}
                max={180}
                step={5}
                unit="°"
                onChange={(v, done) => setClouds("Clouds turned", { turn_deg: v }, done)}
              />
              <Value
                label="Drift east"
                value={clouds.east_m ?? 0}
                min={-16000}
                max={16000}
                step={100}
                unit="m"
                onChange={(v, done) => setClouds("Clouds moved", { east_m: v }, done)}
              />
              <Value
                label="Drift north"
                value={clouds.north_m ?? 0}
                min={-16000}
                max={16000}
                step={100}
                unit="m"
                onChange={(v, done) => setClouds("Clouds moved", { north_m: v }, done)}
              />
              <Value
                label="Cover"
                value={(clouds.layers?.[0]?.cover ?? 0) * 100}
                min={0}
                max={100}
                step={1}
                unit="%"
                onChange={(v, done) =>
                  setClouds(
                    "Cover",
                    { layers: clouds.layers?.map((l, k) => (k ? l : { ...l, cover: v / 100 })) },
                    done,
                  )
                }
              />
              <p className="mb-1">
                <Button
                  size="sm"
                  variant="outline-dark"
                  onClick={() => setClouds("Other clouds", { seed: ((clouds.seed ?? 1) % 999) + 1 }, true)}
                >
                  Other clouds of the kind
                </Button>
              </p>
            </>
          )}
        </>
      )}
      {model === "cie" && (
        <div className="value" style={{ gridTemplateColumns: "84px 1fr" }}>
          <label htmlFor="sky-type">Type</label>
          <Form.Select
            id="sky-type"
            size="sm"
            value={sky.cie_type ?? 12}
            onChange={(e) => setSky("Sky", { cie_type: Number(e.target.value) }, true)}
          >
            {types.map((s) => (
              <option key={s.number} value={s.number}>
                {s.number} {s.name}
              </option>
            ))}
          </Form.Select>
        </div>
      )}
      {model === "measured" && (
        <>
          <Value
            label="Direct"
            value={measured.direct_normal_lx ?? 60000}
            min={0}
            max={140000}
            step={500}
            unit="lx"
            onChange={(v, done) =>
              setSky("Measured sun", { measured: { ...measured, direct_normal_lx: v } }, done)
            }
          />
          <Value
            label="Diffuse"
            value={measured.diffuse_horizontal_lx ?? 18000}
            min={100}
            max={100000}
            step={100}
            unit="lx"
            onChange={(v, done) =>
              setSky("Measured sky", { measured: { ...measured, diffuse_horizontal_lx: v } }, done)
            }
          />
          <p className="quiet">Direct on a plane facing the sun, diffuse on level ground.</p>
        </>
      )}
      {model === "picture" ? (
        <PictureSky
          slug={slug}
          sky={sky}
          when={occasion.when}
          setSky={(label, patch, done) => {
            setByPicture(false);
            setSky(label, patch, done);
          }}
        />
      ) : (
        <>
          <Value
            label="Turbidity"
            value={sky.turbidity ?? 2.5}
            min={1.5}
            max={8}
            step={0.1}
            unit=""
            onChange={(v, done) => setSky("Turbidity", { turbidity: v }, done)}
          />
          <Form.Check
            type="switch"
            id="sky-haze"
            label="Far things seen through this air"
            checked={sky.haze ?? true}
            onChange={(e) => setSky("Haze", { haze: e.target.checked }, true)}
          />
        </>
      )}
      <Value
        label="Sky level"
        value={sky.level_stops ?? 0}
        min={-6}
        max={6}
        step={0.1}
        unit="stops"
        onChange={(v, done) => setSky("Sky level", { level_stops: v }, done)}
      />
      {model !== "picture" && (
        <>
          <hr />
          <h3>Horizon</h3>
          <Value
            label="Height"
            value={horizon.height_deg ?? 0}
            min={-5}
            max={15}
            step={0.1}
            unit="°"
            onChange={(v, done) => setHorizon({ height_deg: v }, done)}
          />
          <Value
            label="Blend"
            value={horizon.blend_deg ?? 0.6}
            min={0.05}
            max={20}
            step={0.1}
            unit="°"
            log
            onChange={(v, done) => setHorizon({ blend_deg: v }, done)}
          />
          <Value
            label="Far ground"
            value={Math.round(((horizon.ground ?? [0.14, 0.15, 0.1])[1] as number) * 100)}
            min={2}
            max={90}
            step={1}
            unit="%"
            onChange={(v, done) => {
              const [r, g, b] = horizon.ground ?? [0.14, 0.15, 0.1];
              const k = v / 100 / Math.max(g, 0.01);
              setHorizon({ ground: [r, g, b].map((c) => Number(Math.min(c * k, 1).toFixed(3))) }, done);
            }}
          />
          <Value
            label="Town glow"
            value={sky.glow?.luminance ?? 0}
            min={0}
            max={2}
            step={0.01}
            unit="cd/m²"
            onChange={(v, done) => setSky("Glow of a town", { glow: { ...sky.glow, luminance: v } }, done)}
          />
          <Form.Check
            type="switch"
            id="sky-moon"
            label="Moon"
            checked={sky.moon ?? true}
            onChange={(e) => setSky("Moon", { moon: e.target.checked }, true)}
          />
          <Form.Check
            type="switch"
            id="sky-stars"
            label="Stars"
            checked={sky.stars ?? true}
            onChange={(e) => setSky("Stars", { stars: e.target.checked }, true)}
          />
        </>
      )}
      <p className="mt-2 mb-0">
        Save this sky: <a href={api.skyFile(slug, occasion.key, "exr")}>EXR</a>{" "}
        <a href={api.skyFile(slug, occasion.key, "hdr")}>HDR</a>
      </p>
    </>
  );
}
