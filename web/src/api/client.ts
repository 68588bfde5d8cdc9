/** The API, with the types that its schema gives. */
import createClient, { type Middleware } from "openapi-fetch";

import type { components, paths } from "./schema";
import { must } from "../components/must";

type Schemas = components["schemas"];
export type Me = Schemas["Me"];
export type FleetRow = Schemas["FleetRow"];
export type Strip = Schemas["Strip"];
export type SystemShown = Schemas["SystemShown"];
export type DaysShown = Schemas["DaysShown"];
export type Figure = Schemas["FigureShown"];
export type Reckoning = Schemas["ReckoningShown"];
export type Level = Schemas["LevelShown"];
export type SpanFigures = Schemas["SpanFigures"];
export type Rating = Schemas["RatingShown"];
export type Money = Schemas["MoneyShown"];
export type Month = Schemas["MonthShown"];
export type Check = Schemas["CheckShown"];
export type Effect = Schemas["EffectShown"];
export type Picture = Schemas["PictureShown"];
export type TrustShown = Schemas["TrustShown"];
export type Budget = Schemas["BudgetShown"];
export type Readings = Schemas["ReadingsShown"];
export type ProofShown = Schemas["ProofShown"];
export type Finding = Schemas["Finding"];
export type FindingsShown = Schemas["FindingsShown"];
export type FindingStatus = Schemas["FindingStatusShown"];
export type Same = Schemas["SameShown"];
export type GridCell = Schemas["Cell"];
export type RatedShown = Schemas["RatedShown"];
export type RatedTable = Schemas["TableShown"];
export type TablePoint = Schemas["TablePoint"];
export type SheetShown = Schemas["RatedSheetShown"];
export type SheetKind = Schemas["SheetAsked"]["kind"];
export type ReadingShown = Schemas["ReadAs"];
export type ScopShown = Schemas["Scop"];
export type ForHouse = Schemas["ForHouse"];
export type InHouseShown = Schemas["InHouseShown"];
export type LimitShown = Schemas["ThresholdShown"];
export type Job = Schemas["JobShown"];
export type Preview = Schemas["Preview"];
export type Report = Schemas["ReportShown"];
export type Import = Schemas["ImportShown"];
export type Channel = Schemas["ChannelShown"];
export type ColumnChoice = Schemas["ColumnChoice"];
export type Mode = Schemas["ModeShown"];
export type Question = Schemas["QuestionShown"];
export type Proposal = Schemas["LogProposal"];
export type Declared = Schemas["DeclaredShown"];
export type Observation = Schemas["ObservationShown"];
export type RunsSeen = Schemas["RunsSeen"];
export type RunRow = Schemas["RunRow"];
export type StartsSeen = Schemas["StartsSeen"];
export type DefrostsSeen = Schemas["DefrostsSeen"];
export type WaterSeen = Schemas["WaterSeen"];
export type ControlSeen = Schemas["ControlSeen"];
export type InsideSeen = Schemas["InsideSeen"];
export type PropertyShown = Schemas["PropertyShown"];
export type UnitPair = Schemas["UnitPair"];

/** An answer that is none, with the sentence that came. */
export class Refused extends Error {
  constructor(
    message: string,
    readonly status: number,
    /** The field that is wrong, by its name in what was sent. */
    readonly where: string | null = null,
  ) {
    super(message);
  }
}

function token(): string {
  return /(?:^|; )csrftoken=([^;]+)/.exec(document.cookie)?.[1] ?? "";
}

const withToken: Middleware = {
  onRequest({ request }) {
    if (request.method !== "GET") request.headers.set("X-CSRFToken", token());
    return request;
  },
};

export const api = createClient<paths>({ baseUrl: "", credentials: "same-origin" });
api.use(withToken);

const SILENT = "The server does not answer. Is it still running? Nothing you typed is lost.";

