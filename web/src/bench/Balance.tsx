import type { Occasion, Project } from "../api/client";
import { Value } from "../ui/Value";
import type { Hands, LivePicture } from "./useBench";
import type { Done } from "../state/store";

interface Props {
  project: Project;
  occasion: Occasion;
  hands: Hands;
  live: LivePicture;
}

/** The level of every light of the picture, changed without tracing it again. */
export function Balance({ project, occasion, hands, live }: Props) {
  const groups = [...new Set((project.fixtures ?? []).map((f) => f.group ?? "Fixtures"))];
  const traced = new Set(live.header?.groups ?? []);
  const percent = (v: number) => `${Math.round(v)} %`;
  const sun = occasion.sun ?? {};
  const sky = occasion.sky ?? {};
  return (
    <>
      <h2>Balance</h2>
      <p className="lead">
        Levels of what lights this picture. A light at 0 % is left out when the picture is traced.
      </p>
      <h3>Daylight, in stops</h3>
      <Value
        label="Sun"
        value={sun.level_stops ?? 0}
        min={-6}
        max={6}
        step={0.1}
        unit="stops"
        onChange={(v, done) => hands.occasion("Sun level", { sun: { ...sun, level_stops: v } }, done)}
      />
      <Value
        label="Sky"
        value={sky.level_stops ?? 0}
        min={-6}
        max={6}
        step={0.1}
        unit="stops"
        onChange={(v, done) => hands.occasion("Sky level", { sky: { ...sky, level_stops: v } }, done)}
      />
      <h3>Fixture groups</h3>
      {groups.length === 0 && <p className="quiet">No fixtures yet. Place some on the ceiling plan.</p>}
      {groups.map((group) => {
        const change = (v: number, done: Done) =>
          hands.occasion(`Level of ${group}`, { levels: { ...occasion.levels, [group]: v } }, done);
        return (
          <Value
            key={group}
            label={group}
            value={occasion.levels?.[group] ?? 100}
            min={0}
            max={200}
            step={1}
            format={percent}
            unit="%"
            onChange={(v, done) => change(v, done)}
          />
        );
      })}
      <p className="quiet mt-2 mb-0">
        In the film now: <span className="number">{[...traced].join(", ") || "nothing yet"}</span>
      </p>
    </>
  );
}
