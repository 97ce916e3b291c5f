import type { Run } from "../api/client";
import { Button } from "../ui/Button";
import { classesOf } from "../ui/classes";
import { isUnderway } from "./useSequences";
import styles from "./sequence.module.css";

const cls = classesOf(styles);

interface Props {
  /** The run looked at; none: the live picture. */
  run: Run | null;
  /** The frame of it. */
  number: number | null;
  second: number;
  seconds: number;
  playing: boolean;
  play: (on: boolean) => void;
  /** Frames that are ready to be played. */
  loaded: number;
  chosen: readonly [number, number] | null;
  again: (frames: number[]) => void;
  /** Look at the moment live; at the frames that are made. */
  toLive?: () => void;
  toFrames?: () => void;
}

/** Under the picture: play it, see the moment live or as it was made, make frames again. */
export function Bar(props: Props) {
  const { run, number, second, seconds, playing, play, loaded, chosen, again, toLive, toFrames } = props;
  const wanted =
    run === null || run.kind !== "traced"
      ? []
      : chosen
        ? run.made.filter((n) => n >= chosen[0] && n <= chosen[1])
        : number === null
          ? []
          : [number];
  return (
    <div className={cls("bar")}>
      <Button
        size="sm"
        variant="dark"
        disabled={!run || run.made.length < 2}
        title={!run ? "Make the quick version first, or show one that is made" : undefined}
        aria-pressed={playing}
        onClick={() => play(!playing)}
      >
        {playing ? "Pause" : "Play"}
      </Button>
      <span className="number">
        {second.toFixed(2)} of {seconds} s
        {playing && run && loaded < run.made.length && `, loading ${loaded} of ${run.made.length}`}
      </span>
      {toLive && (
        <Button size="sm" variant="outline-dark" onClick={toLive}>
          Live picture
        </Button>
      )}
      {toFrames && (
        <Button size="sm" variant="outline-dark" onClick={toFrames}>
          Frames made
        </Button>
      )}
      {run && wanted.length > 0 && (
        <Button size="sm" variant="outline-dark" disabled={isUnderway(run)} onClick={() => again(wanted)}>
          {chosen ? `Make frames ${chosen[0]} to ${chosen[1]} again` : "Make this frame again"}
        </Button>
      )}
      <span className={cls("hint")}>Shift chooses several frames</span>
    </div>
  );
}
