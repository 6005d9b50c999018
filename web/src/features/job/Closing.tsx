/** A job is closed, which is asked once, or opened again. */
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import api, { got, told } from "../../api/client";
import { queries } from "../../lib/store";
import { Dialog, Trouble } from "../../ui/parts";

interface Job {
  number: string;
  closed: boolean;
}

function useClosing({ number, closed }: Job) {
  return useMutation({
    mutationFn: () =>
      got(
        api.PATCH("/api/jobs/{number}", {
          params: { path: { number } },
          body: { closed: !closed },
        }),
      ),
    onSuccess: (view) => {
      queries.setQueryData(["job", number], view);
      void queries.invalidateQueries({ queryKey: ["jobs"] });
      // Each sheet says whether it takes figures.
      void queries.invalidateQueries({ queryKey: ["sheet"] });
    },
  });
}

export function Closing({ job }: { job: Job }) {
  const closing = useClosing(job);
  const [asking, setAsking] = useState(false);
  return (
    <>
      <button
        className="knob"
        disabled={closing.isPending}
        onClick={() => (job.closed ? closing.mutate() : setAsking(true))}
      >
        {job.closed ? "Open the job again" : "Close the job"}
      </button>
      <Dialog
        title={`Close job ${job.number}?`}
        note="It leaves Today and takes no more figures, until somebody opens it again."
        open={asking}
        onOpenChange={setAsking}
      >
        <button
          className="slab-knob"
          onClick={() => {
            setAsking(false);
            closing.mutate();
          }}
        >
          Close it
        </button>
      </Dialog>
      <Trouble text={closing.isError ? told(closing.error) : null} />
    </>
  );
}

/** What stands in the entry line's place on a closed job. */
export function ClosedNote({ number }: { number: string }) {
  return (
    <section
      aria-label="Closed"
      className="mt-3 flex flex-wrap items-center gap-3 rounded-lg border-2 border-ink bg-sheet p-3"
    >
      <p className="grow">
        <b>This job is closed.</b> It takes no figures until it is opened again.
      </p>
      <Closing job={{ number, closed: true }} />
    </section>
  );
}
