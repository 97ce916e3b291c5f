/** The order of work down the left of the bench, and what each step says of its state. */
import { type Lens, type Look, type Occasion, type Project, type View } from "../api/client";
import { hourOf, hourText } from "../ui/format";

export const STEPS = ["stage", "daylight", "fixtures", "air", "lens", "finish", "compose"] as const;
export type Step = (typeof STEPS)[number];

export const STEP_NAMES: Record<Step, string> = {
  stage: "Stage",
  daylight: "Daylight",
  fixtures: "Fixtures",
  air: "Air, season",
  lens: "Lens",
  finish: "Finish",
  compose: "Compose",
};

/** Width over height of a view's picture. */
export function aspectOf(view: View): number {
  const [w, h] = view.format ?? [16, 9];
  return w / h;
}

export function lensOf(view: View, occasion: string): Lens {
  return view.lens_at?.[occasion] ?? view.lens ?? {};
}

export function lookOf(project: Project, view: View, occasion: string): Look {
  const key = view.look_at?.[occasion];
  return project.looks!.find((l) => l.key === key) ?? project.looks![0];
}

export function exposureValue(lens: Lens): number {
  const { f_number = 8, shutter_s = 1 / 60, iso = 100 } = lens;
  return Math.log2((f_number * f_number) / shutter_s) - Math.log2(iso / 100);
}

export function stateOf(
  step: Step,
  project: Project,
  view: View,
  occasion: Occasion,
  altitude: number | null,
): string {
  switch (step) {
    case "stage": {
      const all = project.placements ?? [];
      const models = all.filter((p) => !p.made).length === all.length;
      const told = all.length === 0 ? "empty" : counted(all.length, models ? "model" : "thing");
      return project.stage?.white_card ? `${told}, card` : told;
    }
    case "daylight":
      return `${hourText(hourOf(occasion.when))}${altitude === null ? "" : `, ${altitude.toFixed(0)}°`}`;
    case "fixtures": {
      const all = project.fixtures ?? [];
      const lit = all.filter(
        (f) => f.on !== false && (occasion.levels?.[f.group ?? "Fixtures"] ?? 100) > 0,
      ).length;
      return lit === 0 ? `${all.length} off` : `${lit} of ${all.length} on`;
    }
    case "air":
      return weatherText(occasion);
    case "lens":
      return `EV ${exposureValue(lensOf(view, occasion.key)).toFixed(1)}`;
    case "finish":
      return lookOf(project, view, occasion.key).name ?? "";
    case "compose": {
      const here = (project.cutouts ?? []).filter(
        (c) => c.view === view.key && !c.hidden && !c.hidden_at?.includes(occasion.key),
      );
      return here.length ? counted(here.length, "cut-out") : "empty";
    }
  }
}

/** What the air of an occasion is like, in a few words. */
function weatherText(occasion: Occasion): string {
  const { snow, rain } = occasion.weather ?? {};
  const told = [
    occasion.air?.on && "fog",
    (snow?.depth_cm ?? 0) > 0 && `${snow!.depth_cm} cm snow`,
    (rain?.mm_h ?? 0) > 0 ? "rain" : (rain?.wet ?? 0) > 0 && "wet",
  ].filter(Boolean);
  return told.length ? told.join(", ") : (occasion.season ?? "summer");
}

const counted = (count: number, word: string) => `${count} ${word}${count > 1 ? "s" : ""}`;
