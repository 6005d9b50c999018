/** What goes with the repair: each ticked, or set aside with a reason. */
import { useState } from "react";
import { told, type JobView } from "../../api/client";
import { Trouble } from "../../ui/parts";
import { notes, useNote, type Finishing } from "./useFinish";

type Thing = Finishing["things"][number];

export function Things({ job }: { job: JobView }) {
  const note = useNote(job);
  const put = (thing: Thing, state: "" | "done" | "aside", reason = "") =>
    note.mutate([notes.tick({ what: thing.what as "seals", state, reason }, thing.words)]);
  return (
    <section aria-label="What goes with it" className="mb-4">
      <h2 className="mb-1 text-lg font-bold">What goes with it</h2>
      <ul className="rounded-lg border border-hair bg-sheet">
        {job.finishing.things.map((thing) => (
          <Line key={thing.what} thing={thing} closed={job.closed} put={put} />
        ))}
      </ul>
      <Trouble text={note.isError ? told(note.error) : null} />
    </section>
  );
}

interface LineProps {
  thing: Thing;
  closed: boolean;
  put: (thing: Thing, state: "" | "done" | "aside", reason?: string) => void;
}

function Line({ thing, closed, put }: LineProps) {
  const [why, setWhy] = useState<string | null>(null);
  const done = thing.state === "done";
  return (
    <li className="flex flex-wrap items-center gap-2 border-b border-hair px-3 py-1 last:border-0">
      <label className="flex min-h-11 min-w-40 flex-1 items-center gap-3">
        <input
          type="checkbox"
          className="size-5"
          checked={done}
          disabled={closed}
          onChange={() => put(thing, done ? "" : "done")}
        />
        <span className={thing.state === "aside" ? "line-through" : ""}>{thing.words}</span>
      </label>
      {thing.state === "aside" && (
        <span className="text-sm text-soft">set aside: {thing.reason}</span>
      )}
      {!closed && why === null && (
        <button
          className="knob"
          disabled={closed}
          aria-label={`Not done: ${thing.words}`}
          onClick={() => (thing.state === "aside" ? put(thing, "") : setWhy(""))}
        >
          {thing.state === "aside" ? "Take it up again" : "Not done"}
        </button>
      )}
      {why !== null && (
        <Why
          why={why}
          set={setWhy}
          keep={() => {
            if (why.trim()) put(thing, "aside", why);
            setWhy(null);
          }}
        />
      )}
    </li>
  );
}

interface WhyProps {
  why: string;
  set: (why: string) => void;
  keep: () => void;
}

function Why({ why, set, keep }: WhyProps) {
  return (
    <form
      className="flex flex-wrap gap-2"
      onSubmit={(e) => {
        e.preventDefault();
        keep();
      }}
    >
      <input
        className="field w-56"
        aria-label="Why not"
        placeholder="Why not"
        autoFocus
        value={why}
        onChange={(e) => set(e.target.value)}
      />
      <button className="knob min-h-11">Set aside</button>
    </form>
  );
}
