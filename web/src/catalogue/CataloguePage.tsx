import { useEffect, useRef, useState } from "react";
import { Form, ProgressBar } from "react-bootstrap";
import { Link, useParams } from "react-router";

import { api, type ProfileLine } from "../api/client";
import { useStore } from "../state/store";
import { Button } from "../ui/Button";
import { NumberField } from "../ui/NumberField";
import { Missing } from "../ui/Missing";
import { PatientImage } from "../ui/PatientImage";
import { CompareSheet } from "./CompareSheet";
import { OwnProfile } from "./OwnProfile";
import { ProfileSheet } from "./ProfileSheet";
import { filesOf, takeFiles, type Taking } from "./takeFiles";
import { type Filters, NO_FILTERS, PAGE, useProfiles } from "./useProfiles";
import { classesOf } from "../ui/classes";
import styles from "./CataloguePage.module.css";
import roomStyles from "./catalogue.module.css";

const cls = classesOf(styles, roomStyles);

const MOUNTINGS = ["ceiling", "hung", "wall"];
export const MOST_COMPARED = 4;

/** The catalogue: choose a fixture by the light it makes. */
export function CataloguePage() {
  const slug = (useParams().slug ?? "").toLowerCase();
  const { saved, load, missing, adopt, notify } = useStore();
  const [filters, setFilters] = useState<Filters>(NO_FILTERS);
  const [offset, setOffset] = useState(0);
  const [chosen, setChosen] = useState<ProfileLine | null>(null);
  const [compared, setCompared] = useState<ProfileLine[]>([]);
  const [sheet, setSheet] = useState<"profiles" | "compare" | "own">("profiles");
  const [taking, setTaking] = useState<Taking | null>(null);
  const [over, setOver] = useState(false);
  const input = useRef<HTMLInputElement>(null);
  const { page, reload } = useProfiles(slug, filters, offset);

  useEffect(() => void load(slug), [slug, load]);
  if (missing) return <Missing what={missing} />;

  const narrow = (patch: Partial<Filters>) => {
    setFilters((f) => ({ ...f, ...patch }));
    setOffset(0);
  };
  const take = async (files: File[]) => {
    const end = await takeFiles(files, setTaking);
    if (end.total === 0)
      notify("There is no profile among these files. Choose IES (.ies) or EULUMDAT (.ldt) files.", "error");
    reload();
  };
  const addKind = async (from: { profile?: string; template?: string }) => {
    try {
      const state = await api.addKind(slug, from);
      adopt(state);
      notify(`${state.description.kinds!.at(-1)!.name} is among the project's fixtures.`);
      reload();
    } catch (error) {
      notify((error as Error).message, "error");
    }
  };
  const compare = (line: ProfileLine) =>
    setCompared((all) =>
      all.some((p) => p.sha256 === line.sha256)
        ? all.filter((p) => p.sha256 !== line.sha256)
        : [...all.slice(-MOST_COMPARED + 1), line],
    );
  const first = saved?.description;
  const bench =
    first?.views?.length && first.occasions?.length
      ? `/p/${slug}/bench/${first.views[0].key}/${first.occasions[0].key}`
      : null;

  return (
    <div className="page">
      <header className="top">
        <Link className="crumb" to={`/p/${slug}`}>
          {first?.name ?? slug}
        </Link>
        <h1 className={cls("top-title")}>Catalogue of fixtures</h1>
        <nav className="top-acts" aria-label="Catalogue">
          {(
            [
              ["profiles", "Profiles"],
              ["compare", `Compare (${compared.length})`],
              ["own", "Make one"],
            ] as const
          ).map(([key, label]) => (
            <button key={key} className="tab" aria-pressed={sheet === key} onClick={() => setSheet(key)}>
              {label}
            </button>
          ))}
          {bench && <Link to={bench}>Bench</Link>}
        </nav>
      </header>
      <main
        className={cls(`catalogue ${over ? "over" : ""}`)}
        onDragOver={(e) => {
          e.preventDefault();
          setOver(true);
        }}
        onDragLeave={() => setOver(false)}
        onDrop={(e) => {
          e.preventDefault();
          setOver(false);
          void filesOf(e.dataTransfer).then(take);
        }}
      >
        <aside className={cls("catalogue-filters")} aria-label="Filters">
          <Form.Control
            size="sm"
            type="search"
            placeholder="Name, maker, words"
            aria-label="Search"
            value={filters.text}
            onChange={(e) => narrow({ text: e.target.value })}
          />
          <Range label="Beam, °" unit="°" from="beam_from" to="beam_to" {...{ filters, narrow }} />
          <Range label="Flux, lm" unit="lm" from="lumens_from" to="lumens_to" {...{ filters, narrow }} />
          <Range label="Colour, K" unit="K" from="kelvin_from" to="kelvin_to" {...{ filters, narrow }} />
          <Choice
            label="Shape of the light"
            value={filters.shape}
            options={page?.shapes ?? []}
            choose={(shape) => narrow({ shape })}
          />
          <Choice
            label="Mounting"
            value={filters.mounting}
            options={MOUNTINGS}
            choose={(mounting) => narrow({ mounting })}
          />
          {(filters.like || JSON.stringify(filters) !== JSON.stringify(NO_FILTERS)) && (
            <Button size="sm" variant="outline-dark" onClick={() => narrow({ ...NO_FILTERS, ...cleared })}>
              Show all
            </Button>
          )}
          <h2 className="small">Take in files</h2>
          <p className="quiet">
            Drop IES or EULUMDAT files, or whole folders of them, anywhere on this page.
          </p>
          <Button size="sm" variant="outline-dark" onClick={() => input.current?.click()}>
            Choose files
          </Button>
          <input
            ref={input}
            type="file"
            multiple
            hidden
            accept=".ies,.ldt,.tlt,text/plain"
            aria-label="Profile files"
            onChange={(e) => {
              const files = [...(e.target.files ?? [])];
              e.target.value = "";
              if (files.length > 0) void take(files);
            }}
          />
          {taking && taking.total > 0 && <Progress taking={taking} />}
          {page && page.waiting > 0 && (
            <p className="quiet" role="status">
              Pictures of <span className="number">{page.waiting}</span> profiles are being made; all can be
              used meanwhile.
            </p>
          )}
        </aside>
        {sheet === "compare" ? (
          <CompareSheet compared={compared} remove={compare} />
        ) : sheet === "own" ? (
          <OwnProfile
            addTemplate={(template) => void addKind({ template })}
            made={(line) => {
              setChosen(line);
              setSheet("profiles");
              narrow({ ...NO_FILTERS, ...cleared });
              reload();
            }}
          />
        ) : (
          <section className={cls("catalogue-list")} aria-label="Profiles">
            {page && page.profiles.length === 0 && (
              <p className="lead">
                {page.total === 0 && filters === NO_FILTERS
                  ? "The catalogue is empty. Drop IES or EULUMDAT files here, or make a distribution of your own."
                  : "No profile is like that. Widen the filters at the left."}
              </p>
            )}
            <div className={cls("profile-grid")}>
              {page?.profiles.map((p) => (
                <button
                  key={p.sha256}
                  className={cls("profile")}
                  aria-pressed={chosen?.sha256 === p.sha256}
                  onClick={() => setChosen(p)}
                >
                  {p.pictured ? (
                    <PatientImage
                      src={api.profilePicture(p.sha256, "wall")}
                      alt=""
                      width={240}
                      height={160}
                    />
                  ) : (
                    <span className="blank">picture to come</span>
                  )}
                  <b>{p.name}</b>
                  <span className="number quiet">
                    {Math.round(p.lumens)} lm, {beamText(p.beam_deg)}
                  </span>
                  <span className="quiet">
                    {p.shape}
                    {p.warnings.length > 0 && <span className="error-text"> · doubtful</span>}
                    {compared.some((c) => c.sha256 === p.sha256) && (
                      <span className="lichen"> · compared</span>
                    )}
                  </span>
                </button>
              ))}
            </div>
            {page && page.total > PAGE && (
              <div className="row-actions align-items-center">
                <Button
                  size="sm"
                  variant="outline-dark"
                  disabled={offset === 0}
                  onClick={() => setOffset(offset - PAGE)}
                >
                  Earlier
                </Button>
                <span className="number">
                  {offset + 1} to {Math.min(offset + PAGE, page.total)} of {page.total}
                </span>
                <Button
                  size="sm"
                  variant="outline-dark"
                  disabled={offset + PAGE >= page.total}
                  onClick={() => setOffset(offset + PAGE)}
                >
                  Later
                </Button>
              </div>
            )}
          </section>
        )}
        {sheet === "profiles" && chosen && (
          <ProfileSheet
            key={chosen.sha256}
            line={chosen}
            compared={compared.some((c) => c.sha256 === chosen.sha256)}
            add={() => void addKind({ profile: chosen.sha256 })}
            compare={() => compare(chosen)}
            alike={() => narrow({ ...NO_FILTERS, ...cleared, like: chosen.sha256 })}
          />
        )}
      </main>
    </div>
  );
}

