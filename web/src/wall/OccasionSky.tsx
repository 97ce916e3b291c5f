import { useEffect, useState } from "react";

import { api, type Occasion } from "../api/client";
import { hourOf } from "../ui/format";

/** A thin band with the colours of the sky in the hours around an occasion. */
export function OccasionSky({ slug, occasion }: { slug: string; occasion: Occasion }) {
  const [band, setBand] = useState("");
  const day = occasion.when.slice(0, 10);
  const turbidity = occasion.sky?.turbidity ?? 2.5;
  const hour = hourOf(occasion.when);
  useEffect(() => {
    let alive = true;
    api.sun(slug, day, turbidity).then(
      (sun) => {
        const near = sun.colours.filter((_, k) => Math.abs(sun.day.hours[k] - hour) <= 1.6);
        if (alive) setBand(`linear-gradient(90deg, ${near.join(", ")})`);
      },
      () => undefined,
    );
    return () => {
      alive = false;
    };
  }, [slug, day, turbidity, hour]);
  return <div className="sky" style={{ background: band }} aria-hidden="true" />;
}
