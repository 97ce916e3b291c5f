/** Calls to the server; every failure becomes a `Refusal` that says what, where and what to do. */
import createClient, { type MaybeOptionalInit } from "openapi-fetch";
import type { PathsWithMethod } from "openapi-typescript-helpers";

import type { components, paths } from "./schema";

type Schemas = components["schemas"];
export type Project = Schemas["Project"];
export type ProjectState = Schemas["ProjectState"];
export type ProjectLine = Schemas["ProjectLine"];
export type Placement = Schemas["Placement"];
export type View = Schemas["View"];
export type Occasion = Schemas["Occasion"];
export type Fixture = Schemas["Fixture"];
export type FixtureKind = Schemas["FixtureKind"];
export type KindFigures = Schemas["KindFigures"];
export type ProfileLine = Schemas["ProfileLine"];
export type ProfilePage = Schemas["ProfilePage"];
export type ProfileFigures = Schemas["ProfileFigures"];
export type SourceTemplate = Schemas["SourceTemplate"];
export type Scene = Schemas["Scene"];
export type ObjectLine = Schemas["ObjectLine"];
export type MeterReading = Schemas["MeterReading"];
export type AreaReading = Schemas["AreaReading"];
export type TargetLine = Schemas["TargetLine"];
export type FixtureReadings = Schemas["FixtureReadings"];
export type SectionDrawing = Schemas["SectionDrawing"];
export type FixtureWanted = Schemas["FixtureWanted"];
export type ArrangeWanted = Schemas["ArrangeWanted"];
export type Air = Schemas["Air"];
export type AirValues = Schemas["AirValues"];
export type AirScales = Schemas["AirScales"];
export type LeafYear = Schemas["LeafYear"];
export type Weather = Schemas["Weather"];
export type WeatherRecipe = Schemas["RecipeFound"];
export type Lens = Schemas["Lens"];
export type LensScales = Schemas["LensScales"];
export type LensRing = Schemas["LensRing"];
export type LensReading = Schemas["LensReading"];
export type Look = Schemas["Look"];
export type Treatment = Look["treatments"][number];
export type TreatmentLine = Schemas["TreatmentLine"];
export type TreatmentNumber = Schemas["TreatmentNumber"];
export type CurveHandle = Schemas["CurveHandle"];
export type Bend = Schemas["Bend"];
export type Plate = Schemas["Plate"];
export type ScopesRead = Schemas["ScopesRead"];
export type Job = Schemas["Job"];
export type ExportWanted = Schemas["ExportWanted"];
export type Quality = Schemas["NewPlate"]["quality"];
export type PlateEstimate = Schemas["PlateEstimate"];
export type PlanDrawing = Schemas["PlanDrawing"];
export type LuxGrid = Schemas["LuxGrid"];
export type SunDay = Schemas["SunDay"];
export type Sky = Schemas["Sky"];
export type YearDay = Schemas["YearDay"];
export type SkyLine = Schemas["SkyLine"];
export type SkyFigures = Schemas["SkyFigures"];
export type SkyMeter = Schemas["SkyMeter"];
export type PictureFigures = Schemas["PictureFigures"];
export type HorizonMask = Schemas["HorizonMask"];
export type FaceWanted = Schemas["FaceWanted"];
export type HourAnswer = Schemas["HourAnswer"];
export type SunHoursOfDay = Schemas["SunHoursOfDay"];
export type SunByHand = Schemas["SunByHand"];
export type PlaceLine = Schemas["PlaceLine"];
export type SkyType = Schemas["SkyType"];
export type CutOut = Schemas["CutOut"];
export type CutOutOffer = Schemas["CutOutOffer"];
export type CutOutStanding = Schemas["CutOutStanding"];
export type FamilyLine = Schemas["FamilyLine"];
export type FamilyParameter = Schemas["FamilyParameter"];
export type ThingLine = Schemas["ThingLine"];
export type LeafOffer = Schemas["LeafOffer"];
export type ThingWanted = Schemas["ThingWanted"];
export type Repeat = NonNullable<Placement["repeat"]>;
export type Arrival = Schemas["Arrival"];
export type ArrivalChoices = Schemas["ArrivalChoices"];
export type StageFigures = Schemas["StageFigures"];
export type Surface = Schemas["Surface"];
export type StageSurface = Schemas["StageSurface"];
export type CatalogueSurface = Schemas["CatalogueSurface"];
export type Courses = Schemas["Courses"];
export type Laying = Schemas["Laying"];
export type Channel = keyof Omit<Schemas["Pictures"], "height_m">;
export type Spot = Omit<Schemas["Spot"], "up" | "as_seen"> & { up?: boolean; as_seen?: boolean };
export type Picked = Schemas["Picked"];
export type Sequence = Schemas["Sequence"];
export type Station = Schemas["Station"];
export type CourseReading = Schemas["CourseReading"];
export type CourseMoment = Schemas["CourseMoment"];
export type MetOnTheWay = Schemas["MetOnTheWay"];
export type Run = Schemas["Run"];
export type FilmForm = Schemas["FilmFileWanted"]["form"];
export type FilmOfPlates = Schemas["FilmWanted"]["film"];
export type Change = Pick<Schemas["Change"], "part"> & Partial<Omit<Schemas["Change"], "part">>;
export type Conflict = Schemas["Conflict"];
export type Site = Schemas["Site"];
type ProfileSearch = NonNullable<paths["/api/profiles"]["get"]["parameters"]["query"]>;
export type Side =
  paths["/api/projects/{slug}/views/{view}/sun-by-hand"]["get"]["parameters"]["query"]["side"];
