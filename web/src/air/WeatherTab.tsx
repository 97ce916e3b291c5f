import type { Occasion, Project, View, Weather } from "../api/client";
import type { Hands } from "../bench/useBench";
import type { Done } from "../state/store";
import { classesOf } from "../ui/classes";
import { Value } from "../ui/Value";
import styles from "./air.module.css";
import { GroundProfile } from "./GroundProfile";
import { Recipes } from "./Recipes";
import { WindDial } from "./WindDial";

const cls = classesOf(styles);

interface Props {
  slug: string;
  project: Project;
  view: View;
  occasion: Occasion;
  hands: Hands;
}

/** Snow, rain and wind: what lies is pulled up on a profile of the ground, the wind is set on its dial, the rest typed. */
export function WeatherTab({ slug, view, occasion, hands }: Props) {
  const weather: Weather = occasion.weather ?? {};
  const [snow, rain, wind] = [weather.snow ?? {}, weather.rain ?? {}, weather.wind ?? {}];
  const set = (label: string, to: Weather, done: Done) => hands.occasion(label, { weather: to }, done);
  const ofSnow = (label: string, patch: Partial<typeof snow>, done: Done) =>
    set(label, { ...weather, snow: { ...snow, ...patch } }, done);
  const ofRain = (label: string, patch: Partial<typeof rain>, done: Done) =>
    set(label, { ...weather, rain: { ...rain, ...patch } }, done);
  const lies = (snow.depth_cm ?? 0) > 0;
  return (
    <>
      <GroundProfile weather={weather} set={set} />
      <div className={cls("pair")}>
        <p className={cls("says")}>
          Pull up the snow, pull at the water of the hollows. The dial sets the wind by the tail of its arrow:
          it drives drops and flakes, and stirs water.
        </p>
        <WindDial wind={wind} set={(to, done) => set("Wind", { ...weather, wind: to }, done)} />
      </div>
      <h3>Snow</h3>
      {lies && (
        <>
          <Value
            label="Left bare"
            value={100 * (snow.bare ?? 0)}
            min={0}
            max={100}
            step={5}
            unit="%"
            onChange={(v, done) => ofSnow("Bare patches", { bare: v / 100 }, done)}
          />
          <Value
            label="Grains"
            value={snow.grain_mm ?? 0.2}
            min={0.05}
            max={3}
            step={0.05}
            unit="mm"
            log
            onChange={(v, done) => ofSnow("Grain of the snow", { grain_mm: v }, done)}
          />
          <Value
            label="Sun since"
            value={snow.sun_hours ?? 0}
            min={0}
            max={60}
            step={1}
            unit="h"
            onChange={(v, done) => ofSnow("Hours of sun on the snow", { sun_hours: v }, done)}
          />
        </>
      )}
      <Value
        label="Flakes"
        value={snow.flakes_mm_h ?? 0}
        min={0}
        max={20}
        step={0.1}
        unit="mm/h"
        onChange={(v, done) => ofSnow("Flakes in the air", { flakes_mm_h: v }, done)}
      />
      {(snow.flakes_mm_h ?? 0) > 0 && (
        <Value
          label="Flake size"
          value={snow.flake_mm ?? 4}
          min={0.5}
          max={25}
          step={0.5}
          unit="mm"
          onChange={(v, done) => ofSnow("Size of the flakes", { flake_mm: v }, done)}
        />
      )}
      <h3>Rain</h3>
      <Value
        label="Wet"
        value={100 * (rain.wet ?? 0)}
        min={0}
        max={100}
        step={5}
        unit="%"
        onChange={(v, done) => ofRain("Wetness", { wet: v / 100 }, done)}
      />
      <Value
        label="Drops"
        value={rain.mm_h ?? 0}
        min={0}
        max={150}
        step={1}
        unit="mm/h"
        onChange={(v, done) => ofRain("Rain in the air", { mm_h: v }, done)}
      />
      {(rain.puddles ?? 0) > 0 && (
        <Value
          label="Hollows"
          value={rain.hollow_mm ?? 12}
          min={0}
          max={200}
          step={1}
          unit="mm"
          onChange={(v, done) => ofRain("Depth of small hollows", { hollow_mm: v }, done)}
        />
      )}
      <Recipes slug={slug} view={view.key} occasion={occasion.key} hands={hands} />
    </>
  );
}
