import { api } from "../api/client";
import { Button } from "../ui/Button";
import { classesOf } from "../ui/classes";
import { useArrivals } from "./arrivals";
import styles from "./readings.module.css";

const cls = classesOf(styles);

/** Models on their way in, each with how far it is and a stop. */
export function Readings() {
  const readings = useArrivals((s) => s.readings);
  if (readings.length === 0) return null;
  return (
    <section className={cls("readings")} aria-label="Models on their way in">
      {readings.map(({ ticket, name, words, share }) => (
        <div key={ticket} className={cls("reading")}>
          <div>
            <b>{name}</b> <span className="quiet">{words}</span>
          </div>
          <progress aria-label={`${name}: ${words}`} max={1} value={share} />
          <Button
            size="sm"
            variant="outline-dark"
            aria-label={`Stop reading ${name}`}
            onClick={() => void api.stopReading(ticket).catch(() => undefined)}
          >
            Stop
          </Button>
        </div>
      ))}
    </section>
  );
}
