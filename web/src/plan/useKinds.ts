import { useEffect, useState } from "react";

import { api, type KindFigures, type Project } from "../api/client";
import { useStore } from "../state/store";

/** Figures of the project's fixture kinds, read again when the kinds change. */
export function useKinds(slug: string, project: Project): KindFigures[] {
  const [kinds, setKinds] = useState<KindFigures[]>([]);
  const notify = useStore((s) => s.notify);
  const saved = useStore((s) => s.saved);
  const count = (saved?.description.kinds ?? project.kinds ?? []).map((k) => k.profile + k.key).join();
  useEffect(() => {
    let alive = true;
    api.kinds(slug).then(
      (k) => alive && setKinds(k),
      (error: Error) => notify(error.message, "error"),
    );
    return () => {
      alive = false;
    };
  }, [slug, count, notify]);
  return kinds;
}
