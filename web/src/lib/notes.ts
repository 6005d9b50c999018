/** What is noted on a job beside its sheets: repairs, choices, ticks, answers, photos, what is complained of. */
import api, { got, Refused, type JobChange, type JobView } from "../api/client";
import type { paths } from "../api/schema";
import { clash } from "./conditions";
import { prefsNow } from "./prefs";

type Said = Pick<JobView, "complaint" | "distance"> & { codes: string };

/**
 * One thing noted: how it is sent, and what it is called while it waits. `was` is how complaint, codes
 * and distance stood when they were changed.
 */
export interface Note {
  method: "PUT" | "PATCH" | "DELETE";
  path: keyof paths & `/api/jobs/{number}${string}`;
  params: Record<string, string>;
  query?: Record<string, string>;
  body?: unknown;
  words: string;
  was?: Said;
  /** It says when it was done. */
  timed?: boolean;
}

/** How complaint, codes and distance stand on a job. */
export const saidOn = (job: JobView): Said => ({
  complaint: job.complaint,
  codes: job.codes.join(" "),
  distance: job.distance,
});

function ask(number: string, note: Note, body: unknown): Promise<unknown> {
  const picture = body instanceof Blob;
  return got(
    // Which body an address takes is made sure of where the note is made.
    api.request(
      note.method.toLowerCase() as "put",
      note.path as "/api/jobs/{number}/things",
      {
        params: { path: { number, ...note.params }, query: note.query },
        body,
        ...(picture && {
          bodySerializer: (b: unknown) => b,
          headers: { "Content-Type": "application/octet-stream" },
        }),
      } as never,
    ),
  );
}

/** Send one; the answer is what stands there then. */
export async function sendNote(number: string, note: Note): Promise<unknown> {
  if (note.was) return sendSaid(number, note, note.was);
  try {
    return await ask(number, note, note.body);
  } catch (error) {
    // It was taken away already.
    const gone = error instanceof Refused && error.status === 404 && note.method === "DELETE";
    if (!gone) throw error;
    return undefined;
  }
}

/** Complaint and its like go onto the newest state, unless somebody else changed them meanwhile. */
async function sendSaid(number: string, note: Note, was: Said): Promise<unknown> {
  const now = await got(api.GET("/api/jobs/{number}", { params: { path: { number } } }));
  const body = note.body as { complaint: string; codes: string[]; distance: string };
  const wanted: Said = { ...body, codes: body.codes.join(" ") };
  const there = saidOn(now);
  const problems = (Object.keys(there) as (keyof Said)[])
    .filter((k) => ![was[k], wanted[k]].includes(there[k]))
    .map((k) => clash(k, `The ${k}`, was[k], wanted[k], there[k]));
  if (problems.length > 0) throw new Refused(409, "Changed meanwhile", "", problems);
  return ask(number, note, { ...body, version: now.version });
}

/** A change of the job itself that nobody has to have seen how it stood before. */
export const changed = (body: Partial<JobChange>, words: string): Note => ({
  method: "PATCH",
  path: "/api/jobs/{number}",
  params: {},
  body,
  words,
});

/** A photo of a sheet, of a row, or of the job as a whole. */
export const photoOf = (file: File, sheet: string, row: string): Note => ({
  method: "PUT",
  path: "/api/jobs/{number}/photos/{photo_id}",
  params: { photo_id: crypto.randomUUID() },
  query: { sheet, row, by: prefsNow().me },
  body: file,
  words: row ? `a photo of ${row}` : "a photo",
});
