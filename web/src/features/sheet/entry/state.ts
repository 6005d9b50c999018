/**
 * The entry line as a machine, without React: what state it is in, what can happen to it, and what
 * is then to be done outside of it. Each state has a file of its own; `step.ts` sends events there.
 */
import type { Problem, ReadingIn, ReadingView, SheetView } from "../../../api/client";
import type { Draft, Target, WaitingReading } from "./draft";

export interface EntryState {
  /** The row that somebody chose; null: wherever the sheet stands. */
  choice: Target | null;
  /** The row that was last typed on: from there the cursor goes on. */
  last: string;
  draft: Draft;
  /** Pressures at which one opens at last, typed for a row that was left before its burst was. */
  held: Readonly<Record<string, string>>;
  /** What was last done, for those who hear it. */
  said: string;
}

/** What is seen of a nozzle beside its pressure. */
export type Looked = Partial<Pick<Draft, "sound" | "spray" | "seat" | "note">>;

export type EntryEvent =
  | { type: "typed"; draft: Draft }
  | { type: "chosen"; injector: string; repeat?: boolean }
  | { type: "moved"; by: number }
  | { type: "submitted" }
  | { type: "marked"; mark: "none" | "over" }
  | { type: "said"; word: string }
  | { type: "looked"; seen: Looked }
  | { type: "fired" }
  | { type: "left_for_next"; seq: number; injector: string; fires: string }
  | { type: "correcting"; injector: string; reading: ReadingView; draft: Draft }
  | {
      type: "taken_up";
      seq: number;
      injector: string;
      draft: Draft;
      corrects?: Target["corrects"] | undefined;
    }
  | { type: "undone" }
  | { type: "cleared" };

/** What is to be done outside: kept, taken back, the cursor moved. */
export type Effect =
  | { do: "keep"; reading: ReadingIn; asked: Problem[] }
  | { do: "take_back"; readingId: string }
  | { do: "drop"; seq: number }
  | { do: "focus"; field: "first" | "second" };

/** What the machine looks at: the sheet, what waits in the browser, what was typed here. */
export interface Now {
  sheet: SheetView;
  waiting: WaitingReading[];
  mine: () => string[];
  /** Who types here; empty where nobody said. */
  me: () => string;
  newId: () => string;
  wasTried: (seq: number) => boolean;
}

export interface Step {
  state: EntryState;
  effects: Effect[];
}

export const toFirst: Effect = { do: "focus", field: "first" };
export const toSecond: Effect = { do: "focus", field: "second" };
