import type { Look } from "../api/client";
import type { LiveHeader } from "../api/live";
import { classesOf } from "../ui/classes";
import { useTried } from "./useTried";
import styles from "./finish.module.css";

const cls = classesOf(styles);

interface Props {
  at: { slug: string; view: string; occasion: string };
  header: LiveHeader | null;
  /** What is chosen between, in words, and the look that each gives. */
  values: { name: string; look: Look; choose?: () => void }[];
  about: string;
}

/** The picture under three values of what is being changed: choosing by eye. */
export function ThreeValues({ at, header, values, about }: Props) {
  const looks = values.map((v) => v.look);
  const pictures = useTried(at, looks, 160, header);
  return (
    <div className={cls("three")} role="group" aria-label={`${about}, by eye`}>
      {values.map(({ name, choose }, k) => (
        <button
          key={k}
          type="button"
          className={cls(choose ? "" : "now")}
          disabled={!choose}
          // The field in hand keeps the focus, or the strip would go as soon as it is pressed.
          onMouseDown={(e) => e.preventDefault()}
          onClick={choose}
        >
          {pictures?.[k] ? (
            <img src={pictures[k]} alt="" draggable={false} />
          ) : (
            <span className={cls("blank")} />
          )}
          <span className="number">{name}</span>
        </button>
      ))}
    </div>
  );
}
