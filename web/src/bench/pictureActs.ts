/** What pointing at the picture and dragging over it does, by the step of work. */
import type { Step } from "./steps";

type At = (x: number, y: number) => void;

export interface PictureActs {
  point?: At;
  drag?: At;
  /** Before it is dragged or let go; with Shift held or not. */
  press?: (x: number, y: number, shift: boolean) => void;
}

interface Hands {
  step: Step;
  /** A plate is shown in place of the live picture. */
  plateShown: boolean;
  metering: boolean;
  meter: { read: At };
  fixtures: {
    ready: boolean;
    pointing: unknown;
    point: (x: number, y: number, done: boolean) => Promise<unknown>;
  };
  things: { point: (place: { picture: [number, number] }) => Promise<unknown>; drag?: At };
  faces: { picking: unknown; point: (x: number, y: number) => Promise<unknown> };
  pickingHour: boolean;
  finishing: { inPicture: unknown; acts: Required<PictureActs> };
  lensing: { pointing: unknown; point: At };
  composing: PictureActs;
}

/** The meter goes before all else; nothing where the step has no use for the picture. */
export function pictureActs(hands: Hands): PictureActs {
  const { step, meter, fixtures, things, faces, finishing, lensing, composing } = hands;
  if (hands.metering) return { point: meter.read };
  if (step === "fixtures")
    return {
      point: fixtures.ready ? (x, y) => void fixtures.point(x, y, true) : undefined,
      drag: fixtures.pointing ? (x, y) => void fixtures.point(x, y, false) : undefined,
    };
  if (step === "stage") return { point: (x, y) => void things.point({ picture: [x, y] }), drag: things.drag };
  if (step === "daylight" && hands.pickingHour && faces.picking)
    return { point: (x, y) => void faces.point(x, y) };
  if (step === "finish" && finishing.inPicture && !hands.plateShown) return finishing.acts;
  if (step === "lens" && lensing.pointing && !hands.plateShown) return { point: lensing.point };
  if (step === "compose" && !hands.plateShown) return composing;
  return {};
}