/** An address fetched as it is. Throws Refused with the sentence of the server. */
export async function fetched(address: string): Promise<Response> {
  let response;
  try {
    response = await fetch(address);
  } catch {
    throw new Refused(SILENT, 0);
  }
  if (response.ok) return response;
  throw new Refused(sentence(await response.json().catch(() => null), response), response.status);
}

/** The data of an answer. Throws Refused with the sentence of the server. */
export async function got<T>(answer: Promise<{ data?: T; error?: unknown; response: Response }>): Promise<T> {
  let found;
  try {
    found = await answer;
  } catch {
    throw new Refused(SILENT, 0);
  }
  if (found.response.ok && found.data !== undefined) return found.data;
  throw new Refused(sentence(found.error, found.response), found.response.status, whereOf(found.error));
}

function whereOf(error: unknown): string | null {
  return error && typeof error === "object" && "where" in error && typeof error.where === "string"
    ? error.where
    : null;
}

function sentence(error: unknown, response: Response): string {
  if (error && typeof error === "object" && "detail" in error && typeof error.detail === "string")
    return error.detail;
  return `The server answered ${response.status}. Try again; if it stays so, its log says why.`;
}

const EVERY = 300; // a job is asked after [ms]

/** Waits until a job is over; who leaves the page ends it. Throws Refused with its message where it did not get done. */
export async function over(job: Job, tell?: (job: Job) => void): Promise<Job> {
  let now = job;
  const leave = () =>
    void fetch(`/api/v1/jobs/${job.id}/cancel`, {
      method: "POST",
      headers: { "X-CSRFToken": token() },
      keepalive: true,
    });
  window.addEventListener("pagehide", leave);
  try {
    while (now.state === "waiting" || now.state === "running") {
      await new Promise((done) => setTimeout(done, EVERY));
      now = await got(api.GET("/api/v1/jobs/{pk}", { params: { path: { pk: job.id } } }));
      tell?.(now);
    }
  } finally {
    window.removeEventListener("pagehide", leave);
  }
  if (now.state !== "done") throw new Refused(now.message || `${now.title}: ${now.state}.`, 422);
  return now;
}

/** Sends a log and looks at it, once a packed one is opened. */
export async function sendLog(system: number, file: File, tell?: (job: Job) => void): Promise<Preview> {
  const sent = await send<Preview>(`/api/v1/systems/${system}/uploads`, { file });
  if (!sent.opening) return sent;
  try {
    await over(sent.opening, tell);
  } catch (error) {
    void api.DELETE("/api/v1/uploads/{pk}", { params: { path: { pk: sent.upload } } });
    throw error;
  }
  return got(
    api.POST("/api/v1/uploads/{pk}/preview", {
      params: { path: { pk: sent.upload } },
      body: { columns: null, guess: false },
    }),
  );
}

/** Reads a rated table from a file, once a packed one is opened. */
export async function sheetOf(file: File, kind: SheetKind, nominal_kw: number | null): Promise<SheetShown> {
  const found = await send<Schemas["RatedFile"]>(
    `/api/v1/rated/file?kind=${kind}${nominal_kw ? `&nominal_kw=${nominal_kw}` : ""}`,
    { file },
  );
  if (found.sheet) return found.sheet;
  const job = await over(must(found.opening));
  const query = nominal_kw ? { kind, nominal_kw } : { kind };
  return got(api.GET("/api/v1/jobs/{job}/table", { params: { path: { job: job.id }, query } }));
}

/** Sends a form with files. */
export async function send<T>(path: string, files: Record<string, File | File[] | string>): Promise<T> {
  const body = new FormData();
  for (const [name, given] of Object.entries(files))
    for (const one of Array.isArray(given) ? given : [given]) body.append(name, one);
  let response;
  try {
    response = await fetch(path, { method: "POST", body, headers: { "X-CSRFToken": token() } });
  } catch {
    throw new Refused("The file could not be sent: the server does not answer.", 0);
  }
  const found: unknown = await response.json().catch(() => null);
  if (!response.ok) throw new Refused(sentence(found, response), response.status);
  return found as T;
}
