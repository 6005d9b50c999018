/** The page's one store: queries, the outbox, and the rule that an older state never wins. */
import {
  infiniteQueryOptions,
  notifyManager,
  QueryClient,
  queryOptions,
  useMutation,
  useQueryClient,
} from "@tanstack/react-query";
import { useEffect, useSyncExternalStore } from "react";
import api, {
  answered,
  Away,
  got,
  KEPT,
  Refused,
  type JobView,
  type SheetView,
} from "../api/client";
import { BASE } from "./base";
import { clashes, stood, withChange, type Change } from "./conditions";
import { hereNow } from "./here";
import { sendNote } from "./notes";
import { Outbox, type Errand, type Link, type Waiting } from "./outbox";
import type { Made, Place } from "./places";
import { prefsNow, type ShownUnit } from "./prefs";
import { blanksQuery, unsentJob, unsentSheet, withUnsent, type Known } from "./unsent";

// A sheet's new state is told before its reading leaves the outbox, never after: in between the row
// would look empty and the cursor would jump to it.
notifyManager.setScheduler(queueMicrotask);

export const queries = new QueryClient({
  defaultOptions: {
    queries: {
      retry: (count, error) => error instanceof Away && count < 3,
      staleTime: 2000,
      networkMode: "always",
    },
    mutations: { networkMode: "always" },
  },
});

/** The unit that pressures are asked for in; none: as the gauge reads. */
function shownUnit(): Exclude<ShownUnit, "as read"> | undefined {
  const { unit } = prefsNow();
  return unit === "as read" ? undefined : unit;
}

const sheetKey = (id: number) => ["sheet", id, prefsNow().unit] as const;

export function shownUnitQuery(): { unit?: Exclude<ShownUnit, "as read"> } {
  const unit = shownUnit();
  return unit ? { unit } : {};
}

const sheetParams = (id: number) => ({ path: { sheet_id: id }, query: shownUnitQuery() });

/** Ask the server for a sheet. */
const askFor = (id: number) => api.GET("/api/sheets/{sheet_id}", { params: sheetParams(id) });

/** Change a sheet, from the version that is known of it. */
const putChange = (now: SheetView, change: Change) =>
  api.PATCH("/api/sheets/{sheet_id}", {
    params: sheetParams(now.id),
    body: { version: now.version, put: {}, ...change },
  });

/** Put a sheet's state in place, unless a newer one is there already. */
export function keepNewest(sheet: SheetView): void {
  queries.setQueryData<SheetView>(sheetKey(sheet.id), (old) =>
    old && old.version > sheet.version ? old : withWaiting(sheet),
  );
  void queries.invalidateQueries({ queryKey: ["working", sheet.id] });
  void queries.invalidateQueries({ queryKey: ["job", sheet.job_number] });
  void queries.invalidateQueries({ queryKey: ["jobs"] });
}

/** Put a job's state in place as it came; its sheets may say something else now. */
export function keepJob(job: JobView): void {
  queries.setQueryData(["job", job.number], withUnsent(job, outbox.waiting()));
  // What a repair has changed is carried over no more, and a closed job takes no figures.
  void queries.invalidateQueries({ queryKey: ["sheet"] });
  void queries.invalidateQueries({ queryKey: ["jobs"] });
}

/** All photos of a job as they stand now; an older answer that is still under way may not undo it. */
export async function keepPhotos(number: string, all: unknown): Promise<void> {
  const queryKey = ["photos", number];
  await queries.cancelQueries({ queryKey });
  queries.setQueryData(queryKey, all);
}

/** What the server answered to something noted on a job: the job, or all its photos. */
export function keepNoted(number: string, answer: unknown): void {
  if (Array.isArray(answer)) void keepPhotos(number, answer);
  else if (answer) keepJob(answer as JobView);
  else void queries.invalidateQueries({ queryKey: ["job", number] });
}

async function takeBack(errand: Extract<Errand, { kind: "take_back" }>): Promise<void> {
  const path = { sheet_id: errand.sheetId, reading_id: errand.readingId };
  try {
    keepNewest(
      await got(
        api.DELETE("/api/sheets/{sheet_id}/readings/{reading_id}", {
          params: { path, query: { ...shownUnitQuery(), altogether: errand.altogether ?? false } },
        }),
      ),
    );
  } catch (error) {
    // It never got there, so there is nothing left to take back.
    if (!(error instanceof Refused && error.status === 404)) throw error;
  }
}

/** A job or a sheet that began in this browser is there now. */
function became(sheet: SheetView): Made {
  keepNewest(sheet);
  return { number: sheet.job_number, sheetId: sheet.id, key: sheet.key };
}

