/** The isolation board: what was tried, and what is left. */
import type { HoldView } from "../../api/client";
import type { WaitingReading } from "../sheet/entry";

interface Props {
  hold: HoldView;
  waiting: WaitingReading[];
  tried: (step: string, outcome: string) => void;
}

const SAID: Record<string, string> = { falls: "still falls" };

export function Board({ hold, waiting, tried }: Props) {
  const queued = new Map(
    waiting.filter((w) => w.reading.word).map((w) => [w.reading.injector, w.reading.word ?? ""]),
  );
  return (
    <div className="mt-3 grid gap-3 lg:grid-cols-2">
      <section aria-label="What was tried" className="rounded-lg border border-hair bg-sheet p-3">
        <h2 className="mb-1 text-sm font-bold text-soft">Where could it go? Note what you tried</h2>
        <ul>
          {hold.tries.map((t) => {
            const now = queued.get(t.step) ?? t.outcome;
            return (
              <li
                key={t.step}
                className="flex flex-wrap items-center justify-between gap-2 border-t border-hair py-1.5"
              >
                <span className="text-sm">
                  {t.title}
                  {t.proposed && (
                    <span className="block font-bold">
                      next: leaves least, about {t.minutes} min
                    </span>
                  )}
                </span>
                <span className="flex gap-1">
                  {t.outcomes.map((o) => (
                    <button
                      key={o}
                      type="button"
                      className="choice px-3"
                      aria-pressed={now === o}
                      aria-label={`${t.title}: ${SAID[o] ?? o}`}
                      onClick={() => tried(t.step, o)}
                    >
                      {SAID[o] ?? o}
                    </button>
                  ))}
                </span>
              </li>
            );
          })}
        </ul>
      </section>
      <section aria-label="What is left" className="rounded-lg border border-hair bg-sheet p-3">
        <h2 className="mb-1 text-sm font-bold text-soft">What is left</h2>
        {hold.contradiction && (
          <p className="mb-2 border-l-4 border-high pl-3 text-sm font-bold">
            Contradiction: no single leak fits all of this. More than one leak, or one outcome was
            misread.
          </p>
        )}
        <ul>
          {hold.places.map((p) => (
            <li
              key={p.source}
              className="grid grid-cols-[minmax(0,1fr)_minmax(0,1fr)] gap-3 border-t border-hair py-1.5 text-sm"
            >
              {p.struck ? (
                <s className="text-soft">
                  <span className="sr-only">struck out: </span>
                  {p.name}
                </s>
              ) : (
                <b>{p.name}</b>
              )}
              <span className="text-soft">{p.because}</span>
            </li>
          ))}
        </ul>
      </section>
    </div>
  );
}
