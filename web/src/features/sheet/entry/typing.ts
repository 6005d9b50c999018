/** Figures are typed: what is missing is asked for, a slip is asked about, what is whole is kept. */
import { askSlips, askWhich } from "./asking";
import { paired, questions } from "./draft";
import { calledIn, moveTo, shownOn, targetOf } from "./keeping";
import { toFirst, toSecond, type EntryState, type Now, type Step } from "./state";

/** The row before or behind, round the end. */
export function move(state: EntryState, now: Now, by: number): Step {
  const { rows } = now.sheet;
  const at = rows.findIndex((r) => r.injector === shownOn(state, now));
  const next = rows[(at + by + rows.length) % rows.length];
  return next ? moveTo(state, now, next.injector) : { state, effects: [] };
}

/** A mark in place of a figure: of the row that is shown, and of no other. */
export function mark(state: EntryState, now: Now, mark: "none" | "over"): Step {
  const { injector } = targetOf(state, now);
  if (injector === shownOn(state, now)) {
    return askWhich(state, now, { ...state.draft, second: "" }, { mark });
  }
  const step = moveTo(state, now, injector);
  const said = `${calledIn(now.sheet, injector)} is next: the same again, if it is meant.`;
  return { ...step, state: { ...step.state, said } };
}

/** Enter: what is missing is asked for, a slip is asked about, what is whole is kept. */
export function submit(state: EntryState, now: Now): Step {
  const { draft } = state;
  const two = paired(now.sheet);
  if (draft.first.trim() === "") {
    const said = two
      ? `Type ${now.sheet.entry.figures.join(", a space, and ")}.`
      : "Type the figure.";
    return { state: { ...state, said }, effects: [toFirst] };
  }
  const open = questions(now.sheet, targetOf(state, now), draft);
  const half = two && draft.second.trim() === "";
  // Two that ran together are a whole burst; of any other half the second is still to be typed.
  if (half && open[0]?.code !== "run_together") {
    return { state: { ...state, said: open[0]?.text ?? state.said }, effects: [toSecond] };
  }
  return open.length > 0 ? askSlips(state, now, draft, open) : askWhich(state, now, draft, {});
}
