import { classesOf } from "../ui/classes";
import { HINTS, type PlanTool } from "./PlanTools";
import { WORKING_PLANE_M, type useLux } from "./useLux";
import roomStyles from "./plan.module.css";

const cls = classesOf(roomStyles);

interface Props {
  tool: PlanTool;
  /** A kind is in hand: pointing places one. */
  places: boolean;
  room: ReturnType<typeof useLux>["room"];
}

/** What the hand does on the plan now, and the light of the room in figures. */
export function PlanLegend({ tool, places, room }: Props) {
  const otherwise = places
    ? "click where it hangs (Shift: several, Alt: finely)"
    : "drag to move, Shift to choose more, the square to aim, wheel to zoom";
  return (
    <div className={cls("legend number")}>
      <span>{HINTS[tool] ?? otherwise}</span>
      {room && (
        <span>
          direct at {WORKING_PLANE_M} m: mean {Math.round(room.average)} lx, greatest{" "}
          {Math.round(room.greatest)} lx
        </span>
      )}
    </div>
  );
}
