import type { Look, TreatmentNumber } from "../api/client";
import type { LiveHeader } from "../api/live";
import { classesOf } from "../ui/classes";
import { beside } from "./treatments";
import { useTried } from "./useTried";
import styles from "./finish.module.css";

const cls = classesOf(styles);

interface Props {
  at: { slug: string; view: string; occasion: string };
  header: LiveHeader | null;
  /** The number that is in hand, as its form shows it, and its value. */
  form: TreatmentNumber;
  about: string;
  value: number;
  /** The look under another value. */
  under: (value: number) => Look;
  choose: (value: number) => void;
  close: () => void;
}

/** The picture under three values of what is being changed: choosing by eye. It stands at the foot of the sheet, so nothing moves. */
export function ThreeValues({ at, header, form, about, value, under, choose, close }: Props) {
  const { low, high, step, unit } = form;
  const [less, more] = beside(value, low, high, step);
  const values = [less, value, more];
  const pictures = useTried(at, values.map(under), 160, header);
  return (
    <section className={cls("foot")} aria-label={`${about}, by eye`}>
      <div className={cls("head")}>
        <b>{about}</b>
        <button
          type="button"
          className="btn-close ms-auto"
          aria-label="Close the three values"
          onClick={close}
        />
      </div>
      <div className={cls("three")}>
        {values.map((v, k) => (
          <button
            key={k}
            type="button"
            className={cls(k === 1 ? "now" : "")}
            disabled={v === value}
            onClick={() => choose(v)}
          >
            {pictures?.[k] ? (
              <img src={pictures[k]} alt="" draggable={false} />
            ) : (
              <span className={cls("blank")} />
            )}
            <span className="number">
              {Number(v.toPrecision(4))} {unit}
            </span>
          </button>
        ))}
      </div>
    </section>
  );
}