type Copied = Schemas["PartCopy"]["part"];

/** This window: its own edits never meet each other. */
export const hand = `${Date.now().toString(36)}-${Math.random().toString(36).slice(2, 10)}`;

export class Refusal extends Error {
  constructor(
    readonly status: number,
    message: string,
    readonly where = "",
    /** What another hand did meanwhile. */
    readonly conflict: Conflict | null = null,
  ) {
    super(message);
  }
}

const server = createClient<paths>({
  baseUrl: globalThis.location?.origin ?? "",
  headers: { "Valleylight-Hand": hand },
  fetch: (request) =>
    fetch(request).catch(() => {
      throw new Refusal(0, "The server does not answer. What you saved is kept; it is tried again.");
    }),
});

/** What an operation answers when all is well. The client's own types take tuples for lists. */
type Success<O> = O extends { responses: infer R }
  ? {
      [S in keyof R & (200 | 201 | 202)]: R[S] extends { content: { "application/json": infer T } }
        ? T
        : never;
    }[keyof R & (200 | 201 | 202)]
  : never;
type Init<P extends keyof paths, M extends "get" | "post" | "put" | "delete"> = MaybeOptionalInit<
  paths[P],
  M
>;
type Rest<I> = undefined extends I ? [init?: I] : [init: I];
interface Answered {
  data?: unknown;
  error?: unknown;
  response: Response;
}

/** What was asked for, or a Refusal in the server's words. */
async function take(asked: Promise<Answered>): Promise<unknown> {
  const { data, error, response } = await asked;
  if (response.ok) return data;
  const problem = error && typeof error === "object" ? (error as Schemas["Problem"] | Conflict) : null;
  throw new Refusal(
    response.status,
    problem?.detail ?? `The server answered ${response.status}.`,
    problem?.where,
    problem && "now" in problem ? (problem as Conflict) : null,
  );
}

const get = <P extends PathsWithMethod<paths, "get">>(path: P, ...init: Rest<Init<P, "get">>) =>
  take(server.GET(path, ...(init as never))) as Promise<Success<paths[P]["get"]>>;
