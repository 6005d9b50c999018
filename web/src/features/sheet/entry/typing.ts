/** Figures are typed: what is missing is asked for, a slip is asked about, what is whole is kept. */
import { askSlip, askWhich } from "./asking";
import { questions, type Draft } from "./draft";
import { back, choose, targetOf } from "./keeping";
import { toFirst, toSecond, type EntryState, type Now, type Step } from "./state";

/** The row before or behind, round the end. */
export function move(state: EntryState, now: Now, by: number): Step {
  const { rows } = now.sheet;
  const at = rows.findIndex((r) => r.injector === targetOf(state, now).injector);
  const next = rows[(at + by + rows.length) % rows.length];
  return next ? choose(state, next.injector) : { state, effects: [] };
}

/** The first field is there; the second is still to be typed. */
export function second(state: EntryState, draft: Draft): Step {
  return { state: { ...back(state).state, draft }, effects: [toSecond] };
}

/** Enter: what is missing is asked for, a slip is asked about, what is whole is kept. */
export function submit(state: EntryState, now: Now, draft: Draft, confirmed: string[]): Step {
  const two = now.sheet.entry.shape === "burst";
  if (draft.first.trim() === "") {
    const said = two ? "Type the first pressure, a space, and the second." : "Type the figure.";
    return { state: { ...back(state).state, said }, effects: [toFirst] };
  }
  const open = questions(now.sheet, targetOf(state, now), draft, confirmed);
  if (open[0]) return askSlip(state, draft, open, confirmed);
  if (two && draft.second.trim() === "") return { state, effects: [toSecond] };
  return askWhich(state, now, draft, { confirmed });
}
