import { api, type CatalogueSurface, type StageSurface } from "../api/client";
import { queries, useServer } from "../state/server";
import { useStore } from "../state/store";

const NONE: CatalogueSurface[] = [];
const CATALOGUE = ["catalogue of surfaces"];

/** The surfaces of the stage, and how much of a view's picture each is. */
export function useSurfaces(slug: string, view: string, occasion: string): StageSurface[] | undefined {
  const revision = useStore((s) => s.saved?.revision);
  return useServer(["surfaces", slug, view, occasion, revision], () => api.surfaces(slug, view, occasion), {
    told: true,
    otherwise: [],
  });
}

/** Surfaces to start from: those that were kept by hand first. */
export function useCatalogue(): CatalogueSurface[] {
  return useServer(CATALOGUE, api.catalogueSurfaces, { fixed: true }) ?? NONE;
}

/** Ask for the catalogue anew: something of one's own came or went. */
export const catalogueChanged = () => queries.invalidateQueries({ queryKey: CATALOGUE });
