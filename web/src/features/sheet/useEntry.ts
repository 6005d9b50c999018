/** The entry line on a screen: the machine of `entry/` with its fields, the outbox and the clock. */
import { useMemo, useRef, useState } from "react";
import { useSearchParams } from "react-router";
import type { ReadingView, SheetView } from "../../api/client";
import { prefsNow } from "../../lib/prefs";
import { outbox, useOutbox } from "../../lib/store";
import { draftOf, emptyDraft, passNumber, waitingFor, type Draft } from "./entry/draft";
import { halfTyped, keepHalf } from "./entry/half";
import { mine, remember } from "./entry/mine";
import { askingAbout, type Asking } from "./entry/refused";
import type { Effect, EntryEvent, EntryState, Looked, Now } from "./entry/state";
import { draftOfKept } from "./entry/mending";
import { step } from "./entry/step";
import { beginning, calledIn, onPump, shownOn, targetOf } from "./entry/keeping";
import { useSeat } from "./shapes/useSeat";

type Half = Pick<EntryState, "choice" | "draft" | "held">;

/** Whether something is typed that is not kept yet. */
function isHalf({ draft, held }: EntryState): boolean {
  const { first, second, note, fires } = draft;
  return (
    [first, second, note, fires ?? ""].some((t) => t.trim() !== "") || Object.keys(held).length > 0
  );
}

/** The machine's state, the way to send it an event, and its two fields. */
function useMachine(now: Now, at: string | null) {
  const [state, setState] = useState<EntryState>(() => {
    const begun = beginning(now.sheet.rows.find((r) => r.injector === at));
    const half = at === null ? (halfTyped(now.sheet.id) as Half | null) : null;
    return half ? { ...begun, ...half } : begun;
  });
  const firstField = useRef<HTMLInputElement>(null);
  const secondField = useRef<HTMLInputElement>(null);
  // At once, so that the next figure of quick hands lands in the right field.
  const focus = (field: "first" | "second") =>
    (field === "first" ? firstField : secondField).current?.focus();
  const outside = (effect: Effect) => {
    const sheetId = now.sheet.id;
    if (effect.do === "focus") focus(effect.field);
    else if (effect.do === "drop") void outbox.drop(effect.seq);
    else if (effect.do === "take_back") {
      void outbox.put({ kind: "take_back", sheetId, readingId: effect.readingId });
    } else {
      remember(sheetId, effect.reading.id);
      const reading = { ...effect.reading, by: prefsNow().me.trim() };
      void outbox.put({ kind: "reading", sheetId, reading }, effect.asked);
    }
  };
  const send = (event: EntryEvent) => {
    const next = step(state, event, now);
    setState(next.state);
    const { choice, draft, held } = next.state;
    keepHalf(now.sheet.id, isHalf(next.state) ? { choice, draft, held } : null);
    next.effects.forEach(outside);
  };
  return { state, send, firstField, secondField };
}

/** The question that stands: the oldest, of this page or of the server. */
function askingOf(now: Now, send: (event: EntryEvent) => void): Asking | null {
  const asked = now.waiting.filter((w) => w.problems.length > 0);
  const [first] = asked;
  if (!first) return null;
  const { injector } = first.reading;
  const draft = draftOf(now.sheet, first.reading) ?? emptyDraft;
  const { seq, problems } = first;
  const replaced = now.sheet.rows
    .find((r) => r.injector === injector)
    ?.readings.find((r) => r.id === first.reading.replaces);
  const corrects = replaced ? { id: replaced.id, pass: replaced.pass_number } : undefined;
  return askingAbout(
    first,
    calledIn(now.sheet, injector),
    asked.length,
    () => send({ type: "taken_up", seq, injector, draft, corrects }),
    () => {
      const [whose] = problems;
      const fires = whose?.suggestion ?? "";
      send({ type: "left_for_next", seq, injector: whose?.path ?? injector, fires });
    },
  );
}

export function useEntry(sheet: SheetView) {
  const [asked] = useSearchParams();
  const { waiting: all } = useOutbox();
  const waiting = useMemo(() => waitingFor(sheet.id, all), [sheet.id, all]);
  const now: Now = {
    sheet,
    waiting,
    mine: () => mine(sheet.id),
    me: () => prefsNow().me.trim(),
    newId: () => crypto.randomUUID(),
    wasTried: (seq) => outbox.wasTried(seq),
  };
  const { state, send, firstField, secondField } = useMachine(now, asked.get("at"));
  const target = targetOf(state, now);
  const shown = shownOn(state, now);
  const row = now.sheet.rows.find((r) => r.injector === shown);
  const pump = onPump(state, now);
  const look = (seen: Looked) => send({ type: "looked", seen });
  return {
    ...actsOf(sheet, shown, send),
    target,
    /** The row that the line shows; on the hand pump another than that of the next figure. */
    shown,
    row,
    waiting,
    draft: state.draft,
    asking: askingOf(now, send),
    said: state.said,
    firstField,
    secondField,
    look,
    pump,
    pumpRow: sheet.rows.find((r) => r.injector === pump),
    seat: useSeat(pump, look),
    pass: passNumber(row, waiting),
  };
}

/** What keys and knobs do, each an event of the machine. */
function actsOf(sheet: SheetView, shown: string, send: (event: EntryEvent) => void) {
  const choose = (injector: string, repeat = false) => send({ type: "chosen", injector, repeat });
  return {
    choose,
    setDraft: (draft: Draft) => send({ type: "typed", draft }),
    clear: () => send({ type: "cleared" }),
    submit: () => send({ type: "submitted" }),
    mark: (mark: "none" | "over") => send({ type: "marked", mark }),
    word: (word: string) => send({ type: "said", word }),
    fired: () => send({ type: "fired" }),
    undo: () => send({ type: "undone" }),
    move: (by: number) => send({ type: "moved", by }),
    correct: (injector: string, reading: ReadingView) =>
      send({ type: "correcting", injector, reading, draft: draftOfKept(sheet, reading) }),
    repeat: () => choose(shown, true),
  };
}

export type Entry = ReturnType<typeof useEntry>;
