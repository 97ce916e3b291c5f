import { ProgressBar } from "react-bootstrap";

import type { Plate } from "../api/client";
import { Button } from "../ui/Button";
import { timeLeft } from "../ui/format";

interface Props {
  making: Plate | undefined;
  halted: Plate | undefined;
  stop: (job: number) => void;
  resume: (job: number) => void;
}

/** The plate of this view and occasion that is being made, or was stopped. */
export function Underway({ making, halted, stop, resume }: Props) {
  if (making?.job) return <Making plate={making} stop={stop} />;
  if (!halted?.job) return null;
  const { job } = halted;
  return (
    <div className="d-flex align-items-center gap-3 pb-2" role="status">
      <b>{halted.quality}</b>
      <span className="number flex-grow-1">
        stopped at {job.samples_done} of {halted.samples} samples
      </span>
      <Button size="sm" variant="outline-dark" onClick={() => resume(job.id)}>
        Go on
      </Button>
    </div>
  );
}

function Making({ plate, stop }: { plate: Plate; stop: (job: number) => void }) {
  const { job } = plate;
  if (!job) return null;
  const share = job.samples_done / plate.samples;
  return (
    <div className="d-flex align-items-center gap-3 pb-2" role="status">
      <b>{plate.quality}</b>
      <ProgressBar
        className="flex-grow-1"
        now={share * 100}
        aria-label={`Progress of the ${plate.quality}`}
      />
      <span className="number">
        {job.status === "waiting"
          ? "waiting its turn"
          : `${job.samples_done} of ${plate.samples} samples · ${timeLeft(job.seconds_left)} left`}
      </span>
      {job.message && <span className="quiet">{job.message}</span>}
      <Button size="sm" variant="outline-dark" onClick={() => stop(job.id)}>
        Stop
      </Button>
    </div>
  );
}