async function send(errand: Errand): Promise<Made | undefined> {
  if (errand.kind === "job") {
    return became(await got(api.POST("/api/jobs", { body: errand.job })));
  }
  if (errand.kind === "sheet") {
    const params = { path: { number: errand.number } };
    const made = api.POST("/api/jobs/{number}/sheets", { params, body: errand.sheet });
    return became(await got(made));
  }
  await sendOn(errand);
  return undefined;
}

async function sendOn(errand: Exclude<Errand, { kind: "job" | "sheet" }>): Promise<void> {
  const path = { sheet_id: errand.sheetId };
  if (errand.kind === "note") {
    keepNoted(errand.number, await sendNote(errand.number, errand.note));
  } else if (errand.kind === "reading") {
    keepNewest(
      await got(
        api.POST("/api/sheets/{sheet_id}/readings", {
          params: { path, query: shownUnitQuery() },
          body: errand.reading,
        }),
      ),
    );
  } else if (errand.kind === "change") {
    await sendChange(errand);
  } else if (errand.kind === "engine_run") {
    keepNewest(await got(api.POST("/api/sheets/{sheet_id}/engine-runs", { params: { path } })));
  } else {
    await takeBack(errand);
  }
}

const MOST_TRIES = 5;

/** A change that waited: onto the newest state, unless somebody else changed the same meanwhile. */
async function sendChange(errand: Extract<Errand, { kind: "change" }>): Promise<void> {
  for (let tried = 1; ; tried += 1) {
    const { data: now, response } = await answered(askFor(errand.sheetId));
    if (response.headers.has(KEPT)) throw new Away("The server does not answer.");
    const found = clashes(now, errand.change, errand.was);
    if (found.length > 0) throw new Refused(409, "Changed meanwhile", "", found);
    try {
      keepNewest(await got(putChange(now, errand.change)));
      return;
    } catch (error) {
      const overtaken = error instanceof Refused && error.problems[0]?.code === "newer_there";
      if (!overtaken || tried === MOST_TRIES) throw error;
    }
  }
}

/** A sheet as it will look when what waits of its conditions is there. */
function withWaiting(sheet: SheetView): SheetView {
  return outbox
    .waiting()
    .filter((w) => w.sheetId === sheet.id)
    .reduce((now, w) => {
      if (w.kind === "change") return withChange(now, w.change);
      if (w.kind === "engine_run") return withoutRaw(now);
      return now;
    }, sheet);
}

const withoutRaw = (sheet: SheetView): SheetView => ({
  ...sheet,
  rows: sheet.rows.map((r) => ({ ...r, raw: 0 })),
});

/** The engine was run: what raw fuel there was is burnt. */
export function noteRun(sheet: SheetView): void {
  void outbox.put({ kind: "engine_run", sheetId: sheet.id });
  keepNewest(sheet);
}

export const outbox = new Outbox(send, `plumb${BASE}`, () => {
  const person = hereNow()?.person;
  return person ? { id: person.id, name: person.name } : null;
});

/** What the pages know without the server. */
export const known = (): Known => ({
  waiting: outbox.waiting(),
  blanks: (...of) => queries.query({ ...blanksQuery(...of), staleTime: "static" }),
});

/** A job by its real names, once one of its sheets has become what the place says. */
function renamed(job: JobView, place: Place): JobView {
  const route = job.route.map((k) =>
    k.sheet_id === place.was ? { ...k, sheet_id: place.sheetId, key: place.key, sub: "" } : k,
  );
  return { ...job, number: place.number, route };
}

/** What is on the screens goes on under the real names, before anything is asked for anew. */
outbox.onPlaced = (place) => {
  const sheet = queries.getQueryData<SheetView>(sheetKey(place.sheetId));
  if (sheet) queries.setQueryData(sheetKey(place.was), withWaiting(sheet));
  const shown = queries.getQueryData<JobView>(["job", place.job]);
  if (shown) queries.setQueryData(["job", place.number], renamed(shown, place));
  if (sheet) keepNewest(sheet);
};

/** What waits in the outbox, and how the link to the server is. */
export function useOutbox(): { waiting: readonly Waiting[]; link: Link } {
  const waiting = useSyncExternalStore(
    (listener) => outbox.subscribe(listener),
    () => outbox.waiting(),
  );
  const link = useSyncExternalStore(
    (listener) => outbox.subscribe(listener),
    () => outbox.link,
  );
  return { waiting, link };
}

/** Open the outbox once, and wake it when the browser says it is back on line. */
export function useOutboxOpen(): void {
  useEffect(() => {
    void outbox.open();
    const wake = () => outbox.wake();
    window.addEventListener("online", wake);
    return () => window.removeEventListener("online", wake);
  }, []);
}

