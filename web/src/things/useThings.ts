import { api, type FamilyLine, type ThingLine } from "../api/client";
import { queries, useModels, useServer } from "../state/server";

const NO_FAMILIES: FamilyLine[] = [];
const FAMILIES = ["families of objects"];
const NO_THINGS: ThingLine[] = [];

/** The families of objects there are. */
export function useFamilies(): FamilyLine[] {
  return useServer(FAMILIES, api.families, { fixed: true, told: true }) ?? NO_FAMILIES;
}

/** Ask for the catalogue anew: an object of one's own came or went. */
export const familiesChanged = () => queries.invalidateQueries({ queryKey: FAMILIES });

/** Boxes of all things on the stage. */
export function useThings(slug: string): ThingLine[] {
  return useServer(["things", slug, useModels()], () => api.things(slug)) ?? NO_THINGS;
}
