/**
 * The pressure at which one opens at last belongs to the burst it was seen at. It is often known
 * only when that burst was kept and the cursor has gone on: then somebody has to say whose it is.
 */
import type { Problem } from "../../../api/client";
import { draftOf, emptyDraft, type Draft } from "./draft";
import { calledIn, keep, targetOf } from "./keeping";
import { draftOfKept } from "./mending";
import {
  toFirst,
  type Effect,
  type EntryEvent,
  type EntryState,
  type Now,
  type Step,
} from "./state";

/** The code of the question which of two rows is meant; its path names the other one. */
export const WHOSE = "which_row";

interface Newest {
  id: string;
  draft: Draft;
}

/** The newest burst of a row; none where it has none, or where nothing came of it. */
function newestOf(now: Now, injector: string): Newest | null {
  const queued = now.waiting.findLast((w) => w.reading.injector === injector)?.reading;
  if (queued) {
    const draft = draftOf(now.sheet, queued);
    return draft ? { id: queued.id, draft } : null;
  }
  const kept = now.sheet.rows.find((r) => r.injector === injector)?.readings.at(-1);
  if (!kept?.first_typed) return null;
  return { id: kept.id, draft: draftOfKept(now.sheet, kept) };
}

/** It goes to a burst that is there already, in its place. */
function added(state: EntryState, now: Now, to: string, newest: Newest, asked: Problem[]): Step {
  const at = { ...state, choice: { injector: to, repeat: true } };
  const draft = { ...newest.draft, fires: state.draft.fires };
  const step = keep(
    at,
    now,
    draft,
    // The figures were asked about when they were typed.
    { replaces: newest.id, confirmed: ["point_missing", "far_off", "off_step", "rise"] },
    asked,
  );
  const { choice, last, held } = state;
  const fires = state.draft.fires?.trim() ?? "";
  const said =
    asked.length > 0
      ? `${fires}: is asked about.`
      : `${calledIn(now.sheet, to)}: opens at ${fires}, noted with its last burst.`;
  return { ...step, state: { ...step.state, choice, last, held, draft: emptyDraft, said } };
}

/** Enter behind the pressure: with the figures that are begun, else whose it is. */
export function fired(state: EntryState, now: Now): Step {
  const fires = state.draft.fires?.trim() ?? "";
  const target = targetOf(state, now);
  const stays: Step = { state, effects: [toFirst] };
  if (fires === "") {
    return { ...stays, state: { ...state, draft: { ...state.draft, fires: null } } };
  }
  if (state.draft.first.trim() !== "" || target.corrects) return stays;
  const before = state.last === "" ? null : newestOf(now, state.last);
  if (before && state.last !== target.injector) {
    const { last } = state;
    const whose: Problem = {
      path: target.injector,
      rule: `Which one opened only at ${fires}: injector ${last}, just kept, or injector ${target.injector}, which comes next?`,
      value: "",
      code: WHOSE,
      suggestion: fires,
      confirmable: true,
    };
    return added(state, now, last, before, [whose]);
  }
  const own = newestOf(now, target.injector);
  return own && !target.repeat ? added(state, now, target.injector, own, []) : stays;
}

/** It was meant for the burst that was to come: it waits with that row, or goes to what came since. */
export function leftForNext(
  state: EntryState,
  now: Now,
  { seq, injector, fires }: Extract<EntryEvent, { type: "left_for_next" }>,
): Step {
  const drop: Effect = { do: "drop", seq };
  const here = targetOf(state, now).injector === injector;
  const came = newestOf(now, injector);
  if (came && !here) {
    const step = added({ ...state, draft: { ...state.draft, fires } }, now, injector, came, []);
    return { ...step, effects: [drop, ...step.effects] };
  }
  const said = `${calledIn(now.sheet, injector)}: opens at ${fires}; now its two pressures.`;
  const kept = here
    ? { draft: { ...state.draft, fires } }
    : { held: { ...state.held, [injector]: fires } };
  return { state: { ...state, ...kept, said }, effects: [drop, toFirst] };
}