const post = <P extends PathsWithMethod<paths, "post">>(path: P, ...init: Rest<Init<P, "post">>) =>
  take(server.POST(path, ...(init as never))) as Promise<Success<paths[P]["post"]>>;
const put = <P extends PathsWithMethod<paths, "put">>(path: P, ...init: Rest<Init<P, "put">>) =>
  take(server.PUT(path, ...(init as never))) as Promise<Success<paths[P]["put"]>>;
const remove = <P extends PathsWithMethod<paths, "delete">>(path: P, ...init: Rest<Init<P, "delete">>) =>
  take(server.DELETE(path, ...(init as never))) as Promise<Success<paths[P]["delete"]>>;

/** Browsers refuse to keep larger requests going when their page is left. */
const KEPT_ALIVE_BYTES = 50_000;
const keptAlive = (body: unknown) => ({ keepalive: JSON.stringify(body).length < KEPT_ALIVE_BYTES });

/** A file as the whole body, as it is. */
const whole = (file: Blob) => ({
  body: file as never,
  bodySerializer: () => file,
  headers: { "Content-Type": "application/octet-stream" },
});
const to = (slug: string) => ({ params: { path: { slug } } });
const base = (slug: string, base: number | null) => ({
  params: { path: { slug }, query: base === null ? {} : { base } },
});
const ofRun = (run: number) => ({ params: { path: { run_id: run } } });
const at = (slug: string) => `/api/projects/${encodeURIComponent(slug)}`;

