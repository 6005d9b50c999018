/** One event of the entry line: the state after it, and what is to be done outside. */
import { askWhich } from "./asking";
import { look } from "./looking";
import type { EntryEvent, EntryState, Now, Step } from "./state";
import { back, choose, keep, takeUp, type } from "./keeping";
import { move, second, submit } from "./typing";
import { undo } from "./undoing";

export function step(state: EntryState, event: EntryEvent, now: Now): Step {
  switch (event.type) {
    case "typed":
      return type(state, now, event.draft);
    case "chosen":
      return choose(state, event.injector, event.repeat);
    case "moved":
      return move(state, now, event.by);
    case "submitted":
      return submit(state, now, event.draft ?? state.draft, event.confirmed ?? []);
    case "second":
      return second(state, event.draft);
    case "kept":
      return keep(state, now, event.draft, event.extra);
    case "marked":
      return askWhich(state, now, { ...state.draft, second: "" }, { mark: event.mark });
    case "said":
      return keep(state, now, state.draft, { word: event.word });
    case "looked":
      return look(state, now, event.seen);
    case "taken_up":
      return takeUp(state, event);
    case "undone":
      return undo(state, now);
    case "again":
      return back(state);
  }
}
