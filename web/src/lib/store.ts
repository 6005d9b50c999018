/** The page's one store: queries, the outbox, and the rule that an older state never wins. */
import {
  infiniteQueryOptions,
  notifyManager,
  QueryClient,
  queryOptions,
  useMutation,
  useQuery,
  useQueryClient,
} from "@tanstack/react-query";
import { useEffect, useSyncExternalStore } from "react";
import api, { answered, Away, got, Refused, type SheetChange, type SheetView } from "../api/client";
import { BASE } from "./base";
import { hereNow } from "./here";
import { Outbox, type Errand, type Link, type Waiting } from "./outbox";
import { prefsNow, type ShownUnit } from "./prefs";

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

/** Put a sheet's state in place, unless a newer one is there already. */
export function keepNewest(sheet: SheetView): void {
  queries.setQueryData<SheetView>(sheetKey(sheet.id), (old) =>
    old && old.version > sheet.version ? old : sheet,
  );
  void queries.invalidateQueries({ queryKey: ["working", sheet.id] });
  void queries.invalidateQueries({ queryKey: ["job", sheet.job_number] });
  void queries.invalidateQueries({ queryKey: ["jobs"] });
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

async function send(errand: Errand): Promise<void> {
  const path = { sheet_id: errand.sheetId };
  if (errand.kind === "reading") {
    keepNewest(
      await got(
        api.POST("/api/sheets/{sheet_id}/readings", {
          params: { path, query: shownUnitQuery() },
          body: errand.reading,
        }),
      ),
    );
  } else {
    await takeBack(errand);
  }
}

export const outbox = new Outbox(send, `plumb${BASE}`, () => {
  const person = hereNow()?.person;
  return person ? { id: person.id, name: person.name } : null;
});

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
      const fresh = await got(
        api.GET("/api/sheets/{sheet_id}", {
          params: { path: { sheet_id: id }, query: shownUnitQuery() },
        }),
      );
      const old = queries.getQueryData<SheetView>(sheetKey(id));
      return old && old.version > fresh.version ? old : fresh;
    },
    // Two people on one job see each other's readings.
    refetchInterval: 4000,
  });
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
    queryFn: () => got(api.GET("/api/jobs/{number}", { params: { path: { number } } })),
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
      return { jobs: answer.data, total: Number(answer.response.headers.get("X-Total-Count")) };
    },
    initialPageParam: 0,
    getNextPageParam: (last, pages) => {
      const shown = pages.reduce((sum, page) => sum + page.jobs.length, 0);
      return last.jobs.length > 0 && shown < last.total ? shown : undefined;
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

type Change = Omit<SheetChange, "version">;

/**
 * Change a sheet's conditions, from the version on the screen. Changes of one sheet go one after the
 * other, so that quick hands do not overtake themselves; without the server they wait and go again.
 */
export function useSheetChange(sheet: SheetView) {
  return useMutation({
    scope: { id: `sheet ${sheet.id}` },
    mutationFn: (change: Change | ((now: SheetView) => Change)) => {
      const now = queries.getQueryData<SheetView>(sheetKey(sheet.id)) ?? sheet;
      const made = typeof change === "function" ? change(now) : change;
      return got(
        api.PATCH("/api/sheets/{sheet_id}", {
          params: { path: { sheet_id: sheet.id }, query: shownUnitQuery() },
          body: { version: now.version, put: {}, ...made },
        }),
      );
    },
    retry: (_count, error) => error instanceof Away,
    retryDelay: 1500,
    onSuccess: keepNewest,
    onError: () => void queries.invalidateQueries({ queryKey: ["sheet", sheet.id] }),
  });
}

/** What a change that did not go through says: why not, or that it waits for the server. */
export function changeTold(change: ReturnType<typeof useSheetChange>): string | null {
  if (change.isError) return change.error.message;
  return change.failureCount > 0
    ? "The server does not answer; this is sent again by itself."
    : null;
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

type LastTime = ReadonlyMap<string, { at: number; when: string }>;
const NEVER: LastTime = new Map();

/** Where each row of a sheet hung on the vehicle's visit before this one. */
export function useLastTime(id: number): LastTime {
  const last = useQuery({
    queryKey: ["last-time", id, prefsNow().unit],
    queryFn: async () => {
      const params = { path: { sheet_id: id }, query: shownUnitQuery() };
      const rows = await got(api.GET("/api/sheets/{sheet_id}/last-time", { params }));
      return new Map(rows.map((r) => [r.row, { at: r.at, when: r.when }]));
    },
    staleTime: Infinity,
  });
  return last.data ?? NEVER;
}
