/** Whatever is noted on a job from its verdict on: sent, and the job's new state put in place. */
import { useMutation } from "@tanstack/react-query";
import api, { got, type JobView } from "../../api/client";
import type { components } from "../../api/schema";
import { prefsNow } from "../../lib/prefs";
import { queries } from "../../lib/store";

type Schemas = components["schemas"];
export type Finishing = JobView["finishing"];
export type Way = Finishing["options"][number];

/** Send one thing that a person noted; the answer is the job as it stands then. */
export function useNote(job: JobView) {
  return useMutation({
    mutationFn: (send: Promise<JobView> | (() => Promise<JobView>)) =>
      typeof send === "function" ? send() : send,
    onSuccess: (view) => {
      queries.setQueryData(["job", job.number], view);
      // What a repair has changed is carried over no more, and a closed job takes no figures.
      void queries.invalidateQueries({ queryKey: ["sheet"] });
      void queries.invalidateQueries({ queryKey: ["jobs"] });
    },
  });
}

type Without<T> = Omit<T, "by">;

/** The errands, each with who is at this screen. */
export function errandsOf({ number }: JobView) {
  const by = prefsNow().me;
  const path = { number };
  return {
    choose: (id: string, body: Without<Schemas["ChoiceIn"]>) =>
      got(
        api.PUT("/api/jobs/{number}/choices/{choice_id}", {
          params: { path: { ...path, choice_id: id } },
          body: { ...body, by },
        }),
      ),
    repair: (id: string, body: Without<Schemas["RepairIn"]>) =>
      got(
        api.PUT("/api/jobs/{number}/repairs/{repair_id}", {
          params: { path: { ...path, repair_id: id } },
          body: { ...body, by },
        }),
      ),
    takeBack: (id: string) =>
      got(
        api.DELETE("/api/jobs/{number}/repairs/{repair_id}", {
          params: { path: { ...path, repair_id: id } },
        }),
      ),
    tick: (body: Without<Schemas["ThingIn"]>) =>
      got(api.PUT("/api/jobs/{number}/things", { params: { path }, body: { ...body, by } })),
    answer: (word: string, answer: string) =>
      got(
        api.PUT("/api/jobs/{number}/answers/{word}", {
          params: { path: { ...path, word: word as "rough_idle" } },
          body: { answer: answer as "", by },
        }),
      ),
    close: (body: Schemas["ClosingIn"]) =>
      got(api.POST("/api/jobs/{number}/closing", { params: { path }, body })),
    open: () => got(api.PATCH("/api/jobs/{number}", { params: { path }, body: { closed: false } })),
  };
}
