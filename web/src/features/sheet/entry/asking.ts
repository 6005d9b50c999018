/**
 * What is asked about before it is kept: a slip, or a second figure for the same row. The reading
 * steps aside with its question, and the entry line goes on: what is typed next answers nothing.
 */
import type { Problem } from "../../../api/client";
import type { Question as Slip } from "../../../lib/slips";
import { shownOf } from "../../../lib/aside";
import { hasPasses, passNumber, strokesOf, type Draft, type Extra } from "./draft";
import type { EntryState, Now, Step } from "./state";
import { keep, rowOf, targetOf } from "./keeping";

/** A slip as the server would tell it. */
function asProblem(slip: Slip): Problem {
  return {
    path: slip.field,
    rule: slip.text,
    value: "",
    code: slip.code,
    suggestion: slip.suggestion?.join(" ").trim() ?? "",
    confirmable: !slip.refused,
  };
}

/** Ask about the slips of a draft. */
export function askSlips(state: EntryState, now: Now, draft: Draft, open: Slip[]): Step {
  return keep(state, now, draft, {}, open.map(asProblem));
}

/** Whether one more figure for this row is a matter of course. */
function oneMore(state: EntryState, now: Now, draft: Draft): boolean {
  if (targetOf(state, now).repeat || !hasPasses(now.sheet)) return true;
  if (now.sheet.entry.shape !== "stroke") return false;
  // Another stack of shims begins anew; until a nozzle was stroked often enough each is one more.
  const row = rowOf(state, now);
  const few = row !== undefined && strokesOf(row, now.waiting) < now.sheet.entry.strokes;
  return draft.second.trim() !== "" || few;
}

/** The code of the question whether a second typing adds a pass or corrects the one that is there. */
export const WHICH = "which_pass";

/** Ask whether a second typing corrects the pass that is there or adds one. */
export function askWhich(state: EntryState, now: Now, draft: Draft, extra: Extra): Step {
  const row = rowOf(state, now);
  const { injector } = targetOf(state, now);
  const queued = now.waiting.findLast((w) => w.reading.injector === injector)?.reading;
  const kept = row?.readings.at(-1);
  if ((!kept && !queued) || oneMore(state, now, draft)) return keep(state, now, draft, extra);
  const number = passNumber(row, now.waiting) - 1;
  const was = queued ? shownOf(queued) : (kept?.shown ?? "");
  const which: Problem = {
    path: String(number),
    rule: `Pass ${number} is there already, ${was}. Is this one more pass, or does it correct that one?`,
    value: queued?.id ?? kept?.id ?? "",
    code: WHICH,
    suggestion: "",
    confirmable: true,
  };
  return keep(state, now, draft, extra, [which]);
}
