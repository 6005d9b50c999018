/** What a run has cost so far, line by line, and what could have hurt someone. */
import type { RunView } from "../../api/client";
import { useRun } from "./runs";

export function Ledger({ run }: { run: RunView }) {
  return (
    <details className="group mt-3">
      <summary className="flex min-h-11 items-center gap-2 font-bold">
        <span aria-hidden className="group-open:rotate-90">
          ▸
        </span>
        <span>
          <span className="figure">{Math.round(run.minutes)}</span> min,{" "}
          <span className="figure">{Math.round(run.money)}</span> spent
        </span>
        {run.hints > 0 && (
          <span className="font-normal text-soft">
            {run.hints} hint{run.hints === 1 ? "" : "s"}
          </span>
        )}
      </summary>
      <ul className="mb-2 text-sm">
        {run.spent.map((s, n) => (
          <li
            key={`${n} ${s.what}`}
            className="flex justify-between gap-2 border-t border-hair py-0.5"
          >
            <span>{s.what}</span>
            <span className="figure whitespace-nowrap">{s.minutes} min</span>
          </li>
        ))}
      </ul>
      <p className="mb-2 text-xs text-soft">
        Minutes are those of the work, not of the clock: thinking costs nothing. Money is invented.
      </p>
    </details>
  );
}

export function Incidents({ run }: { run: RunView }) {
  if (run.incidents.length === 0) return null;
  return (
    <ul aria-label="What could have hurt someone" className="mt-2 grid gap-1 text-sm">
      {run.incidents.map((i, n) => (
        <li key={`${n} ${i.what}`} className="border-l-4 border-high pl-2">
          <b>Dangerous, at minute {Math.round(i.minute)}:</b> {i.what}.
        </li>
      ))}
    </ul>
  );
}

export default function Spent({ number }: { number: string }) {
  const run = useRun(number);
  if (!run.data) return null;
  return (
    <>
      <h2 className="text-sm font-bold text-soft">What it cost</h2>
      <Ledger run={run.data} />
      <Incidents run={run.data} />
    </>
  );
}
