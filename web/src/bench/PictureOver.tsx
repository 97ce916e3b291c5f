import type { Occasion, View } from "../api/client";
import type { LiveHeader } from "../api/live";
import { LimitMark } from "../finish/LimitMark";
import type { FinishPointer } from "../finish/useFinishPointer";
import { CutOutsOver } from "../compose/CutOutsOver";
import { LensOver } from "../lens/LensOver";
import type { Desk } from "./desk";
import type { Step } from "./steps";
import type { AtBench, Hands } from "./useBench";

interface Props {
  step: Step;
  desk: Desk;
  put: (what: Partial<Desk>) => void;
  view: View;
  occasion: Occasion;
  hands: Hands;
  bench: AtBench;
  finishing: FinishPointer;
  header: LiveHeader | null;
}

/** What the step of work lays over the live picture. */
export function PictureOver({ step, desk, put, view, occasion, hands, bench, finishing, header }: Props) {
  if (step === "lens")
    return (
      <LensOver
        {...{ view, hands, guides: desk.guides, cropping: desk.cropping, occasion: occasion.key }}
        leaveCrop={() => put({ cropping: false })}
      />
    );
  if (step === "finish" && desk.marked !== null && finishing.look)
    return <LimitMark {...{ at: bench, look: finishing.look, number: desk.marked, header }} />;
  if (step === "compose") return <CutOutsOver at={bench} header={header} />;
  return null;
}
