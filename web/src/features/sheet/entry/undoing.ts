/** The last thing typed in this browser on this sheet is taken back, saved or not. */
import type { ReadingView, RowView } from "../../../api/client";
import { hasPasses } from "./draft";
import type { EntryState, Now, Step } from "./state";
import { choose } from "./keeping";

function saying(step: Step, said: string): Step {
  return { ...step, state: { ...step.state, said } };
}

interface Kept {
  row: RowView;
  reading: ReadingView;
}

/** The last one of this person, whatever browser it was typed in; where nobody said who, of this browser. */
function newestOf(now: Now, live: Kept[]): Kept | undefined {
  const mine = new Set(now.mine());
  const me = now.me();
  return live
    .filter(({ reading }) => mine.has(reading.id) || (me !== "" && reading.by === me))
    .sort((a, b) => a.reading.taken.localeCompare(b.reading.taken))
    .at(-1);
}

export function undo(state: EntryState, now: Now): Step {
  const unsent = now.waiting.at(-1);
  if (unsent) {
    const { seq, reading } = unsent;
    // What may have reached the server is taken back there too, right behind itself.
    const reached = now.wasTried(seq) && unsent.problems.length === 0;
    const step = choose(state, reading.injector);
    step.effects.unshift(
      reached ? { do: "take_back", readingId: reading.id } : { do: "drop", seq },
    );
    return saying(step, `${reading.injector}: taken back before it was saved.`);
  }
  const live = new Map(
    now.sheet.rows.flatMap((r) => r.readings.map((x) => [x.id, { row: r, reading: x }] as const)),
  );
  const last = newestOf(now, [...live.values()]);
  if (!last)
    return { state: { ...state, said: "Nothing typed here is left to take back." }, effects: [] };
  const { row, reading } = last;
  const step = choose(state, row.injector);
  step.effects.unshift({ do: "take_back", readingId: reading.id });
  const pass = hasPasses(now.sheet) ? `, pass ${reading.pass_number}` : "";
  return saying(
    step,
    `Took back ${row.name || `injector ${row.injector}`}${pass}: ${reading.shown}.`,
  );
}
