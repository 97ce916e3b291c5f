/** Calls to the server; every failure becomes a `Refusal` that says what, where and what to do. */
import type { components } from "./schema";

type Schemas = components["schemas"];
export type Project = Schemas["Project"];
export type ProjectState = Schemas["ProjectState"];
export type ProjectLine = Schemas["ProjectLine"];
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
export type ArrangeWanted = Schemas["ArrangeWanted"];
export type Lens = Schemas["Lens"];
export type Look = Schemas["Look"];
export type Treatment = Look["treatments"][number];
export type TreatmentLine = Schemas["TreatmentLine"];
export type Plate = Schemas["Plate"];
export type Job = Schemas["Job"];
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
export type StageFigures = Schemas["StageFigures"];
export type Surface = Schemas["Surface"];
export type StageSurface = Schemas["StageSurface"];
export type CatalogueSurface = Schemas["CatalogueSurface"];
export type Spot = Omit<Schemas["Spot"], "up"> & { up?: boolean };
export type Picked = Schemas["Picked"];
export type Change = Pick<Schemas["Change"], "part"> & Partial<Omit<Schemas["Change"], "part">>;
export type Conflict = Schemas["Conflict"];
export type Site = Schemas["Site"];
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

async function call(path: string, init?: RequestInit): Promise<Response> {
  let response: Response;
  try {
    response = await fetch(path, { ...init, headers: { ...init?.headers, "Valleylight-Hand": hand } });
  } catch {
    throw new Refusal(0, "The server does not answer. What you saved is kept; it is tried again.");
  }
  if (!response.ok) {
    const problem = (await response.json().catch(() => null)) as Schemas["Problem"] | Conflict | null;
    throw new Refusal(
      response.status,
      problem?.detail ?? `The server answered ${response.status}.`,
      problem?.where,
      problem && "now" in problem ? problem : null,
    );
  }
  return response;
}

async function get<T>(path: string): Promise<T> {
  return (await call(path)).json() as Promise<T>;
}

/** Browsers refuse to keep larger requests going when their page is left. */
const KEPT_ALIVE_BYTES = 50_000;

async function post<T>(path: string, body?: unknown): Promise<T> {
  const init: RequestInit = { method: "POST" };
  if (body !== undefined) {
    const text = JSON.stringify(body);
    init.headers = { "Content-Type": "application/json" };
    init.body = text;
    init.keepalive = text.length < KEPT_ALIVE_BYTES;
  }
  return (await call(path, init)).json() as Promise<T>;
}

async function upload<T>(path: string, file: File, details: Record<string, string> = {}): Promise<T> {
  const query = `?${new URLSearchParams({ name: file.name, ...details })}`;
  const headers = { "Content-Type": "application/octet-stream" };
  return (await call(path + query, { method: "POST", headers, body: file })).json() as Promise<T>;
}

const at = (slug: string) => `/api/projects/${encodeURIComponent(slug)}`;

const seen = (base: number | null) => (base === null ? "" : `?base=${base}`);

