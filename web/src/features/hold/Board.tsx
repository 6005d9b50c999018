/** The isolation board: what was tried, and what is left. */
import type { HoldView } from "../../api/client";
import type { WaitingReading } from "../sheet/entry/draft";

interface Props {
  hold: HoldView;
  waiting: WaitingReading[];
  tried: (step: string, outcome: string) => void;
}

const SAID: Record<string, string> = { falls: "still falls" };

type Try = HoldView["tries"][number];

/** One thing to try, and what came of it. */
function Tried({ one, now, tried }: { one: Try; now: string; tried: Props["tried"] }) {
  return (
    <li className="flex flex-wrap items-center justify-between gap-2 border-t border-hair py-1.5">
      <span className="text-sm">
        {one.title}
        {one.proposed && (
          <span className="block font-bold">next: leaves least, about {one.minutes} min</span>
        )}
      </span>
      <span className="flex gap-1">
        {one.outcomes.map((o) => (
          <button
            key={o}
            type="button"
            className="choice px-3"
            aria-pressed={now === o}
            aria-label={`${one.title}: ${SAID[o] ?? o}`}
            onClick={() => tried(one.step, o)}
          >
            {SAID[o] ?? o}
          </button>
        ))}
      </span>
    </li>
  );
}

/** One place where it could go: still possible, or struck out and why. */
function Place({ place }: { place: HoldView["places"][number] }) {
  return (
    <li className="grid grid-cols-[minmax(0,1fr)_minmax(0,1fr)] gap-3 border-t border-hair py-1.5 text-sm">
      {place.struck ? (
        <s className="text-soft">
          <span className="sr-only">struck out: </span>
          {place.name}
        </s>
      ) : (
        <b>{place.name}</b>
      )}
      <span className="text-soft">{place.because}</span>
    </li>
  );
}

export function Board({ hold, waiting, tried }: Props) {
  const queued = new Map(
    waiting.filter((w) => w.reading.word).map((w) => [w.reading.injector, w.reading.word ?? ""]),
  );
  return (
    <div className="mt-3 grid gap-3 lg:grid-cols-2">
      <section aria-label="What was tried" className="rounded-lg border border-hair bg-sheet p-3">
        <h2 className="mb-1 text-sm font-bold text-soft">Where could it go? Note what you tried</h2>
        <ul>
          {hold.tries.map((t) => (
            <Tried key={t.step} one={t} now={queued.get(t.step) ?? t.outcome} tried={tried} />
          ))}
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
            <Place key={p.source} place={p} />
          ))}
        </ul>
      </section>
    </div>
  );
}
