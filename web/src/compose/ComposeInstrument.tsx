import { useMemo, useRef, useState } from "react";

import { api, type CutOutOffer, type Occasion, type Project, type View } from "../api/client";
import type { LiveHeader } from "../api/live";
import type { Hands } from "../bench/useBench";
import { asked } from "../state/asked";
import { useStore } from "../state/store";
import { Button } from "../ui/Button";
import { classesOf } from "../ui/classes";
import { NumberField } from "../ui/NumberField";
import { PartMenu } from "../ui/PartMenu";
import { PatientImage } from "../ui/PatientImage";
import tiles from "../ui/tiles.module.css";
import { crowd, cutOutsAt } from "./cutouts";
import { CutOutSheet } from "./CutOutSheet";
import { useCutOutHand } from "./hand";
import { offersChanged, useOffers, useStanding } from "./useCutOuts";
import styles from "./compose.module.css";

const cls = classesOf(styles, tiles);
/** Offers that walk: of them a crowd is made. */
const WALKS = /^person-(walking|with|child-walking)/;

interface Props {
  slug: string;
  project: Project;
  view: View;
  occasion: Occasion;
  hands: Hands;
  header: LiveHeader | null;
}

/** Figures and planting over the picture: choose one, press where it is to stand; or the one that was pointed at. */
export function ComposeInstrument({ slug, project, view, occasion, hands, header }: Props) {
  const offers = useOffers();
  const { armed, chosen, path, put } = useCutOutHand();
  const own = useMemo(
    () => (project.cutouts ?? []).filter((c) => c.view === view.key),
    [project.cutouts, view.key],
  );
  const standing = useStanding(slug, view.key, occasion.key, own);
  const groups = useMemo(() => [...new Set(offers.map((o) => o.group))], [offers]);
  const here = cutOutsAt(project, view.key, occasion.key);
  const inHand = chosen.flatMap((key) => here.filter((c) => c.key === key));
  const elsewhere = own.filter((c) => !here.includes(c));
  if (inHand.length)
    return (
      <>
        <h2>Compose</h2>
        <CutOutSheet
          key={inHand[0].key}
          {...{ slug, project, view, occasion, hands, header }}
          cutouts={inHand}
          standing={standing.find((s) => s.key === inHand[0].key) ?? null}
        />
      </>
    );
  if (path)
    return (
      <>
        <h2>Compose</h2>
        <Crowd {...{ project, view, hands, offers }} />
      </>
    );
  return (
    <>
      <h2>Compose</h2>
      {armed ? (
        <section aria-label={`About to be placed: ${armed.name}`} className={cls("armed")}>
          <img src={pictureOf(armed)} alt="" />
          <div>
            <b>{armed.name}</b>
            <p className="quiet mb-1">Press in the picture where its feet are to stand.</p>
            <Button size="sm" variant="outline-dark" onClick={() => put({ armed: null })}>
              Put it away
            </Button>
          </div>
        </section>
      ) : (
        <p className="quiet">Choose a figure or a plant, then press in the picture where it is to stand.</p>
      )}
      <div className={cls("acts")}>
        <BringIn />
        <Button size="sm" variant="outline-dark" onClick={() => put({ path: [], armed: null })}>
          Crowd…
        </Button>
      </div>
      {own.length > 0 && (
        <details>
          <summary>
            {own.length === 1 ? "1 cut-out" : `${own.length} cut-outs`} in this view
            {elsewhere.length > 0 && `, ${elsewhere.length} of them not at ${occasion.name}`}
          </summary>
          <ul className={cls("list")}>
            {here.map((c) => (
              <li key={c.key}>
                <button onClick={() => put({ chosen: [c.key], armed: null })}>{c.name}</button>
              </li>
            ))}
            {elsewhere.map((c) => (
              <li key={c.key}>
                <span className="quiet">{c.name}</span>
                <Button
                  size="sm"
                  variant="outline-dark"
                  onClick={() =>
                    hands.changes(
                      `Show ${c.name}`.slice(0, 120),
                      [
                        { part: "cutout", key: c.key, at: ["hidden"], value: false },
                        {
                          part: "cutout",
                          key: c.key,
                          at: ["hidden_at"],
                          value: (c.hidden_at ?? []).filter((o) => o !== occasion.key),
                        },
                      ],
                      true,
                    )
                  }
                >
                  Show here
                </Button>
              </li>
            ))}
          </ul>
        </details>
      )}
      {groups.map((group) => (
        <section key={group} aria-label={group}>
          <h3>{group}</h3>
          <div className={cls("swatches")}>
            {offers
              .filter((o) => o.group === group)
              .map((o) => (
                <div key={o.key}>
                  <button
                    className={cls("swatch tile")}
                    aria-pressed={armed?.key === o.key}
                    onClick={() => put({ armed: armed?.key === o.key ? null : o })}
                  >
                    <PatientImage src={pictureOf(o)} alt="" width={72} height={72} />
                    <span>{o.name}</span>
                  </button>
                  {o.own != null && <OwnMenu offer={o} />}
                </div>
              ))}
          </div>
        </section>
      ))}
    </>
  );
}

