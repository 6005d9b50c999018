/** One event of the entry line: the state after it, and what is to be done outside. */
import { fired, leftForNext } from "./firing";
import { look } from "./looking";
import type { EntryEvent, EntryState, Now, Step } from "./state";
import { choose, correct, keep, moveTo, takeUp, targetOf, type } from "./keeping";
import { mark, move, submit } from "./typing";
import { undo } from "./undoing";

export function step(state: EntryState, event: EntryEvent, now: Now): Step {
  switch (event.type) {
    case "typed":
      return type(state, now, event.draft);
    case "chosen":
      return moveTo(state, now, event.injector, event.repeat);
    case "moved":
      return move(state, now, event.by);
    case "submitted":
      return submit(state, now);
    case "marked":
      return mark(state, now, event.mark);
    case "said":
      return keep(state, now, state.draft, { word: event.word });
    case "looked":
      return look(state, now, event.seen);
    case "fired":
      return fired(state, now);
    case "left_for_next":
      return leftForNext(state, now, event);
    case "correcting":
      return correct(state, event);
    case "taken_up":
      return takeUp(state, event);
    case "undone":
      return undo(state, now);
    case "cleared":
      return choose({ ...state, said: "" }, targetOf(state, now).injector);
  }
}
