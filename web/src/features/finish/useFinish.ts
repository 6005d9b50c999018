/** Whatever is noted on a job from its verdict on: sent, and the job's new state put in place. */
import { useMutation } from "@tanstack/react-query";
import api, { got, type JobView } from "../../api/client";
import type { components } from "../../api/schema";
import { prefsNow } from "../../lib/prefs";
import type { Note } from "../../lib/notes";
import { putNotes } from "../../lib/offline";
import { keepJob } from "../../lib/store";

type Schemas = components["schemas"];
export type Finishing = JobView["finishing"];
export type Way = Finishing["options"][number];

/** Send what a person noted, one after the other; without the server it waits in this browser. */
export function useNote(job: JobView) {
  return useMutation({ mutationFn: (notes: Note[]) => putNotes(job.number, notes) });
}

type Without<T> = Omit<T, "by">;
/** What was found and what it explains, as the server named them. */
interface Seen {
  fault: string;
  explains: string[];
}

/** The notes, each with who is at this screen. */
export const notes = {
  choose: (id: string, body: Without<Schemas["ChoiceIn"]>, words: string): Note => ({
    method: "PUT",
    path: "/api/jobs/{number}/choices/{choice_id}",
    params: { choice_id: id },
    body: { ...body, by: prefsNow().me } satisfies Schemas["ChoiceIn"],
    words: `chosen: ${words}`,
  }),
  repair: (body: Without<Schemas["RepairIn"]>): Note => ({
    method: "PUT",
    path: "/api/jobs/{number}/repairs/{repair_id}",
    params: { repair_id: crypto.randomUUID() },
    body: { ...body, by: prefsNow().me } satisfies Schemas["RepairIn"],
    words: `${body.injector ?? "the engine"} ${body.done.replaceAll("_", " ")}`,
    timed: true,
  }),
  takeBack: (id: string, words: string): Note => ({
    method: "DELETE",
    path: "/api/jobs/{number}/repairs/{repair_id}",
    params: { repair_id: id },
    words: `taken back: ${words}`,
  }),
  see: (
    body: Without<Omit<Schemas["SightingIn"], "fault" | "explains">> & Seen,
    words: string,
  ): Note => ({
    method: "PUT",
    path: "/api/jobs/{number}/sightings/{sighting_id}",
    params: { sighting_id: crypto.randomUUID() },
    body: {
      ...body,
      fault: body.fault as "other",
      explains: body.explains as "misfire"[],
      by: prefsNow().me,
    } satisfies Schemas["SightingIn"],
    words: `found: ${words}`,
  }),
  unsee: (id: string, words: string): Note => ({
    method: "DELETE",
    path: "/api/jobs/{number}/sightings/{sighting_id}",
    params: { sighting_id: id },
    words: `taken back: ${words}`,
  }),
  tick: (body: Without<Schemas["ThingIn"]>, words: string): Note => ({
    method: "PUT",
    path: "/api/jobs/{number}/things",
    params: {},
    body: { ...body, by: prefsNow().me } satisfies Schemas["ThingIn"],
    words: `${words} ${{ done: "done", aside: "set aside", "": "not done" }[body.state]}`,
  }),
  answer: (word: string, answer: string, words: string): Note => ({
    method: "PUT",
    path: "/api/jobs/{number}/answers/{word}",
    params: { word },
    body: { answer: answer as "", by: prefsNow().me } satisfies Schemas["AnswerIn"],
    words: `asked again: ${words}`,
  }),
};

/** Closing and opening a job are the server's: they say what was decided, on what is there. */
export function useSigning() {
  return useMutation({
    mutationFn: (send: () => Promise<JobView>) => send(),
    onSuccess: keepJob,
  });
}

/** The errands of the end. */
export function ending({ number }: JobView) {
  const path = { number };
  return {
    close: (body: Schemas["ClosingIn"]) =>
      got(api.POST("/api/jobs/{number}/closing", { params: { path }, body })),
    open: () => got(api.PATCH("/api/jobs/{number}", { params: { path }, body: { closed: false } })),
  };
}
