import { useState } from "react";
import { Form, Spinner } from "react-bootstrap";

import { api, Refusal, type Sky } from "../api/client";
import { type Done, useStore } from "../state/store";
import { Button } from "../ui/Button";
import { lux } from "../ui/format";
import { Value } from "../ui/Value";
import { queries, useServer } from "../state/server";

interface Props {
  slug: string;
  sky: Partial<Sky>;
  when: string;
  setSky: (label: string, patch: object, done: Done) => void;
}

/** A picture all round: what is in it, how it is turned and calibrated, and its ground. */
export function PictureSky({ slug, sky, when, setSky }: Props) {
  const [busy, setBusy] = useState(false);
  const notify = useStore((s) => s.notify);
  const picture = sky.picture ?? null;
  const asset = picture?.asset;
  const key = ["picture", slug, asset];
  const figures = useServer(key, () => api.pictureFigures(slug, asset!, picture?.name || "picture"), {
    fixed: true,
    keep: false,
    ready: asset !== undefined,
  });

  const take = async (file: File) => {
    setBusy(true);
    try {
      const made = await api.uploadPicture(slug, file);
      queries.setQueryData(["picture", slug, made.asset], made);
      setSky(
        "Picture all round",
        { model: "picture", picture: { ...picture, asset: made.asset, name: made.name } },
        true,
      );
    } catch (error) {
      notify(error instanceof Refusal ? error.message : String(error), "error");
    } finally {
      setBusy(false);
    }
  };
  const set = (label: string, patch: object, done: Done) =>
    setSky(label, { picture: { ...picture, ...patch } }, done);

  return (
    <>
      <p className="mb-1">
        <label className="btn btn-outline-dark btn-sm" htmlFor="surroundings-file">
          {picture ? "Another picture" : "Choose a .hdr or .exr"}
        </label>
        <input
          id="surroundings-file"
          className="visually-hidden"
          type="file"
          accept=".hdr,.exr"
          onChange={(e) => {
            const file = e.target.files?.[0];
            e.target.value = "";
            if (file) void take(file);
          }}
        />{" "}
        {busy && <Spinner size="sm" role="status" aria-label="Reading the picture" />}
      </p>
      {!picture && (
        <p className="quiet">An equirectangular picture gives background, light and reflection.</p>
      )}
      {picture && figures && (
        <>
          <div className="d-flex gap-2 align-items-center mb-1">
            <img src={figures.picture} alt="" width={86} height={86} />
            <span>
              {figures.name}
              <br />
              <span className="number quiet">
                {figures.width} × {figures.height}, {lux(figures.horizontal_lx)} as it came
              </span>
            </span>
          </div>
          <p className="mb-1">
            {figures.note}
            {figures.sun.is_sun && (
              <span className="number quiet">
                {" "}
                It stands {figures.sun.altitude_deg.toFixed(0)}° up, {figures.sun.size_deg.toFixed(1)}° wide.
              </span>
            )}
          </p>
        </>
      )}
      {picture && (
        <>
          <Value
            label="Turn"
            value={picture.turn_deg ?? 0}
            min={-180}
            max={360}
            step={1}
            unit="°"
            onChange={(v, done) => set("Picture turned", { turn_deg: v }, done)}
          />
          {figures?.sun.is_sun && (
            <Button
              size="sm"
              variant="outline-dark"
              onClick={() =>
                void api.trueSun(slug, when).then(
                  ({ azimuth_deg: azimuth }) =>
                    set(
                      "Picture turned to the true sun",
                      {
                        turn_deg: Number(
                          (((azimuth - figures.sun.azimuth_deg + 540) % 360) - 180).toFixed(1),
                        ),
                      },
                      true,
                    ),
                  () => undefined,
                )
              }
            >
              Turn to the true sun
            </Button>
          )}
          <Form.Check
            type="switch"
            id="picture-calibrated"
            label="Calibrated on level ground"
            checked={picture.horizontal_lx != null}
            onChange={(e) =>
              set(
                "Calibration",
                {
                  horizontal_lx: e.target.checked
                    ? Math.max(Math.round(figures?.horizontal_lx ?? 20000), 1)
                    : null,
                },
                true,
              )
            }
          />
          {picture.horizontal_lx != null && (
            <Value
              label="Gives"
              value={picture.horizontal_lx}
              min={0.1}
              max={130000}
              step={10}
              unit="lx"
              log
              onChange={(v, done) => set("Calibration", { horizontal_lx: v }, done)}
            />
          )}
          <Value
            label="Background"
            value={picture.background_stops ?? 0}
            min={-8}
            max={8}
            step={0.1}
            unit="stops"
            onChange={(v, done) => set("Background level", { background_stops: v }, done)}
          />
          <Form.Check
            type="switch"
            id="picture-sun"
            label="Its brightest spot is a sun"
            checked={picture.sun_from_picture ?? true}
            onChange={(e) => set("Sun of the picture", { sun_from_picture: e.target.checked }, true)}
          />
          <Form.Check
            type="switch"
            id="picture-ground"
            label="Its lower half lies on the ground"
            checked={picture.projected ?? false}
            onChange={(e) => set("Ground of the picture", { projected: e.target.checked }, true)}
          />
          {picture.projected && (
            <>
              <Value
                label="Taken at"
                value={picture.height_m ?? 1.6}
                min={0.2}
                max={60}
                step={0.1}
                unit="m"
                log
                onChange={(v, done) => set("Ground of the picture", { height_m: v }, done)}
              />
              <Value
                label="Reach"
                value={picture.radius_m ?? 30}
                min={2}
                max={1000}
                step={1}
                unit="m"
                log
                onChange={(v, done) => set("Ground of the picture", { radius_m: v }, done)}
              />
            </>
          )}
        </>
      )}
    </>
  );
}
