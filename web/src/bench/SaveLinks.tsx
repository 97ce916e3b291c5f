import { useState } from "react";

import { api, type Plate } from "../api/client";
import { classesOf } from "../ui/classes";
import { SavePlates } from "./SavePlates";
import styles from "./Easel.module.css";

const cls = classesOf(styles);

/** A plate's own files, and the way to others. */
export function SaveLinks({ slug, plates, shown }: { slug: string; plates: Plate[]; shown: Plate }) {
  const [open, setOpen] = useState(false);
  const name = `${shown.view}-${shown.occasion}-${shown.id}`;
  return (
    <span className={cls("saves")}>
      <a href={api.picture(shown.id)} download={`${name}.png`}>
        Save PNG
      </a>{" "}
      <a href={api.linear(shown.id)} download={`${name}.exr`}>
        Save EXR
      </a>{" "}
      <button type="button" onClick={() => setOpen(true)}>
        Save as…
      </button>
      {open && <SavePlates {...{ slug, plates }} shown={shown.id} close={() => setOpen(false)} />}
    </span>
  );
}
