import { api, type KindFigures, type Project } from "../api/client";
import { useServer } from "../state/server";
import { useStore } from "../state/store";

const NONE: KindFigures[] = [];

/** Figures of the project's fixture kinds, read again when the kinds change. */
export function useKinds(slug: string, project: Project): KindFigures[] {
  const saved = useStore((s) => s.saved);
  const kinds = (saved?.description.kinds ?? project.kinds ?? []).map((k) => k.profile + k.key);
  return useServer(["kinds", slug, kinds], () => api.kinds(slug), { told: true }) ?? NONE;
}
