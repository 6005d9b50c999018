/** What the head says of what waits while the server is away. */
import type { Waiting } from "./outbox";

export const SAVING = "Saving…";

const clock = (moment: Date) =>
  moment.toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit" });

/** How many wait and since when. One without its place in the browser's database would not outlive the page. */
export function waitsTold(count: number, waiting: readonly Pick<Waiting, "seq" | "at">[]): string {
  if (waiting.some((w) => w.seq < 0)) return SAVING;
  const since = Math.min(...waiting.map((w) => w.at ?? Infinity));
  const when = Number.isFinite(since) ? ` since ${clock(new Date(since))}` : "";
  return `${count} wait${count === 1 ? "s" : ""} in this browser${when}`;
}