export const api = {
  projects: (away = false) => get<ProjectLine[]>(`/api/projects${away ? "?away=true" : ""}`),
  createProject: (name: string, site?: Site) => post<ProjectState>("/api/projects", { name, site }),
  duplicateProject: (slug: string) => post<ProjectState>(`${at(slug)}/duplicate`, { with_plates: true }),
  placeProject: (slug: string, place: number) => post<ProjectLine[]>(`${at(slug)}/place`, { place }),
  putAway: async (slug: string) =>
    (await call(at(slug), { method: "DELETE" })).json() as Promise<ProjectLine>,
  bringBack: (slug: string) => post<ProjectLine>(`${at(slug)}/restore`),
  project: (slug: string) => get<ProjectState>(at(slug)),
  edit: (slug: string, label: string, changes: Change[], base: number | null) =>
    post<ProjectState>(`${at(slug)}/edits`, { label, changes, base }),
  copy: (slug: string, part: Copied, key: string) =>
    post<Schemas["PartCopied"]>(`${at(slug)}/copies`, { part, key }),
  undo: (slug: string, base: number | null) => post<ProjectState>(`${at(slug)}/undo${seen(base)}`),
  redo: (slug: string, base: number | null) => post<ProjectState>(`${at(slug)}/redo${seen(base)}`),
  kinds: (slug: string) => get<KindFigures[]>(`${at(slug)}/kinds`),
  uploadProfile: (slug: string, file: File) => upload<ProjectState>(`${at(slug)}/profiles`, file),
  addKind: (slug: string, from: Schemas["KindFromProfile"]) => post<ProjectState>(`${at(slug)}/kinds`, from),
  profiles: (wanted: Record<string, string | number | undefined>) => {
    const given = Object.entries(wanted).filter(([, v]) => v !== undefined && v !== "");
    return get<ProfilePage>(`/api/profiles?${new URLSearchParams(given.map(([k, v]) => [k, String(v)]))}`);
  },
  profile: (sha: string) => get<ProfileFigures>(`/api/profiles/${sha}`),
  takeProfile: (file: File, tilt?: string) =>
    upload<ProfileLine>("/api/profiles", file, tilt === undefined ? {} : { tilt }),
  plainSpot: (wanted: Schemas["PlainSpot"]) => post<ProfileLine>("/api/profiles/plain", wanted),
  drawnProfile: (wanted: Schemas["DrawnProfile"]) => post<ProfileLine>("/api/profiles/drawn", wanted),
  profilePicture: (sha: string, side: "wall" | "floor", ev?: number) =>
    `/api/profiles/${sha}/${side}.jpg${ev === undefined ? "" : `?ev=${ev.toFixed(1)}`}`,
  profileFile: (sha: string, suffix: "ies" | "ldt") => `/api/profiles/${sha}/file.${suffix}`,
  sources: () => get<SourceTemplate[]>("/api/sources"),
  uploadModel: (slug: string, file: File, replace?: number) =>
    upload<ProjectState>(
      `${at(slug)}/models`,
      file,
      replace === undefined ? {} : { replace: String(replace) },
    ),
  stage: (slug: string) => get<StageFigures>(`${at(slug)}/stage`),
  plates: (slug: string) => get<Plate[]>(`${at(slug)}/plates`),
  makePlate: (slug: string, view: string, occasion: string, quality: Quality, when?: string) =>
    post<Plate>(`${at(slug)}/plates`, { view, occasion, quality, when }),
  keepLive: (slug: string, view: string, occasion: string) =>
    post<Plate>(`${at(slug)}/plates/live`, { view, occasion }),
  makeAgain: (plate: number, quality?: Quality) => post<Plate>(`/api/plates/${plate}/again`, { quality }),
  estimate: (slug: string) => get<PlateEstimate>(`${at(slug)}/estimate`),
  stopJob: (id: number) => post<unknown>(`/api/jobs/${id}/stop`),
  resumeJob: (id: number) => post<unknown>(`/api/jobs/${id}/resume`),
  plan: (slug: string, height: number) => get<PlanDrawing>(`${at(slug)}/plan?height_m=${height}`),
  lux: (slug: string, occasion: string, height: number) =>
    get<LuxGrid>(`${at(slug)}/illuminance?occasion=${occasion}&height_m=${height}`),
  luxOfDraft: (slug: string, occasion: string, height: number, draft: Change[]) =>
    post<LuxGrid>(`${at(slug)}/illuminance`, { occasion, height_m: height, draft }),
  meter: (slug: string, wanted: Schemas["MeterWanted"]) => post<MeterReading>(`${at(slug)}/meter`, wanted),
  area: (slug: string, wanted: Schemas["AreaWanted"]) => post<AreaReading>(`${at(slug)}/area`, wanted),
  targets: () => get<TargetLine[]>("/api/targets"),
  readings: (slug: string, fixture: string, occasion: string) =>
    get<FixtureReadings>(`${at(slug)}/fixtures/${encodeURIComponent(fixture)}/readings?occasion=${occasion}`),
  goniometer: (slug: string, wanted: Schemas["GoniometerWanted"]) =>
    post<ProfileLine>(`${at(slug)}/goniometer`, wanted),
  objects: (slug: string) => get<ObjectLine[]>(`${at(slug)}/objects`),
  arrange: (slug: string, wanted: ArrangeWanted) => post<ProjectState>(`${at(slug)}/arrange`, wanted),
  section: (slug: string, axis: "x" | "y", place: number) =>
    get<SectionDrawing>(`${at(slug)}/section?axis=${axis}&place_m=${place.toFixed(2)}`),
  sun: (slug: string, day: string, turbidity: number) =>
    get<SunDay>(`${at(slug)}/sun?day=${day}&turbidity=${turbidity}`),
  surfaces: (slug: string) => get<StageSurface[]>(`${at(slug)}/surfaces`),
  surfaceSample: (slug: string, s: StageSurface) =>
    `${at(slug)}/surfaces/${s.version}/sample.png?name=${encodeURIComponent(s.name)}`,
  catalogueSurfaces: () => get<CatalogueSurface[]>("/api/surfaces"),
  catalogueSample: (key: string) => `/api/surfaces/${key}/sample.png`,
  pick: (slug: string, spot: Spot) => post<Picked | null>(`${at(slug)}/pick`, spot),
  year: (slug: string, year: string, turbidity: number) =>
    get<YearDay[]>(`${at(slug)}/year?year=${year}&turbidity=${turbidity}`),
  places: (like = "") => get<PlaceLine[]>(`/api/places?${new URLSearchParams({ like })}`),
  skyCatalogue: () => get<SkyLine[]>("/api/skies/catalogue"),
  skyFigures: (key: string, azimuth: number, altitude: number) =>
    get<SkyFigures>(`/api/skies/catalogue/${key}?azimuth_deg=${azimuth}&altitude_deg=${altitude}`),
  skyMeter: (slug: string, occasion: string) => get<SkyMeter>(`${at(slug)}/occasions/${occasion}/sky-meter`),
  skyFile: (slug: string, occasion: string, suffix: "exr" | "hdr") =>
    `${at(slug)}/occasions/${occasion}/sky.${suffix}`,
  uploadPicture: (slug: string, file: File) => upload<PictureFigures>(`${at(slug)}/pictures`, file),
  pictureFigures: (slug: string, asset: string, name: string) =>
    get<PictureFigures>(`${at(slug)}/pictures/${asset}?name=${encodeURIComponent(name)}`),
  glimpse: (slug: string, view: string, occasion: string, when: string, cloudless = false) =>
    `${at(slug)}/views/${view}/glimpse.jpg?occasion=${occasion}&when=${when.slice(0, 19)}&cloudless=${cloudless}`,
  trueSun: (slug: string, when: string) =>
    get<{ azimuth_deg: number; altitude_deg: number }>(`${at(slug)}/sun-at?when=${when}`),
  horizon: (slug: string, view: string, occasion: string) =>
    get<HorizonMask>(`${at(slug)}/views/${view}/horizon?occasion=${occasion}`),
  findHours: (slug: string, question: Schemas["HourQuestion"]) =>
    post<HourAnswer>(`${at(slug)}/hours`, question),
  sunHours: (slug: string, question: Schemas["SunHoursQuestion"]) =>
    post<SunHoursOfDay[]>(`${at(slug)}/sun-hours`, question),
  sunByHand: (slug: string, view: string, side: string, shadow: number, year: number) =>
    get<SunByHand>(
      `${at(slug)}/views/${view}/sun-by-hand?side=${encodeURIComponent(side)}&shadow=${shadow}&year=${year}`,
    ),
  skies: () => get<SkyType[]>("/api/skies"),
  treatments: () => get<TreatmentLine[]>("/api/treatments"),
  mesh: async (slug: string) => (await call(`${at(slug)}/mesh`)).arrayBuffer(),
  finish: async (plate: number, look: Look, levels: Record<string, number>) => {
    const body = JSON.stringify({ look, levels });
    const headers = { "Content-Type": "application/json" };
    return (await call(`/api/plates/${plate}/finish`, { method: "POST", headers, body })).blob();
  },
  picture: (plate: number) => `/api/plates/${plate}/picture.png`,
  thumb: (plate: number) => `/api/plates/${plate}/thumb.jpg`,
  linear: (plate: number) => `/api/plates/${plate}/linear.exr`,
};
