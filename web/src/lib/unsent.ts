/**
 * Jobs and sheets that the server has not seen: shown from blanks that were read ahead (`ahead.ts`) and
 * from what waits in the outbox.
 */
import { queryOptions } from "@tanstack/react-query";
import api, {
  Away,
  got,
  type BlanksView,
  type JobLine,
  type JobView,
  type KnotView,
  type NewJob,
  type RowView,
  type SheetView,
  type VehicleView,
} from "../api/client";
import type { Waiting } from "./outbox";
import { keyOf } from "./places";

type JobErrand = Extract<Waiting, { kind: "job" }>;
type SheetErrand = Extract<Waiting, { kind: "sheet" }>;
type Begun = JobErrand | SheetErrand;
type System = NonNullable<JobErrand["job"]["fuel_system"]>;
export type Each = NonNullable<JobErrand["job"]["injectors"]>;

const DAY_MS = 24 * 3600 * 1000;
/** The largest engine of a blank; a longer list of injectors is one with two a cylinder. */
const MOST_CYLINDERS = 16;
const GONE = "It waited in this browser, and was thrown away.";
const SAID = "The server has not seen this sheet yet; what it says comes then.";

/** A job as it begins on a fuel system, with every sheet of its route; it changes with the shelf. */
export function blanksQuery(system: string, injectors: Each, banks: number) {
  return queryOptions({
    queryKey: ["blanks", system, injectors, banks],
    queryFn: () =>
      got(
        api.GET("/api/blanks/{fuel_system}", {
          params: { path: { fuel_system: system as System }, query: { injectors, banks } },
        }),
      ),
    staleTime: DAY_MS,
    gcTime: Infinity,
  });
}

/** What is known in this browser: all that waits, and the blanks. */
export interface Known {
  waiting: readonly Waiting[];
  blanks: (system: string, injectors: Each, banks: number) => Promise<BlanksView>;
}

const banksOf = (vehicle: VehicleView) =>
  new Set(vehicle.injectors.map((i) => i.bank)).size > 1 ? 2 : 1;

type OnIt = [VehicleView, BlanksView];

/** A vehicle that is known, and the blanks that are like it. */
async function onKnown(vehicle: VehicleView, known: Known): Promise<OnIt> {
  const each = vehicle.injectors.length > MOST_CYLINDERS ? "two_each" : "one_each";
  return [vehicle, await known.blanks(vehicle.fuel_system, each, banksOf(vehicle))];
}

/** The vehicle of a new job: one that is known, or one as it was described. */
async function vehicleOf(errand: JobErrand, known: Known): Promise<OnIt> {
  const { job, vehicle } = errand;
  if (vehicle) return onKnown(vehicle, known);
  const { fuel_system: system, cylinders } = job;
  const blank = await known.blanks(system, job.injectors, job.banks);
  const made: VehicleView = {
    ...blank.job.vehicle,
    id: 0,
    name: job.vehicle_name,
    registration: job.registration,
    fuel_system: system,
    cylinders,
    injectors: blank.job.vehicle.injectors.filter((i) => i.cylinder <= cylinders),
  };
  return [made, blank];
}

/** The rows of a blank on a vehicle: one for each of its injectors, and those that are none. */
function rowsOn(blank: SheetView, of: BlanksView, vehicle: VehicleView): RowView[] {
  const labels = new Set(of.job.vehicle.injectors.map((i) => i.label));
  const like = blank.rows.find((r) => labels.has(r.injector));
  const others = blank.rows.filter(
    (r) => !labels.has(r.injector) && cylinderIn(r.injector) <= vehicle.cylinders,
  );
  if (!like) return others;
  const seats = vehicle.injectors.map(({ label, cylinder, bank, feed }) => ({
    ...like,
    injector: label,
    cylinder,
    bank,
    feed,
  }));
  return [...seats, ...others];
}

/** The cylinder that a row is about which is no injector: "misfires 7"; 0 where it is about none. */
const cylinderIn = (row: string): number => Number(/ (\d+)$/.exec(row)?.[1] ?? 0);

const begun = (waiting: readonly Waiting[]): Begun[] =>
  waiting.filter((w): w is Begun => w.kind === "job" || w.kind === "sheet");
/** The jobs that wait, newest first. */
export const unsentJobs = (waiting: readonly Waiting[]): JobErrand[] =>
  begun(waiting)
    .filter((e): e is JobErrand => e.kind === "job")
    .reverse();
