import { api, type TreatmentLine } from "../api/client";
import { useServer } from "../state/server";

const NONE: TreatmentLine[] = [];

/** All kinds of treatment, with their forms; none until they are there. */
export function useTreatments(): TreatmentLine[] {
  return useServer(["treatments"], api.treatments, { told: true, fixed: true }) ?? NONE;
}
