import { api } from "../api/client";
import { useModels, useServer } from "./server";

/** Figures of what stands on a project's stage. */
export function useStage(slug: string) {
  return useServer(["stage", slug, useModels()], () => api.stage(slug));
}
