import { useSurfaces } from "./useSurfaces";
import { classesOf } from "../ui/classes";
import styles from "./surfaces.module.css";

const cls = classesOf(styles);
/** Less of a picture than this is not worth a word. */
const SEEN = 0.004;

interface Props {
  slug: string;
  view: string;
  occasion: string;
  open: (surface: string) => void;
}

/** Says beside the picture that it is lit on surfaces nobody has chosen yet: what bounces off them is not what will. */
export function Placeholders({ slug, view, occasion, open }: Props) {
  const lines = useSurfaces(slug, view, occasion) ?? [];
  const found = lines
    .filter((l) => l.placeholder && (l.seen ?? 0) >= SEEN)
    .sort((a, b) => (b.seen ?? 0) - (a.seen ?? 0));
  if (found.length === 0) return null;
  const share = Math.round(100 * found.reduce((sum, l) => sum + (l.seen ?? 0), 0));
  return (
    <button className={cls("placeholder-note")} onClick={() => open(found[0].name)}>
      Lit on {found.length === 1 ? "a placeholder" : `${found.length} placeholders`}: {found[0].name}
      {found.length > 1 && ` and ${found.length - 1} more`}, {Math.max(share, 1)} % of the picture
    </button>
  );
}
