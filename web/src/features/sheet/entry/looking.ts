/** A nozzle is looked at: what is seen goes with the figure being typed, else with its last stroke. */
import type { ReadingIn } from "../../../api/client";
import { emptyDraft, type Draft } from "./draft";
import { toFirst, type EntryState, type Looked, type Now, type Step } from "./state";
import { keep, onPump, targetOf, type } from "./keeping";
import { draftOfKept } from "./mending";

/** A stroke that waits is the newest: nothing of an older one is mixed into it. */
function ofQueued(reading: ReadingIn): Draft {
  return {
    ...emptyDraft,
    first: reading.value ?? "",
    second: reading.shim ?? "",
    sound: reading.sound ?? "",
    spray: reading.spray ?? "",
    seat: reading.seat ?? "",
    note: reading.note,
  };
}

/** The row that comes is shown. */
function onward(step: Step, now: Now): Step {
  return { ...step, state: { ...step.state, choice: targetOf(step.state, now), last: "" } };
}

export function look(state: EntryState, now: Now, seen: Looked): Step {
  const injector = onPump(state, now);
  const queued = now.waiting.findLast((w) => w.reading.injector === injector)?.reading;
  const kept = now.sheet.rows.find((r) => r.injector === injector)?.readings.at(-1);
  // A stroke that is kept has its shims on the server, exact to the digit.
  const was = queued ? ofQueued(queued) : kept && { ...draftOfKept(now.sheet, kept), second: "" };
  if (state.draft.first.trim() !== "" || !was) {
    return { ...type(state, now, { ...state.draft, ...seen }), effects: [toFirst] };
  }
  const silent = (queued ? queued.mark : kept?.mark) === "none";
  const draft = { ...was, ...seen };
  const step = keep({ ...state, choice: { injector, repeat: true } }, now, draft, {
    ...(silent ? { mark: "none" as const } : {}),
    replaces: queued?.id ?? kept?.id ?? null,
    // The figure was asked about when it was typed.
    confirmed: ["point_missing", "far_off", "off_step"],
  });
  // The seat is held last: with it nothing is left to look at, and the next nozzle goes on the pump.
  const done = seen.seat !== undefined && [draft.sound, draft.spray].every((word) => word !== "");
  return done ? onward(step, now) : step;
}
