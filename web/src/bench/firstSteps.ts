/** Six notes that lead once round the bench; which one is open outlasts the page. */
import { useState } from "react";

import type { Step } from "./steps";

export interface Note {
  title: string;
  says: string;
  step: Step;
}

export const NOTES: Note[] = [
  {
    title: "Change the hour",
    says: "Drag along the band of hours under the picture, or the band of days below it. The picture follows.",
    step: "daylight",
  },
  {
    title: "See",
    says: "Press M and point at the picture: luminance, illuminance, zone. J shows the scopes. Air, season lays snow, rain and fog.",
    step: "air",
  },
  {
    title: "Set the lens",
    says: "Drag the window of exposure over the picture's light, turn the rings, take hold of the lens where it is drawn.",
    step: "lens",
  },
  {
    title: "Choose a look",
    says: "Looks are pictures of what is on the bench: press one, then choose by eye between three values of what you change.",
    step: "finish",
  },
  {
    title: "Make a plate",
    says: "P traces a plate of this view: a proof takes a minute or so. It comes into the strip, with its settings.",
    step: "finish",
  },
  {
    title: "Compare, save",
    says: "C holds the plate before against it. Save, under the picture, writes PNG, JPEG, TIFF or EXR.",
    step: "finish",
  },
];

const KEPT = "valleylight.first-steps";
/** An address that asks for the notes, as that of the demo does. */
const ASKED = "first-steps";

/** The number of the open note, null where they are put away. */
export function readNote(): number | null {
  const kept = localStorage.getItem(KEPT);
  const number = kept === null ? NaN : Number(kept);
  return Number.isInteger(number) && number >= 0 && number < NOTES.length ? number : null;
}

/** Open the first note where the address asks for it, when the page begins. */
export function beginWhereAsked(): void {
  if (new URLSearchParams(location.search).has(ASKED)) keepNote(0);
}

export function keepNote(number: number | null): void {
  if (number === null) localStorage.removeItem(KEPT);
  else localStorage.setItem(KEPT, String(number));
}

/** The open note, and how to turn to another or put them away. */
export function useFirstSteps() {
  const [note, setNote] = useState(readNote);
  const turn = (to: number | null) => {
    const next = to !== null && to >= NOTES.length ? null : to;
    keepNote(next);
    setNote(next);
  };
  return { note, turn };
}
