import { useEffect, useState } from "react";

import { api, type Look } from "../api/client";
import type { LiveHeader } from "../api/live";
import { useAnswer } from "../state/server";
import { classesOf } from "../ui/classes";
import styles from "./finish.module.css";

const cls = classesOf(styles);

interface Props {
  at: { slug: string; view: string; occasion: string };
  look: Look;
  number: number;
  header: LiveHeader | null;
}

/** Where the limit of a treatment holds, laid over the picture; and the line of its gradient. */
export function LimitMark({ at, look, number, header }: Props) {
  const { slug, view, occasion } = at;
  const limit = look.treatments?.[number]?.limit ?? null;
  const { answer, refusal } = useAnswer(
    ["limit", slug, view, occasion, look.treatments?.slice(0, number), limit, header?.width, header?.samples],
    () => api.limit(slug, view, occasion, look, number),
    { ready: header !== null && limit !== null, afterMs: 120 },
  );
  const [url, setUrl] = useState<string | null>(null);
  useEffect(() => {
    if (!answer) return setUrl(null);
    const made = URL.createObjectURL(answer);
    setUrl(made);
    return () => URL.revokeObjectURL(made);
  }, [answer]);
  const gradient = limit?.gradient;
  return (
    <>
      {url && limit && (
        <img src={url} alt="Where the treatment holds" className={cls("mark")} draggable={false} />
      )}
      {gradient && (
        <svg className={cls("mark")} viewBox="0 0 1 1" preserveAspectRatio="none" aria-hidden="true">
          <line
            x1={gradient.start[0]}
            y1={gradient.start[1]}
            x2={gradient.end[0]}
            y2={gradient.end[1]}
            stroke="#fff"
            strokeWidth="2"
            vectorEffect="non-scaling-stroke"
          />
        </svg>
      )}
      {refusal && limit && (
        <span className={cls("mark-told")} role="status">
          {refusal}
        </span>
      )}
    </>
  );
}
