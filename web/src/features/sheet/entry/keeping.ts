/** What every state of the entry line is made of: the row it stands on, and a reading that is kept. */
import type { RowView } from "../../../api/client";
import { shownOf } from "../../../lib/aside";
import {
  asReading,
  emptyDraft,
  nextOpen,
  standing,
  type Draft,
  type Extra,
  type Target,
  type WaitingReading,
} from "./draft";
import { toFirst, type EntryState, type Now, type Step } from "./state";

export function beginning(): EntryState {
  return { name: "typing", choice: null, draft: emptyDraft, said: "" };
}

/** Where the cursor stands. */
export function targetOf(state: EntryState, now: Now): Target {
  return state.choice ?? standing(now.sheet, now.waiting);
}

export function rowOf(state: EntryState, now: Now): RowView | undefined {
  const { injector } = targetOf(state, now);
  return now.sheet.rows.find((r) => r.injector === injector);
}

/** What a row is called in a sentence. */
export function calledOf(state: EntryState, now: Now): string {
  const noun = now.sheet.entry.shape === "stroke" ? "Nozzle" : "Injector";
  const name = rowOf(state, now)?.name ?? "";
  return name === "" ? `${noun} ${targetOf(state, now).injector}` : name;
}

/** A row was chosen: nothing is typed on it yet. */
export function choose(state: EntryState, injector: string, repeat = false): Step {
  const choice = { injector, repeat };
  return {
    state: { name: "typing", choice, draft: emptyDraft, said: state.said },
    effects: [toFirst],
  };
}

/** Typing holds the cursor where it is, whatever the set says meanwhile. */
export function type(state: EntryState, now: Now, draft: Draft): Step {
  return { state: { ...state, choice: targetOf(state, now), draft }, effects: [] };
}

/** Back to the fields, what was typed still in them. */
export function back(state: EntryState): Step {
  const { choice, draft, said } = state;
  return { state: { name: "typing", choice, draft, said }, effects: [toFirst] };
}

/** What stepped aside is typed anew: its figures stand in the fields, and it no longer waits. */
export function takeUp(
  state: EntryState,
  { seq, injector, draft }: { seq: number; injector: string; draft: Draft },
): Step {
  const { state: chosen } = choose(state, injector, true);
  return {
    state: { ...chosen, draft, said: `${injector}: change it, then Enter.` },
    effects: [{ do: "drop", seq }, toFirst],
  };
}

/** Keep a reading: it waits in the browser, and the cursor goes on. */
export function keep(state: EntryState, now: Now, draft: Draft, extra: Extra): Step {
  const target = targetOf(state, now);
  const reading = asReading(now.newId(), now.sheet, target, draft, extra);
  const soon: WaitingReading = {
    kind: "reading",
    sheetId: now.sheet.id,
    reading,
    seq: -1,
    problems: [],
    status: 0,
  };
  return {
    state: {
      name: "typing",
      choice: nextOpen(now.sheet, [...now.waiting, soon], target.injector),
      draft: emptyDraft,
      said: `${calledOf(state, now)}: ${shownOf(reading)} kept.`,
    },
    effects: [{ do: "keep", reading }, toFirst],
  };
}
