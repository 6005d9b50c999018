/** The open jobs and their sheets are read ahead, so that they are there when the network ends behind the lift. */
import api, { got, type JobLine } from "../api/client";
import { hereNow } from "./here";
import {
  catalogueQuery,
  gaugesQuery,
  jobQuery,
  outbox,
  queries,
  sheetQuery,
  shelfQuery,
} from "./store";
import { vehiclesAheadQuery } from "./vehicles";
import { blanksQuery, type Each } from "./unsent";

const FIRST_MS = 5_000;
const AGAIN_MS = 120_000;
const BREATH_MS = 60;

/** For new jobs: how many injectors a cylinder of each fuel system may have. */
const EACH: Record<string, Each[]> = {
  port: ["one_each", "two_each", "port_and_direct"],
  throttle_body: ["one_for_all", "two_for_all", "one_each"],
  direct: ["one_each", "two_each", "port_and_direct"],
  common_rail: ["one_each"],
  mechanical_diesel: ["one_each"],
};
const BLANKS = Object.entries(EACH).flatMap(([system, each]) =>
  each.flatMap((one) => [1, 2].map((banks) => blanksQuery(system, one, banks))),
);

/** How each job's line read when its sheets were last read. */
const read = new Map<string, string>();
const breath = () => new Promise((go) => setTimeout(go, BREATH_MS));

async function one(line: JobLine): Promise<void> {
  const job = await queries.query(jobQuery(line.number));
  for (const knot of job.route.filter((k) => k.sheet_id > 0)) {
    await breath();
    await queries.query(sheetQuery(knot.sheet_id));
  }
  read.set(line.number, JSON.stringify(line));
}

async function all(): Promise<void> {
  const here = hereNow();
  if (outbox.link === "away" || document.hidden || (here?.network && !here.person)) return;
  for (const query of [catalogueQuery, gaugesQuery, shelfQuery, vehiclesAheadQuery, ...BLANKS]) {
    await breath();
    await queries.query<unknown>(query as never);
  }
  const lines = await got(
    api.GET("/api/jobs", { params: { query: { find: "", closed: false, skip: 0 } } }),
  );
  for (const line of lines) {
    if (read.get(line.number) === JSON.stringify(line)) continue;
    await breath();
    await one(line);
  }
}

/** Now and then, between everything else; what does not come this time comes the next. */
export function readAhead(): void {
  if (!("serviceWorker" in navigator)) return;
  const go = () => void navigator.serviceWorker.ready.then(all).catch(() => undefined);
  setTimeout(go, FIRST_MS);
  setInterval(go, AGAIN_MS);
}
