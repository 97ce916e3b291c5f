import { api, type View } from "../api/client";
import { useServer } from "../state/server";

/** The rings of a lens in third stops, and the light that is usual. */
export const useScales = () => useServer(["lens-scales"], () => api.lensScales(), { fixed: true });

/** What a view's lens does as it is set, or as it is being tried. */
export const useReading = (view: View, occasion: string) =>
  useServer(["lens-reading", { ...view, name: "" }, occasion], () => api.lensReading(view, occasion));