const pictureOf = (offer: CutOutOffer) =>
  offer.picture ? api.ownCutOut(offer.picture) : api.cutOutPicture(offer.key, 1);

/** People along a path that is pressed in the picture. */
function Crowd({
  project,
  view,
  hands,
  offers,
}: Pick<Props, "project" | "view" | "hands"> & { offers: CutOutOffer[] }) {
  const { path, put } = useCutOutHand();
  const [apart, setApart] = useState(1.6);
  const [both, setBoth] = useState(true);
  const walking = offers.filter((o) => WALKS.test(o.key));
  const changes = path && path.length > 1 ? crowd(project, view, walking, path, apart, both) : [];
  return (
    <section aria-label="Crowd">
      <h3>Crowd along a path</h3>
      <p className="quiet">
        {path!.length === 0
          ? "Press in the picture where the path begins, then where it goes on."
          : `${path!.length} ${path!.length === 1 ? "point" : "points"}; press on for more.`}
      </p>
      <div className={cls("acts")}>
        <NumberField
          label="Metres apart"
          unit="m"
          min={0.5}
          max={20}
          step={0.1}
          value={apart}
          onChange={(v) => v !== null && setApart(v)}
        />
        <label>
          <input type="checkbox" checked={both} onChange={(e) => setBoth(e.target.checked)} /> Some come, some
          go
        </label>
      </div>
      <div className={cls("acts")}>
        <Button
          size="sm"
          variant="dark"
          disabled={changes.length === 0 || changes.length > 200}
          onClick={() => {
            hands.changes(`Crowd of ${changes.length}`, changes, true);
            put({ path: null });
          }}
        >
          {changes.length > 200 ? "More than 200: move them apart" : `Place ${changes.length}`}
        </Button>
        <Button size="sm" variant="outline-dark" onClick={() => put({ path: null })}>
          Leave it
        </Button>
      </div>
    </section>
  );
}

/** Bring in pictures of one's own: with alpha, or on a plain ground that is taken out. */
function BringIn() {
  const input = useRef<HTMLInputElement>(null);
  const [busy, setBusy] = useState(false);
  const [ground, setGround] = useState<string | null>(null);
  const notify = useStore((s) => s.notify);
  const take = async (files: File[]) => {
    setBusy(true);
    await asked(async () => {
      for (const file of files) {
        const made = await api.takeCutOut(file, ground);
        notify(`${made.name} is in the catalogue now.`);
      }
    });
    setBusy(false);
    await offersChanged();
  };
  return (
    <>
      <Button size="sm" variant="outline-dark" disabled={busy} onClick={() => input.current?.click()}>
        {busy ? "Reading…" : "Bring in a picture"}
      </Button>
      <label>
        <input
          type="checkbox"
          checked={ground !== null}
          onChange={(e) => setGround(e.target.checked ? "#ffffff" : null)}
        />{" "}
        on plain ground
      </label>
      {ground !== null && (
        <input
          type="color"
          aria-label="Colour of the plain ground"
          value={ground}
          onChange={(e) => setGround(e.target.value)}
        />
      )}
      <input
        ref={input}
        type="file"
        hidden
        multiple
        accept=".png,.webp,.tif,.tiff"
        aria-label="Pictures of cut-outs"
        onChange={(e) => {
          void take([...(e.target.files ?? [])]);
          e.target.value = "";
        }}
      />
    </>
  );
}

function OwnMenu({ offer }: { offer: CutOutOffer }) {
  const rename = async (name: string) => {
    if (await asked(() => api.renameCutOut(offer.own!, name))) await offersChanged();
  };
  const away = async () => {
    if ((await asked(() => api.putCutOutAway(offer.own!))) !== null) await offersChanged();
  };
  return (
    <PartMenu
      about={`cut-out ${offer.name}`}
      name={offer.name}
      rename={(name) => void rename(name)}
      items={[{ name: "Take out of the catalogue", act: () => void away() }]}
    />
  );
}