const kindOf = (errand: Begun): string =>
  errand.kind === "job" ? errand.job.begin_with : errand.sheet.kind;
const whenOf = (errand: Begun): string => new Date(errand.at ?? Date.now()).toISOString();

function knotOf(errand: Begun, like: KnotView | undefined): KnotView {
  const kind = kindOf(errand);
  return {
    ...like,
    sheet_id: errand.sheetId,
    key: keyOf(errand.sheetId),
    kind,
    title: like?.title ?? kind.replaceAll("_", " "),
    sub: "waits in this browser",
    state: "now",
    again: null,
    empty: true,
  };
}

/** A job with the sheets that wait to be begun on it: in place of their knots, repeats at the end. */
export function withUnsent(job: JobView, waiting: readonly Waiting[]): JobView {
  const mine = begun(waiting).filter((e) => e.number === job.number);
  const route = mine.reduce((knots, errand) => {
    const at = knots.findIndex((k) => k.kind === kindOf(errand) && k.sheet_id === 0);
    const like = knots.find((k) => k.kind === kindOf(errand));
    const knot = knotOf(errand, like);
    return at < 0 ? [...knots, knot] : knots.with(at, knot);
  }, job.route);
  return mine.length > 0 ? { ...job, route } : job;
}

/** A job that the server has not seen. */
export async function unsentJob(number: string, known: Known): Promise<JobView> {
  const errand = unsentJobs(known.waiting).find((e) => e.number === number);
  if (!errand) throw new Error(GONE);
  const [vehicle, blank] = await vehicleOf(errand, known);
  const route = blank.job.route.map((k) => ({ ...k, state: "open", sub: "" }));
  const job = {
    ...blank.job,
    number,
    opened: whenOf(errand),
    by: errand.by?.name ?? "",
    complaint: errand.job.complaint,
    codes: errand.job.codes,
    vehicle,
    route,
    next: null,
  };
  return withUnsent(job, known.waiting);
}

/** A sheet that the server has not seen, on a job that it may know. */
export async function unsentSheet(
  id: number,
  known: Known,
  jobOf: (number: string) => Promise<JobView>,
): Promise<SheetView> {
  const errand = begun(known.waiting).find((e) => e.sheetId === id);
  if (!errand) throw new Error(GONE);
  const [vehicle, of] =
    errand.kind === "job"
      ? await vehicleOf(errand, known)
      : await onKnown((await jobOf(errand.number)).vehicle, known);
  const blank = of.sheets.find((s) => s.kind === kindOf(errand));
  if (!blank)
    throw new Away("This sheet was not read ahead: it can be begun once the server is back.");
  return {
    ...blank,
    id,
    key: keyOf(id),
    job_number: errand.number,
    taken: whenOf(errand),
    by: errand.by?.name ?? "",
    rows: rowsOn(blank, of, vehicle),
    headline: [{ text: SAID, tone: "" }],
    notes: [],
    rules: [],
    next: null,
    traced: null,
  };
}

/** The vehicle that a layout of the shelf makes. */
export function laidOut(job: NewJob, values: Record<string, string>): VehicleView {
  const injectors = Object.entries(values).map(([label, where], n) => ({
    label,
    cylinder: Number.parseInt(label, 10) || n + 1,
    set_name: "",
    bank: /bank ([^,]+)/.exec(where)?.[1] ?? "",
    feed: /feed (.+)$/.exec(where)?.[1] ?? "",
  }));
  return {
    id: 0,
    name: job.vehicle_name,
    registration: job.registration,
    fuel_system: job.fuel_system,
    injectors,
    cylinders: new Set(injectors.map((i) => i.cylinder)).size,
    firing_order: [],
    distance_unit: job.distance_unit,
    boosted: false,
  };
}

/** Today's line of a job that the server has not seen. */
export function unsentLine(errand: JobErrand): JobLine {
  const { job, vehicle } = errand;
  return {
    number: errand.number,
    vehicle: vehicle?.name ?? job.vehicle_name,
    registration: vehicle?.registration ?? job.registration,
    complaint: job.complaint,
    codes: job.codes,
    opened: whenOf(errand),
    closed: false,
    cylinders: vehicle?.cylinders ?? job.cylinders,
    fuel_system: vehicle?.fuel_system ?? job.fuel_system,
    waits: "start",
    next_title: "Waits in this browser",
    next_sub: "its number comes from the server",
    corridor_percent: 10,
    bobs: [],
  };
}
