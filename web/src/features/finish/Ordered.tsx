/** Parts that the job waits for: noted, said, and taken away when they have come. */
import { useState } from "react";
import { told, type JobView } from "../../api/client";
import { changed, type Note } from "../../lib/notes";
import { BusyButton, Text, Trouble } from "../../ui/parts";
import { useNote } from "./useFinish";

/** Which parts, and when they are due; none: it waits no more. */
const orderNote = (what: string, due: string): Note =>
  changed({ ordered: { what, due } }, what ? `parts on order: ${what}` : "the parts have come");

/** That a job waits for parts, and that they have come. */
export function Waits({ job }: { job: JobView }) {
  const note = useNote(job);
  if (!job.ordered) return null;
  return (
    <div className="mb-3 border-l-4 border-chalk pl-3">
      <p className="mb-1 font-bold">{job.ordered.words}</p>
      <BusyButton
        type="button"
        className="knob"
        busy={note.isPending}
        onClick={() => note.mutate([orderNote("", "")])}
      >
        They have come
      </BusyButton>
      <Trouble text={note.isError ? told(note.error) : null} />
    </div>
  );
}

export function Ordered({ job }: { job: JobView }) {
  const [open, setOpen] = useState(false);
  // What is on order stands beside, with what is next.
  if (job.closed || job.ordered) return null;
  if (open) return <Form job={job} done={() => setOpen(false)} />;
  return (
    <button type="button" className="knob mb-4" onClick={() => setOpen(true)}>
      Parts are on order
    </button>
  );
}

function Form({ job, done }: { job: JobView; done: () => void }) {
  const [what, setWhat] = useState("");
  const [due, setDue] = useState("");
  const note = useNote(job);
  return (
    <form
      aria-label="Parts on order"
      className="mb-4 rounded-lg border border-hair bg-sheet p-3"
      onSubmit={(e) => {
        e.preventDefault();
        if (what.trim()) note.mutate([orderNote(what, due)], { onSuccess: done });
      }}
    >
      <div className="grid gap-x-3 sm:grid-cols-2">
        <Text label="What is on order" value={what} onChange={setWhat} />
        <label className="mb-2 block">
          <span className="label">Due (may stay empty)</span>
          <input
            type="date"
            className="field"
            value={due}
            onChange={(e) => setDue(e.target.value)}
          />
        </label>
      </div>
      <Trouble text={note.isError ? told(note.error) : null} />
      <BusyButton className="slab-knob" disabled={!what.trim()} busy={note.isPending}>
        Keep
      </BusyButton>
    </form>
  );
}
