import { type Occasion } from "../api/client";
import { hourOf } from "../ui/format";
import { useSunOfDay } from "../daylight/useSunOfDay";

/** A thin band with the colours of the sky in the hours around an occasion. */
export function OccasionSky({ slug, occasion }: { slug: string; occasion: Occasion }) {
  const day = occasion.when.slice(0, 10);
  const turbidity = occasion.sky?.turbidity ?? 2.5;
  const hour = hourOf(occasion.when);
  const sun = useSunOfDay(slug, day, turbidity);
  const near = sun?.colours.filter((_, k) => Math.abs(sun.day.hours[k] - hour) <= 1.6);
  const band = near ? `linear-gradient(90deg, ${near.join(", ")})` : "";
  return <div className="sky" style={{ background: band }} aria-hidden="true" />;
}