export const api = {
  projects: (away = false) => get("/api/projects", { params: { query: { away } } }),
  createProject: (name: string, site?: Site) => post("/api/projects", { body: { name, site } }),
  duplicateProject: (slug: string) =>
    post("/api/projects/{slug}/duplicate", { ...to(slug), body: { with_plates: true } }),
  placeProject: (slug: string, place: number) =>
    post("/api/projects/{slug}/place", { ...to(slug), body: { place } }),
  putAway: (slug: string) => remove("/api/projects/{slug}", to(slug)),
  bringBack: (slug: string) => post("/api/projects/{slug}/restore", to(slug)),
  project: (slug: string) => get("/api/projects/{slug}", to(slug)),
  edit: (slug: string, label: string, changes: Change[], base: number | null) => {
    const body = { label, changes: changes as Schemas["Change"][], base };
    return post("/api/projects/{slug}/edits", { ...to(slug), body, ...keptAlive(body) });
  },
  copy: (slug: string, part: Copied, key: string) =>
    post("/api/projects/{slug}/copies", { ...to(slug), body: { part, key } }),
  undo: (slug: string, seen: number | null) => post("/api/projects/{slug}/undo", base(slug, seen)),
  redo: (slug: string, seen: number | null) => post("/api/projects/{slug}/redo", base(slug, seen)),
  kinds: (slug: string) => get("/api/projects/{slug}/kinds", to(slug)),
  uploadProfile: (slug: string, file: File) =>
    post("/api/projects/{slug}/profiles", {
      params: { path: { slug }, query: { name: file.name } },
      ...whole(file),
    }),
  addKind: (slug: string, from: Schemas["KindFromProfile"]) =>
    post("/api/projects/{slug}/kinds", { ...to(slug), body: from }),
  profiles: (wanted: ProfileSearch) => {
    const given = Object.entries(wanted).filter(([, v]) => v !== undefined && v !== "");
    return get("/api/profiles", { params: { query: Object.fromEntries(given) } });
  },
  profile: (sha256: string) => get("/api/profiles/{sha256}", { params: { path: { sha256 } } }),
  takeProfile: (file: File, tilt?: string) =>
    post("/api/profiles", { params: { query: { name: file.name, tilt } }, ...whole(file) }),
  plainSpot: (wanted: Schemas["PlainSpot"]) => post("/api/profiles/plain", { body: wanted }),
  drawnProfile: (wanted: Schemas["DrawnProfile"]) => post("/api/profiles/drawn", { body: wanted }),
  profilePicture: (sha: string, side: "wall" | "floor", ev?: number) =>
    `/api/profiles/${sha}/${side}.jpg${ev === undefined ? "" : `?ev=${ev.toFixed(1)}`}`,
  profileFile: (sha: string, suffix: "ies" | "ldt") => `/api/profiles/${sha}/file.${suffix}`,
  sources: () => get("/api/sources"),
  receiveModel: (slug: string, file: File, ticket: string, replace?: string) =>
    post("/api/projects/{slug}/arrivals", {
      params: { path: { slug }, query: { name: file.name, replace, ticket } },
      ...whole(file),
    }),
  howFar: (ticket: string) => get("/api/underway/{ticket}", { params: { path: { ticket } } }),
  stopReading: (ticket: string) => remove("/api/underway/{ticket}", { params: { path: { ticket } } }),
  takeArrival: (slug: string, key: string, body: ArrivalChoices) =>
    post("/api/projects/{slug}/arrivals/{key}", { params: { path: { slug, key } }, body }),
  takeObject: (file: File) =>
    post("/api/objects/own", { params: { query: { name: file.name } }, ...whole(file) }),
  renameObject: (number: number, name: string) =>
    put("/api/objects/own/{number}", { params: { path: { number } }, body: { name } }),
  putObjectAway: (number: number) => remove("/api/objects/own/{number}", { params: { path: { number } } }),
  families: () => get("/api/objects"),
  familyPicture: (family: string, values: Record<string, number> = {}) =>
    `/api/objects/${family}/picture.png?values=${encodeURIComponent(JSON.stringify(values))}`,
  cutOuts: () => get("/api/cutouts"),
  cutOutPicture: (key: string, side = 0) => `/api/cutouts/${key}/picture.png?side=${side}`,
  ownCutOut: (asset: string) => `/api/cutout-pictures/${asset}/small.png`,
  takeCutOut: (file: File, ground: string | null) =>
    post("/api/cutouts/file", {
      params: { query: { name: file.name, ...(ground ? { ground } : {}) } },
      ...whole(file),
    }),
  renameCutOut: (number: number, name: string) =>
    put("/api/cutouts/own/{number}", { params: { path: { number } }, body: { name } }),
  putCutOutAway: (number: number) => remove("/api/cutouts/own/{number}", { params: { path: { number } } }),
  cutOutsStanding: (slug: string, view: string, occasion: string) =>
    get("/api/projects/{slug}/views/{view}/cutouts", {
      params: { path: { slug, view }, query: { occasion } },
    }),
  things: (slug: string) => get("/api/projects/{slug}/things", to(slug)),
  placeThing: (slug: string, body: ThingWanted) => post("/api/projects/{slug}/things", { ...to(slug), body }),
  makeThing: (
    slug: string,
    key: string,
    family: string,
    parameters: Record<string, number>,
    alone: boolean,
  ) =>
    put("/api/projects/{slug}/things/{key}/made", {
      params: { path: { slug, key } },
      body: { family, parameters, alone },
    }),
  leafShadow: (slug: string, body: Schemas["LeafWanted"]) =>
    post("/api/projects/{slug}/leafshadow", { ...to(slug), body }),
  dropThing: (slug: string, key: string) =>
    post("/api/projects/{slug}/things/{key}/drop", { params: { path: { slug, key } } }),
  takeApart: (slug: string, key: string) =>
    post("/api/projects/{slug}/things/{key}/apart", { params: { path: { slug, key } } }),
  stage: (slug: string) => get("/api/projects/{slug}/stage", to(slug)),
  plates: (slug: string) => get("/api/projects/{slug}/plates", to(slug)),
  makePlate: (slug: string, view: string, occasion: string, quality: Quality, when?: string) =>
    post("/api/projects/{slug}/plates", { ...to(slug), body: { view, occasion, quality, when } }),
  keepLive: (slug: string, view: string, occasion: string) =>
    post("/api/projects/{slug}/plates/live", { ...to(slug), body: { view, occasion } }),
  makeAgain: (plate_id: number, quality?: Quality) =>
    post("/api/plates/{plate_id}/again", { params: { path: { plate_id } }, body: { quality } }),
  estimate: (slug: string) => get("/api/projects/{slug}/estimate", to(slug)),
  plateScopes: (plate_id: number) => get("/api/plates/{plate_id}/scopes", { params: { path: { plate_id } } }),
  liveScopes: (slug: string, view: string, occasion: string) =>
    post("/api/projects/{slug}/scopes", { ...to(slug), body: { view, occasion } }),
  plateDifferences: (plate_id: number, other?: number) =>
    get("/api/plates/{plate_id}/differences", { params: { path: { plate_id }, query: { other } } }),
  settingsBack: (plate_id: number, as_new: boolean) =>
    post("/api/plates/{plate_id}/settings", { params: { path: { plate_id } }, body: { as_new } }),
  thinning: (slug: string) => get("/api/projects/{slug}/thinning", to(slug)),
  thin: (slug: string) => post("/api/projects/{slug}/thinning", to(slug)),
  printProfiles: () => get("/api/print-profiles"),
  takePrintProfile: (file: File) =>
    post("/api/print-profiles", { params: { query: { name: file.name } }, ...whole(file) }),
  /** A plate seen otherwise, or as it prints. */
  plateRead: (plate: number, reading: string) => `/api/plates/${plate}/read/${reading}`,
  plateProof: (plate: number, sha256: string, paperWhite: boolean) =>
    `/api/plates/${plate}/proof/${sha256}?paper_white=${paperWhite}`,
  plateLights: (plate_id: number) => get("/api/plates/{plate_id}/lights", { params: { path: { plate_id } } }),
  /** A plate under a look, levels and colours of light. */
  finishPlate: (plate_id: number, body: Schemas["Finishing"]) =>
    post("/api/plates/{plate_id}/finish", {
      params: { path: { plate_id } },
      body,
      parseAs: "blob",
    }) as Promise<unknown> as Promise<Blob>,
  /** The picture at a share of the way from one plate to another. */
  between: (slug: string, body: Schemas["BetweenWanted"]) =>
    post("/api/projects/{slug}/between", {
      ...to(slug),
      body,
      parseAs: "blob",
    }) as Promise<unknown> as Promise<Blob>,
  makeMany: (slug: string, cells: Schemas["WallCell"][], quality: Quality) =>
    post("/api/projects/{slug}/plates/many", { ...to(slug), body: { cells, quality } }),
  across: (slug: string, body: Schemas["AcrossWanted"]) =>
    post("/api/projects/{slug}/across", { ...to(slug), body }),
  orderJobs: (jobs: number[]) => post("/api/jobs/order", { body: { jobs } }),
  foretold: (slug: string, body: Schemas["ForetellWanted"]) =>
    post("/api/projects/{slug}/foretold", { ...to(slug), body }),
  stopJob: (job_id: number) => post("/api/jobs/{job_id}/stop", { params: { path: { job_id } } }),
  resumeJob: (job_id: number) => post("/api/jobs/{job_id}/resume", { params: { path: { job_id } } }),
  plan: (slug: string, height_m: number) =>
    get("/api/projects/{slug}/plan", { params: { path: { slug }, query: { height_m } } }),
  luxOfDraft: (slug: string, occasion: string, height_m: number, draft: Change[]) =>
    post("/api/projects/{slug}/illuminance", {
      ...to(slug),
      body: { occasion, height_m, draft: draft as Schemas["Change"][] },
    }),
  meter: (slug: string, wanted: Schemas["MeterWanted"]) =>
    post("/api/projects/{slug}/meter", { ...to(slug), body: wanted }),
  area: (slug: string, wanted: Schemas["AreaWanted"]) =>
    post("/api/projects/{slug}/area", { ...to(slug), body: wanted }),
  targets: () => get("/api/targets"),
  readings: (slug: string, fixture: string, occasion: string) =>
    get("/api/projects/{slug}/fixtures/{fixture}/readings", {
      params: { path: { slug, fixture }, query: { occasion } },
    }),
  goniometer: (slug: string, wanted: Schemas["GoniometerWanted"]) =>
    post("/api/projects/{slug}/goniometer", { ...to(slug), body: wanted }),
  objects: (slug: string) => get("/api/projects/{slug}/objects", to(slug)),
  placeFixture: (slug: string, wanted: FixtureWanted) =>
    post("/api/projects/{slug}/fixtures", { ...to(slug), body: wanted }),
  arrange: (slug: string, wanted: ArrangeWanted) =>
    post("/api/projects/{slug}/arrange", { ...to(slug), body: wanted }),
  section: (slug: string, axis: "x" | "y", place: number) =>
    get("/api/projects/{slug}/section", {
      params: { path: { slug }, query: { axis, place_m: Number(place.toFixed(2)) } },
    }),
  sun: (slug: string, day: string, turbidity: number) =>
    get("/api/projects/{slug}/sun", { params: { path: { slug }, query: { day, turbidity } } }),
  surfaces: (slug: string, view: string, occasion: string) =>
    get("/api/projects/{slug}/surfaces", { params: { path: { slug }, query: { view, occasion } } }),
  surfaceSample: (slug: string, s: StageSurface) =>
    `${at(slug)}/surfaces/${s.version}/sample.png?name=${encodeURIComponent(s.name)}`,
  catalogueSurfaces: () => get("/api/surfaces"),
  catalogueSample: (s: CatalogueSurface) => `/api/surfaces/${s.key}/sample.png`,
  keepSurface: (name: string, surface: Surface) => post("/api/surfaces", { body: { name, surface } }),
  renameSurface: (number: number, name: string) =>
    put("/api/surfaces/own/{number}", { params: { path: { number } }, body: { name } }),
  putSurfaceAway: (number: number) => remove("/api/surfaces/own/{number}", { params: { path: { number } } }),
  takeSurface: (name: string, file: Blob) =>
    post("/api/surfaces/file", { params: { query: { name } }, ...whole(file) }),
  takeSurfacePicture: (channel: Channel, file: File) =>
    post("/api/surface-pictures", { params: { query: { channel, name: file.name } }, ...whole(file) }),
  smallPicture: (asset: string) => `/api/surface-pictures/${asset}/small.png`,
  surfaceAsFile: (suffix: "glb" | "zip", name: string, surface: Surface) =>
    post("/api/surfaces/file.{suffix}", {
      params: { path: { suffix } },
      body: { name, surface },
      parseAs: "blob",
    }) as Promise<unknown> as Promise<Blob>,
  surfaceFile: (key: string, suffix: "glb" | "zip") => `/api/surfaces/${key}/surface.${suffix}`,
  pick: (slug: string, spot: Spot) =>
    post("/api/projects/{slug}/pick", { ...to(slug), body: { up: false, as_seen: false, ...spot } }),
  airScales: () => get("/api/air"),
  airOffers: (slug: string, view: string) =>
    get("/api/projects/{slug}/views/{view}/air", { params: { path: { slug, view } } }),
  recipes: (slug: string, view: string, occasion: string) =>
    get("/api/projects/{slug}/views/{view}/occasions/{occasion}/recipes", {
      params: { path: { slug, view, occasion } },
    }),
  leaves: (slug: string, occasion: string) =>
    get("/api/projects/{slug}/occasions/{occasion}/leaves", { params: { path: { slug, occasion } } }),
  lensScales: () => get("/api/lens"),
  lensReading: (view: View, occasion: string) => post("/api/lens/reading", { body: { view, occasion } }),
  lensCrop: (
    view: View,
    occasion: string,
    edges: { left: number; top: number; right: number; bottom: number },
    format: [number, number] | null,
  ) => post("/api/lens/crop", { body: { view, occasion, ...edges, format } }),
  lensHorizon: (view: View, occasion: string, at: number) =>
    post("/api/lens/horizon", { body: { view, occasion, at } }),
  lensSection: (slug: string, view: string, reach_m: number) =>
    get("/api/projects/{slug}/views/{view}/section", {
      params: { path: { slug, view }, query: { reach_m: Number(reach_m.toFixed(3)) } },
    }),
  lensStanding: (slug: string, view: string, occasion: string) =>
    get("/api/projects/{slug}/views/{view}/standing", {
      params: { path: { slug, view }, query: { occasion } },
    }),
  focusAt: (slug: string, view: string, body: Schemas["FocusWanted"]) =>
    post("/api/projects/{slug}/views/{view}/focus", { params: { path: { slug, view } }, body }),
  year: (slug: string, year: string, turbidity: number) =>
    get("/api/projects/{slug}/year", {
      params: { path: { slug }, query: { year: Number(year), turbidity } },
    }),
  places: (like = "") => get("/api/places", { params: { query: { like } } }),
  skyCatalogue: () => get("/api/skies/catalogue"),
  skyFigures: (key: string, azimuth_deg: number, altitude_deg: number) =>
    get("/api/skies/catalogue/{key}", {
      params: { path: { key }, query: { azimuth_deg, altitude_deg } },
    }),
  skyMeter: (slug: string, occasion: string) =>
    get("/api/projects/{slug}/occasions/{occasion}/sky-meter", {
      params: { path: { slug, occasion } },
    }),
  skyFile: (slug: string, occasion: string, suffix: "exr" | "hdr") =>
    `${at(slug)}/occasions/${occasion}/sky.${suffix}`,
  uploadPicture: (slug: string, file: File) =>
    post("/api/projects/{slug}/pictures", {
      params: { path: { slug }, query: { name: file.name } },
      ...whole(file),
    }),
  pictureFigures: (slug: string, asset: string, name: string) =>
    get("/api/projects/{slug}/pictures/{asset}", {
      params: { path: { slug, asset }, query: { name } },
    }),
  glimpse: (slug: string, view: string, occasion: string, when: string, cloudless = false) =>
    `${at(slug)}/views/${view}/glimpse.jpg?occasion=${occasion}&when=${when.slice(0, 19)}&cloudless=${cloudless}`,
  trueSun: (slug: string, when: string) =>
    get("/api/projects/{slug}/sun-at", { params: { path: { slug }, query: { when } } }),
  horizon: (slug: string, view: string, occasion: string) =>
    get("/api/projects/{slug}/views/{view}/horizon", {
      params: { path: { slug, view }, query: { occasion } },
    }),
  findHours: (slug: string, question: Schemas["HourQuestion"]) =>
    post("/api/projects/{slug}/hours", { ...to(slug), body: question }),
  sunHours: (slug: string, question: Schemas["SunHoursQuestion"]) =>
    post("/api/projects/{slug}/sun-hours", { ...to(slug), body: question }),
  sunByHand: (slug: string, view: string, side: Side, shadow: number, year: number) =>
    get("/api/projects/{slug}/views/{view}/sun-by-hand", {
      params: { path: { slug, view }, query: { side, shadow, year } },
    }),
  skies: () => get("/api/skies"),
  treatments: () => get("/api/treatments"),
  /** The curve of a treatment, bent first where that is asked. */
  curve: (treatment: Treatment, bend?: Bend) => post("/api/treatments/curve", { body: { treatment, bend } }),
  /** The looks that ship. */
  readyLooks: () => get("/api/looks"),
  /** The live picture under looks, as addresses of pictures. */
  tryLooks: async (slug: string, view: string, occasion: string, looks: Look[], width: number) => {
    const body = { view, occasion, looks, width };
    const { pictures } = await post("/api/projects/{slug}/looks/tried", { ...to(slug), body });
    return pictures.map((coded) => `data:image/jpeg;base64,${coded}`);
  },
  /** Where the limit of a look's treatment holds in the live picture. */
  limit: (slug: string, view: string, occasion: string, look: Look, number: number) =>
    post("/api/projects/{slug}/looks/limit", {
      ...to(slug),
      body: { view, occasion, look, number, width: 640 },
      parseAs: "blob",
    }) as Promise<unknown> as Promise<Blob>,
  takeTable: (file: File) =>
    post("/api/lookup-tables", { params: { query: { name: file.name } }, ...whole(file) }),
  takeLook: (slug: string, file: File) =>
    post("/api/projects/{slug}/looks", {
      params: { path: { slug }, query: { name: file.name } },
      ...whole(file),
    }),
  lookFile: (slug: string, key: string, suffix: "json" | "cube") =>
    `${at(slug)}/looks/${encodeURIComponent(key)}/look.${suffix}`,
  mesh: (slug: string, occasion: string) =>
    get("/api/projects/{slug}/mesh", {
      params: { path: { slug }, query: { occasion } },
      parseAs: "arrayBuffer",
    }) as Promise<unknown> as Promise<ArrayBuffer>,
  /** Write plates as files; where the file is fetched, and what is said of it. */
  exportPlates: async (slug: string, wanted: Schemas["ExportWanted"]) => {
    const made = await post("/api/projects/{slug}/exports", { ...to(slug), body: wanted });
    return { ...made, url: `/api/exports/${made.file}/${encodeURIComponent(made.name)}` };
  },
  course: (slug: string, sequence: Sequence) =>
    post("/api/projects/{slug}/course", { ...to(slug), body: { sequence } }),
  /** What the lens of a sequence runs into. */
  onTheWay: (slug: string, sequence: Sequence) =>
    post("/api/projects/{slug}/course/way", { ...to(slug), body: { sequence } }),
  runs: (slug: string) => get("/api/projects/{slug}/runs", to(slug)),
  makeSequence: (slug: string, key: string, version: Run["version"]) =>
    post("/api/projects/{slug}/sequences/{key}/runs", {
      params: { path: { slug, key } },
      body: { version },
    }),
  makeFilm: (slug: string, film: FilmOfPlates) =>
    post("/api/projects/{slug}/films", { ...to(slug), body: { name: "", film } }),
  stopRun: (run: number) => post("/api/runs/{run_id}/stop", ofRun(run)),
  resumeRun: (run: number) => post("/api/runs/{run_id}/resume", ofRun(run)),
  framesAgain: (run: number, frames: number[]) =>
    post("/api/runs/{run_id}/again", { ...ofRun(run), body: { frames } }),
  takeRunAway: (run: number) => remove("/api/runs/{run_id}", ofRun(run)),
  /** Write the frames of a run as a film; where it is fetched, and what is said of it. */
  film: async (run: number, form: FilmForm) => {
    const made = await post("/api/runs/{run_id}/film", { ...ofRun(run), body: { form } });
    return { ...made, url: `/api/exports/${made.file}/${encodeURIComponent(made.name)}` };
  },
  /** A frame of a run; another address once frames of it were made again. */
  frame: (
    run: Pick<Run, "id" | "takes">,
    number: number,
    form: "picture.png" | "screen.jpg" | "strip.jpg" | "linear.exr",
  ) => `/api/runs/${run.id}/frames/${number}/${form}?take=${run.takes}`,
  picture: (plate: number) => `/api/plates/${plate}/picture.png`,
  thumb: (plate: number) => `/api/plates/${plate}/thumb.jpg`,
  linear: (plate: number) => `/api/plates/${plate}/linear.exr`,
};
