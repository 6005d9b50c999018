/** A question stands: a slip that may have been meant, or a second figure for the same row. */
import type { Question as Slip } from "../../../lib/slips";
import { shownOf } from "../../../lib/aside";
import { hasPasses, passNumber, strokesOf, type Draft, type Extra } from "./draft";
import type { Answer, EntryState, Now, Step } from "./state";
import { calledOf, keep, rowOf, targetOf } from "./keeping";

const again: Answer = { key: "Escape", label: "Type again", event: { type: "again" } };

function asked(state: EntryState, draft: Draft, text: string, answers: Answer[]): Step {
  const { choice, said } = state;
  return {
    state: { name: "asking", choice, draft, said, question: { text, answers } },
    effects: [],
  };
}

/** Ask about the first slip: what was probably meant, or that it was meant as typed. */
export function askSlip(state: EntryState, draft: Draft, open: Slip[], confirmed: string[]): Step {
  const [slip] = open;
  if (!slip) return { state, effects: [] };
  const answers: Answer[] = [];
  const pair = slip.suggestion;
  if (pair) {
    const next = { ...draft, first: pair[0], second: pair[1] };
    answers.push({
      key: "Enter",
      label: pair[1] === "" ? `Use ${pair[0]}` : `Use ${pair[0]} ${pair[1]}`,
      event:
        next.second === ""
          ? { type: "second", draft: next }
          : { type: "submitted", draft: next, confirmed },
    });
  }
  if (!slip.refused) {
    const meant = [...confirmed, ...open.map((q) => q.code)];
    answers.push({
      key: "M",
      label: "I meant it",
      event:
        draft.second === ""
          ? { type: "second", draft }
          : { type: "submitted", draft, confirmed: meant },
    });
  }
  return asked(state, draft, slip.text, [...answers, again]);
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

/** Ask whether a second typing corrects the pass that is there or adds one. */
export function askWhich(state: EntryState, now: Now, draft: Draft, extra: Extra): Step {
  const row = rowOf(state, now);
  const { injector } = targetOf(state, now);
  const queued = now.waiting.findLast((w) => w.reading.injector === injector)?.reading;
  const kept = row?.readings.at(-1);
  if ((!kept && !queued) || oneMore(state, now, draft)) return keep(state, now, draft, extra);
  const number = passNumber(row, now.waiting) - 1;
  const replaces = queued?.id ?? kept?.id ?? null;
  const was = queued ? shownOf(queued) : (kept?.shown ?? "");
  return asked(
    state,
    draft,
    `${calledOf(state, now)} already has pass ${number}: ${was}. Is this one more pass, or does it correct that one?`,
    [
      { key: "A", label: `Add pass ${number + 1}`, event: { type: "kept", draft, extra } },
      {
        key: "C",
        label: `Correct pass ${number}`,
        event: { type: "kept", draft, extra: { ...extra, replaces } },
      },
      again,
    ],
  );
}