export function sheetQuery(id: number) {
  return queryOptions({
    queryKey: sheetKey(id),
    queryFn: async (): Promise<SheetView> => {
      await outbox.read();
      const there = outbox.placeOf(id)?.sheetId ?? id;
      if (there < 0) {
        return withWaiting(await unsentSheet(id, known(), (n) => queries.query(jobQuery(n))));
      }
      const fresh = await got(askFor(there));
      const old = queries.getQueryData<SheetView>(sheetKey(id));
      return old && old.version > fresh.version ? old : withWaiting(fresh);
    },
    // Two people on one job see each other's readings.
    refetchInterval: 4000,
  });
}

/** A sheet as the server has it, without what waits in this browser. */
export function thereQuery(id: number) {
  return queryOptions({ queryKey: ["there", id], queryFn: () => got(askFor(id)) });
}

export function workingQuery(id: number) {
  return queryOptions({
    queryKey: ["working", id, prefsNow().unit],
    queryFn: () =>
      got(
        api.GET("/api/sheets/{sheet_id}/working", {
          params: { path: { sheet_id: id }, query: shownUnitQuery() },
        }),
      ),
  });
}

export function jobQuery(number: string) {
  return queryOptions({
    queryKey: ["job", number],
    queryFn: async (): Promise<JobView> => {
      await outbox.read();
      const there = outbox.numberOf(number);
      if (there === undefined) return unsentJob(number, known());
      const job = await got(api.GET("/api/jobs/{number}", { params: { path: { number: there } } }));
      return withUnsent(job, outbox.waiting());
    },
  });
}

/** Today's jobs, page by page; each page says how many there are in all. */
export function jobsQuery(find: string, closed: boolean) {
  return infiniteQueryOptions({
    queryKey: ["jobs", find, closed],
    queryFn: async ({ pageParam: skip }) => {
      const answer = await answered(
        api.GET("/api/jobs", { params: { query: { find, closed, skip } } }),
      );
      // A plus: the server counts no further, and there are more than that.
      const total = answer.response.headers.get("X-Total-Count") ?? "";
      return { jobs: answer.data, total: Number.parseInt(total), more: total.endsWith("+") };
    },
    initialPageParam: 0,
    getNextPageParam: (last, pages) => {
      const shown = pages.reduce((sum, page) => sum + page.jobs.length, 0);
      return last.jobs.length > 0 && (last.more || shown < last.total) ? shown : undefined;
    },
    placeholderData: (old) => old,
    refetchInterval: 10_000,
  });
}

export const gaugesQuery = queryOptions({
  queryKey: ["gauges"],
  queryFn: () => got(api.GET("/api/gauges")),
  staleTime: 60_000,
});

/** What there is to choose from; it changes with the program alone. */
export const catalogueQuery = queryOptions({
  queryKey: ["catalogue"],
  queryFn: () => got(api.GET("/api/catalogue")),
  staleTime: Infinity,
});

export const shelfQuery = queryOptions({
  queryKey: ["shelf"],
  queryFn: () => got(api.GET("/api/shelf")),
  staleTime: 60_000,
});

/**
 * Change a sheet's conditions, from the version on the screen. Changes of one sheet go one after the
 * other, so that quick hands do not overtake themselves; without the server they wait in the outbox.
 */
export function useSheetChange(sheet: SheetView) {
  return useMutation({
    scope: { id: `sheet ${sheet.id}` },
    mutationFn: async (change: Change | ((now: SheetView) => Change)) => {
      const now = queries.getQueryData<SheetView>(sheetKey(sheet.id)) ?? sheet;
      const made = typeof change === "function" ? change(now) : change;
      const later =
        now.id < 0 || outbox.waiting().some((w) => w.kind === "change" && w.sheetId === now.id);
      try {
        if (later) throw new Away("Others wait before it.");
        return await got(putChange(now, made));
      } catch (error) {
        if (!(error instanceof Away)) throw error;
        // It waits with everything else, and the sheet looks as if it were there.
        const was = stood(now, made);
        await outbox.put({ kind: "change", sheetId: now.id, change: made, was });
        return now;
      }
    },
    onSuccess: keepNewest,
    onError: () => void queries.invalidateQueries({ queryKey: ["sheet", sheet.id] }),
  });
}

/** Why a change did not go through; one that waits for the server is told on the head. */
export function changeTold(change: ReturnType<typeof useSheetChange>): string | null {
  return change.isError ? change.error.message : null;
}

/** The new order of reach; every sheet of the vehicle follows. */
export function useReachOrder(vehicleId: number) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (order: string[]) =>
      got(
        api.PUT("/api/vehicles/{vehicle_id}/reach-order", {
          params: { path: { vehicle_id: vehicleId } },
          body: { order },
        }),
      ),
    onSettled: () => {
      void client.invalidateQueries({ queryKey: ["sheet"] });
      void client.invalidateQueries({ queryKey: ["job"] });
    },
  });
}
