/** The typed client, generated from the application's OpenAPI, and the shapes screens use. */
import createClient from "openapi-fetch";
import { BASE } from "../lib/base";
import type { components, paths } from "./schema";

export type SheetView = components["schemas"]["SheetView"];
export type RowView = components["schemas"]["RowView"];
export type ReadingView = components["schemas"]["ReadingView"];
export type JobView = components["schemas"]["JobView"];
export type JobLine = components["schemas"]["JobLineView"];
export type RuleView = components["schemas"]["RuleView"];
export type GaugeView = components["schemas"]["GaugeView"];
export type VehicleView = components["schemas"]["VehicleView"];
export type WorkingView = components["schemas"]["WorkingView"];
export type ImportView = components["schemas"]["ImportView"];
export type ReadingIn = components["schemas"]["ReadingIn"];
export type KnobView = components["schemas"]["KnobView"];
export type FieldView = components["schemas"]["FieldView"];
export type HoldView = components["schemas"]["HoldView"];
export type KnotView = components["schemas"]["KnotView"];
export type VerdictView = components["schemas"]["VerdictView"];
export type ShelfView = components["schemas"]["ShelfView"];
export type BaselineView = components["schemas"]["BaselineView"];
export type LearningView = components["schemas"]["LearningView"];
export type TraceView = components["schemas"]["TraceView"];
export type TraceHead = components["schemas"]["TraceHeadView"];
export type BurstView = components["schemas"]["BurstView"];
export type CaptureView = components["schemas"]["CaptureView"];
export type SetupView = components["schemas"]["SetupView"];
export type WorthView = components["schemas"]["WorthView"];
export type ShareView = components["schemas"]["ShareView"];
export type RuleWorth = components["schemas"]["RuleWorthView"];
export type RunView = components["schemas"]["RunView"];
export type PracticeView = components["schemas"]["PracticeView"];
export type ActIn = components["schemas"]["ActIn"];
export type Here = components["schemas"]["HereView"];
export type StaffView = components["schemas"]["StaffView"];
export type Role = components["schemas"]["PersonIn"]["role"];
export type HumpView = components["schemas"]["HumpView"];
type ChangeIn = components["schemas"]["SheetChangeIn"];
/** New conditions of a sheet; what is left out stays. */
export type SheetChange = Omit<ChangeIn, "put"> & { put?: ChangeIn["put"] };
export type Kind = NonNullable<components["schemas"]["NewSheetIn"]["kind"]>;
export type Catalogue = components["schemas"]["CatalogueView"];
export type NewSheet = components["schemas"]["NewSheetIn"];
export type BlanksView = components["schemas"]["BlanksView"];
export type JobChange = components["schemas"]["JobChangeIn"];
export type NewJob = components["schemas"]["NewJobIn"];
export type Problem = components["schemas"]["ProblemItem"];
export type UnitName = "psi" | "kPa" | "bar";

/** What the server answered that it cannot do, with every problem it named. */
export class Refused extends Error {
  constructor(
    readonly status: number,
    readonly title: string,
    detail: string,
    readonly problems: Problem[],
  ) {
    super(detail || title);
  }
}

/** The server, or its database, did not answer: worth trying again. */
export class Away extends Error {}

/** The server answered that it broke at this one: others may go up meanwhile. */
export class Broke extends Away {}

/** Statuses that say nothing of what was sent: too many at once, no database, no room. */
const LATER = new Set([408, 425, 429, 502, 503, 504, 507]);

const api = createClient<paths>({ baseUrl: BASE || "/" });
export default api;
/** The shop's own, also in the world of practice: runs, and who is at this screen. */
export const shopApi = createClient<paths>({ baseUrl: "/" });

/** Of an answer that the browser kept, while the server does not answer: when it was given (`sw.ts`). */
export const KEPT = "X-Plumb-Kept";
/** Told on the window with each answer: when it was given, or null where it came just now. */
export const ANSWERED = "plumb-answered";

/** Told on the window when the server no longer knows who is here. */
export const SIGNED_OUT = "plumb-signed-out";

interface Answer<T> {
  data?: T | undefined;
  error?: unknown;
  response: Response;
}

function isProblem(
  value: unknown,
): value is { title: string; detail: string; problems: Problem[] } {
  return typeof value === "object" && value !== null && "problems" in value;
}

/** The error that a body of the server's stands for. */
export function refused(status: number, body: unknown): Error {
  const problem = isProblem(body);
  if (status >= 500 || LATER.has(status)) {
    const words = problem ? `${body.title}. ${body.detail}` : `The server answered ${status}.`;
    return LATER.has(status) ? new Away(words) : new Broke(words);
  }
  if (problem && body.problems.some((p) => p.code === "not_signed_in")) {
    window.dispatchEvent(new Event(SIGNED_OUT));
    return new Away(body.detail);
  }
  return problem
    ? new Refused(status, body.title, body.detail, body.problems)
    : new Refused(status, `The server answered ${status}`, "", []);
}

/** The data of an answer, or the error that says what to do about it. */
export async function got<T>(answer: Promise<Answer<T>>): Promise<T> {
  return (await answered(answer)).data;
}

/** The same with the answer's headers beside the data. */
export async function answered<T>(
  answer: Promise<Answer<T>>,
): Promise<{ data: T; response: Response }> {
  let result: Answer<T>;
  try {
    result = await answer;
  } catch {
    throw new Away("The server does not answer.");
  }
  const { data, response } = result;
  const detail = response.headers.get(KEPT);
  window.dispatchEvent(new CustomEvent<string | null>(ANSWERED, { detail }));
  // Who takes something away is answered with nothing.
  if (data !== undefined || response.status === 204) return { data: data as T, response };
  throw refused(result.response.status, result.error);
}

/** One line for people from whatever was thrown. */
export function told(error: unknown): string {
  return error instanceof Error ? error.message : "Something went wrong.";
}
