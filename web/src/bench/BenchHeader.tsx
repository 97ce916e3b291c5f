import { ButtonGroup } from "react-bootstrap";
import { Link } from "react-router";

import type { Occasion, PlateEstimate, Project, Quality, View } from "../api/client";
import { Button } from "../ui/Button";
import { timeLeft } from "../ui/format";
import { KeptMenu } from "../ui/KeptMenu";
import { Tabs } from "../ui/Tabs";
import type { Sheet } from "./useAddress";
import { classesOf } from "../ui/classes";
import styles from "./BenchHeader.module.css";

const cls = classesOf(styles);

const SHEETS: [Sheet, string][] = [
  ["picture", "Picture"],
  ["plan", "Ceiling plan"],
  ["stage", "Stage view"],
];
const QUALITIES = ["sketch", "proof", "press"] as const;

interface Props {
  slug: string;
  project: Project;
  view: View;
  occasion: Occasion;
  /** Open another view and occasion. */
  go: (view: string, occasion: string) => void;
  sheet: Sheet;
  setSheet: (sheet: Sheet) => void;
  quality: Quality;
  setQuality: (quality: Quality) => void;
  estimate: PlateEstimate | null;
  makePlate: () => void;
}

/** Where one is, what is shown of it, and the making of plates. */
export function BenchHeader(props: Props) {
  const { slug, project, view, occasion, go, sheet, setSheet, quality, setQuality, estimate } = props;
  const views = project.views ?? [];
  const occasions = project.occasions ?? [];
  const expected = (q: Quality) => (estimate ? `about ${timeLeft(estimate[q])}` : undefined);
  return (
    <header className="top">
      <Link className="brand" to="/projects">
        Valleylight
      </Link>
      <h1 className="visually-hidden">{`${view.name}, ${occasion.name}`}</h1>
      <span className="crumb">
        <Link to={`/p/${slug}`} title={`To the wall of ${project.name}`}>
          {project.name.split(",")[0]}
        </Link>
        <span aria-hidden="true">/</span>
        <Chooser label="View" value={view.key} items={views} onChoose={(key) => go(key, occasion.key)} />
        <KeptMenu part="view" items={views} item={view} copied={(key) => go(key, occasion.key)} slug={slug} />
        <span aria-hidden="true">at</span>
        <Chooser
          label="Occasion"
          value={occasion.key}
          items={occasions}
          onChoose={(key) => go(view.key, key)}
        />
        <KeptMenu
          part="occasion"
          items={occasions}
          item={occasion}
          copied={(key) => go(view.key, key)}
          slug={slug}
        />
      </span>
      <div className="top-acts">
        <Tabs
          className={cls("sheets")}
          tab="tab"
          label="Sheets"
          tabs={SHEETS}
          current={sheet}
          choose={setSheet}
        />
        <ButtonGroup size="sm" aria-label="Quality of the next plate">
          {QUALITIES.map((q) => (
            <Button
              key={q}
              variant={quality === q ? "dark" : "outline-dark"}
              aria-pressed={quality === q}
              title={expected(q)}
              onClick={() => setQuality(q)}
            >
              {q[0].toUpperCase() + q.slice(1)}
            </Button>
          ))}
        </ButtonGroup>
        <Button variant="dark" onClick={props.makePlate} title={expected(quality)}>
          Make plate
        </Button>
      </div>
    </header>
  );
}

function Chooser(props: {
  label: string;
  value: string;
  items: { key: string; name: string }[];
  onChoose: (key: string) => void;
}) {
  return (
    <select
      className={cls("chooser")}
      aria-label={props.label}
      value={props.value}
      title={props.items.find((i) => i.key === props.value)?.name}
      onChange={(e) => props.onChoose(e.target.value)}
    >
      {props.items.map((item) => (
        <option key={item.key} value={item.key}>
          {item.name}
        </option>
      ))}
    </select>
  );
}