const cleared: Partial<Filters> = {
  beam_from: undefined,
  beam_to: undefined,
  lumens_from: undefined,
  lumens_to: undefined,
  kelvin_from: undefined,
  kelvin_to: undefined,
  like: undefined,
};

export function beamText([a, b]: readonly number[]): string {
  const [x, y] = [Math.round(a), Math.round(b)];
  if (x >= 180 && y >= 180) return "all round";
  return x === y ? `${x}°` : `${x}° × ${y}°`;
}

type RangeKey = "beam_from" | "beam_to" | "lumens_from" | "lumens_to" | "kelvin_from" | "kelvin_to";

function Range(props: {
  label: string;
  unit: string;
  from: RangeKey;
  to: RangeKey;
  filters: Filters;
  narrow: (patch: Partial<Filters>) => void;
}) {
  const field = (key: RangeKey, label: string) => (
    <NumberField
      label={label}
      placeholder={label.split(" ").at(-1)}
      unit={props.unit}
      min={0}
      step={key.startsWith("beam") ? 5 : 100}
      value={props.filters[key] ?? null}
      eager
      onChange={(v) => props.narrow({ [key]: v ?? undefined })}
    />
  );
  const bare = props.label.split(",")[0];
  return (
    <div>
      <span className="filter-label">{props.label}</span>
      <div className="d-flex gap-2">
        {field(props.from, `${bare} from`)}
        {field(props.to, `${bare} to`)}
      </div>
    </div>
  );
}

function Choice(props: { label: string; value: string; options: string[]; choose: (v: string) => void }) {
  return (
    <label>
      <span className="filter-label">{props.label}</span>
      <Form.Select size="sm" value={props.value} onChange={(e) => props.choose(e.target.value)}>
        <option value="">any</option>
        {props.options.map((o) => (
          <option key={o}>{o}</option>
        ))}
      </Form.Select>
    </label>
  );
}

function Progress({ taking }: { taking: Taking }) {
  const { done, total, refused, doubtful } = taking;
  return (
    <div role="status">
      <ProgressBar now={(done / total) * 100} aria-label="Files taken in" />
      <p className="number mb-1">
        {done} of {total} read, {refused.length} refused
      </p>
      {[...refused.map((r) => ({ ...r, bad: true })), ...doubtful.map((r) => ({ ...r, bad: false }))]
        .slice(0, 30)
        .map((r) => (
          <p key={r.name + r.why} className={r.bad ? "error-text mb-1" : "quiet mb-1"}>
            {r.why.includes(r.name) ? r.why : `${r.name}: ${r.why}`}
          </p>
        ))}
    </div>
  );
}
