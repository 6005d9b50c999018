/** What every state of the entry line is made of: the row it stands on, and a reading that is kept. */
import type { Problem, ReadingView, RowView, SheetView } from "../../../api/client";
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
import { toFirst, type EntryEvent, type EntryState, type Now, type Step } from "./state";

/** At first: the cursor stands on the row that was asked for, else wherever the sheet stands. */
export function beginning(at?: RowView): EntryState {
  const choice = at ? { injector: at.injector, repeat: at.count > 0 } : null;
  return { choice, last: "", draft: emptyDraft, held: {}, said: "" };
}

/** Where the cursor stands. */
export function targetOf(state: EntryState, now: Now): Target {
  return state.choice ?? standing(now.sheet, now.waiting, state.last);
}

export function rowOf(state: EntryState, now: Now): RowView | undefined {
  const { injector } = targetOf(state, now);
  return now.sheet.rows.find((r) => r.injector === injector);
}

/**
 * The nozzle that is looked at: the one that is stroked, and after its last stroke still that one
 * until the next is stroked. Whoever chose a row means that row.
 */
export function onPump(state: EntryState, now: Now): string {
  const { injector } = targetOf(state, now);
  const typing = state.draft.first.trim() !== "";
  return state.last === "" || typing ? injector : state.last;
}

/** The row that the entry line shows: what keys do without a figure they do there. */
export function shownOn(state: EntryState, now: Now): string {
  const stroked = now.sheet.entry.shape === "stroke";
  return stroked ? onPump(state, now) : targetOf(state, now).injector;
}

/** What a row is called in a sentence. */
export function calledIn(sheet: SheetView, injector: string): string {
  const noun = sheet.entry.shape === "stroke" ? "Nozzle" : "Injector";
  const name = sheet.rows.find((r) => r.injector === injector)?.name ?? "";
  return name === "" ? `${noun} ${injector}` : name;
}

/** The draft on another row: a pressure at which one opens stays with the row it was typed for. */
function carried(state: EntryState, from: string, to: string): Pick<EntryState, "draft" | "held"> {
  if (from === to) return state;
  const { [to]: found, ...others } = state.held;
  const fires = state.draft.fires?.trim() ?? "";
  return {
    draft: { ...state.draft, fires: found ?? null },
    held: fires === "" ? others : { ...others, [from]: fires },
  };
}

/** A row was chosen, and what is half typed goes along. */
export function moveTo(state: EntryState, now: Now, injector: string, repeat = false): Step {
  const from = targetOf(state, now).injector;
  const choice = { injector, repeat };
  return {
    state: { ...state, ...carried(state, from, injector), choice, last: "" },
    effects: [toFirst],
  };
}

/** A row was chosen: nothing is typed on it yet. */
export function choose(state: EntryState, injector: string, repeat = false): Step {
  const choice = { injector, repeat };
  return {
    state: { ...state, choice, last: "", draft: emptyDraft },
    effects: [toFirst],
  };
}

/** Typing holds the cursor where it is, whatever the set says meanwhile. */
export function type(state: EntryState, now: Now, draft: Draft): Step {
  return { state: { ...state, choice: targetOf(state, now), draft }, effects: [] };
}

/** A pass that is kept is typed anew: it stands in the fields, and what is kept next takes its place. */
export function correct(
  state: EntryState,
  { injector, reading, draft }: { injector: string; reading: ReadingView; draft: Draft },
): Step {
  const corrects = { id: reading.id, pass: reading.pass_number };
  const said = `${injector}: change pass ${reading.pass_number}, then Enter; Esc leaves it.`;
  return {
    state: { ...state, choice: { injector, repeat: true, corrects }, draft, said },
    effects: [toFirst],
  };
}

/** What stepped aside is typed anew: its figures stand in the fields, and it no longer waits. */
export function takeUp(
  state: EntryState,
  { seq, injector, draft, corrects }: Extract<EntryEvent, { type: "taken_up" }>,
): Step {
  const { state: chosen } = choose(state, injector, true);
  const choice = { injector, repeat: true, ...(corrects ? { corrects } : {}) };
  return {
    state: { ...chosen, choice, draft, said: `${injector}: change it, then Enter.` },
    effects: [{ do: "drop", seq }, toFirst],
  };
}

/**
 * Keep a reading: it waits in the browser, and the cursor goes on. One that is `asked` about stays
 * there with its questions until they are answered.
 */
export function keep(
  state: EntryState,
  now: Now,
  draft: Draft,
  extra: Extra,
  asked: Problem[] = [],
): Step {
  const target = targetOf(state, now);
  const replaces = extra.replaces ?? target.corrects?.id ?? null;
  const reading = asReading(now.newId(), now.sheet, target, draft, { ...extra, replaces });
  const soon: WaitingReading = {
    kind: "reading",
    sheetId: now.sheet.id,
    reading,
    seq: -1,
    problems: asked,
    status: 0,
  };
  const done = asked.length > 0 ? "is asked about" : "kept";
  const next = nextOpen(now.sheet, [...now.waiting, soon], target.injector);
  const after = next ?? standing(now.sheet, [...now.waiting, soon], target.injector);
  return {
    state: {
      ...carried({ ...state, draft: emptyDraft }, target.injector, after.injector),
      choice: next,
      last: target.injector,
      said: `${calledIn(now.sheet, target.injector)}: ${shownOf(reading)} ${done}.`,
    },
    effects: [{ do: "keep", reading, asked }, toFirst],
  };
}
