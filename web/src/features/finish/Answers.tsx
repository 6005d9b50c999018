/** The complaint after the repair, word by word: gone, less than before, or still there. */
import { told, type JobView } from "../../api/client";
import { Trouble } from "../../ui/parts";
import { notes, useNote } from "./useFinish";

const ANSWERS: [code: string, words: string][] = [
  ["gone", "gone"],
  ["less", "less than before"],
  ["still_there", "still there"],
];

export function Answers({ job }: { job: JobView }) {
  const note = useNote(job);
  const { answers } = job.finishing;
  const left = answers.some((a) => a.answer === "less" || a.answer === "still_there");
  return (
    <section aria-label="The complaint now" className="mb-4">
      <h2 className="text-lg font-bold">The complaint now</h2>
      <p className="mb-1 text-sm text-soft">
        After a road test, on the load and at the temperature it was brought in for.
      </p>
      <ul className="rounded-lg border border-hair bg-sheet">
        {answers.map((a) => (
          <li
            key={a.word}
            className="flex flex-wrap items-center gap-2 border-b border-hair px-3 py-1 last:border-0"
          >
            <b className="min-w-40 flex-1">{a.words}</b>
            <span role="group" aria-label={a.words} className="flex flex-wrap gap-2">
              {ANSWERS.map(([code, words]) => (
                <button
                  key={code}
                  className="choice"
                  aria-pressed={a.answer === code}
                  disabled={job.closed}
                  onClick={() =>
                    note.mutate([notes.answer(a.word, a.answer === code ? "" : code, a.words)])
                  }
                >
                  {words}
                </button>
              ))}
            </span>
          </li>
        ))}
      </ul>
      {left && (
        <p className="mt-2 border-l-4 border-chalk pl-3">
          The diagnosis is open again, without what was repaired: see the verdict and the next step.
        </p>
      )}
      <Trouble text={note.isError ? told(note.error) : null} />
    </section>
  );
}
