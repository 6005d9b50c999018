/** What is begun or noted on a job, sent at once where the server answers, kept in this browser where it does not. */
import { Away, type JobView } from "../api/client";
import { sendNote, type Note } from "./notes";
import type { Errand, Waiting } from "./outbox";
import { isUnsent, keyOf } from "./places";
import { jobQuery, keepNoted, known, outbox, queries } from "./store";
import { unsentJob, unsentSheet, withUnsent } from "./unsent";

const asWaiting = (errand: Errand): Waiting => ({ ...errand, seq: 0, problems: [], status: 0 });

/** Keep a job or a sheet that cannot be begun at the server now; the sheet's address. */
export async function beginHere(
  errand: Extract<Errand, { kind: "job" | "sheet" }>,
): Promise<string> {
  const { number } = errand;
  // Only where it can be shown: otherwise it stays where it was typed.
  const here = { ...known(), waiting: [...outbox.waiting(), asWaiting(errand)] };
  const jobOf = (n: string) => (isUnsent(n) ? unsentJob(n, here) : queries.query(jobQuery(n)));
  await unsentSheet(errand.sheetId, here, jobOf);
  await outbox.put(errand);
  queries.setQueryData<JobView>(["job", number], (old) => old && withUnsent(old, outbox.waiting()));
  void queries.invalidateQueries({ queryKey: ["job", number] });
  return `/jobs/${encodeURIComponent(number)}/${keyOf(errand.sheetId)}`;
}

/** The same with the time at which it was done, where it goes up later. */
const timed = (note: Note): Note =>
  note.timed ? { ...note, body: { at: new Date().toISOString(), ...(note.body as object) } } : note;

/** Note things on a job, one after the other and behind those that wait. */
export async function putNotes(number: string, notes: Note[]): Promise<void> {
  for (const note of notes) {
    const later = outbox.waiting().some((w) => w.kind === "note" && w.number === number);
    try {
      if (later || isUnsent(number)) throw new Away("Others wait before it.");
      keepNoted(number, await sendNote(number, note));
    } catch (error) {
      if (!(error instanceof Away)) throw error;
      await outbox.put({ kind: "note", number, sheetId: 0, note: timed(note) });
    }
  }
}
