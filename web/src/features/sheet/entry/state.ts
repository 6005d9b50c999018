/**
 * The entry line as a machine, without React: what state it is in, what can happen to it, and what
 * is then to be done outside of it. Each state has a file of its own; `step.ts` sends events there.
 */
import type { ReadingIn, SheetView } from "../../../api/client";
import type { Draft, Extra, Target, WaitingReading } from "./draft";

/** An answer to a question: its key, what it says, and what it makes happen. */
export interface Answer {
  key: string;
  label: string;
  event: EntryEvent;
}

/** A question that has to be answered before anything is kept. */
export interface Question {
  text: string;
  answers: Answer[];
}

interface Common {
  /** The row that somebody chose; null: wherever the sheet stands. */
  choice: Target | null;
  draft: Draft;
  /** What was last done, for those who hear it. */
  said: string;
}

export type EntryState =
  (Common & { name: "typing" }) | (Common & { name: "asking"; question: Question });

/** What is seen of a nozzle beside its pressure. */
export type Looked = Partial<Pick<Draft, "sound" | "spray" | "seat" | "note">>;

export type EntryEvent =
  | { type: "typed"; draft: Draft }
  | { type: "chosen"; injector: string; repeat?: boolean }
  | { type: "moved"; by: number }
  | { type: "submitted"; draft?: Draft; confirmed?: string[] }
  | { type: "second"; draft: Draft }
  | { type: "kept"; draft: Draft; extra: Extra }
  | { type: "marked"; mark: "none" | "over" }
  | { type: "said"; word: string }
  | { type: "looked"; seen: Looked }
  | { type: "taken_up"; seq: number; injector: string; draft: Draft }
  | { type: "undone" }
  | { type: "again" };

/** What is to be done outside: kept, taken back, the cursor moved. */
export type Effect =
  | { do: "keep"; reading: ReadingIn }
  | { do: "take_back"; readingId: string }
  | { do: "drop"; seq: number }
  | { do: "focus"; field: "first" | "second" };

/** What the machine looks at: the sheet, what waits in the browser, what was typed here. */
export interface Now {
  sheet: SheetView;
  waiting: WaitingReading[];
  mine: () => string[];
  newId: () => string;
  wasTried: (seq: number) => boolean;
}

export interface Step {
  state: EntryState;
  effects: Effect[];
}

export const toFirst: Effect = { do: "focus", field: "first" };
export const toSecond: Effect = { do: "focus", field: "second" };
