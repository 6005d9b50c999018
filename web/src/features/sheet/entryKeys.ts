/** The keys of the entry line: letters are commands, because figures have none. */
import type { KeyboardEvent } from "react";
import type { SheetView } from "../../api/client";
import { hasPasses, marksOf, paired } from "./entry/draft";
import { answerOf } from "./entry/refused";
import { hasUnit } from "../../lib/slips";
import { shapeOf } from "./shapes";
import type { Entry } from "./useEntry";

type Press = Pick<KeyboardEvent, "key" | "preventDefault">;

interface On {
  sheet: SheetView;
  entry: Entry;
  onHelp: () => void;
  onPasses: (injector: string) => void;
}

const MARK_KEYS = { none: "x", over: "o" } as const;

/** What each letter and arrow does, from anywhere on the sheet. */
function actsOf({ sheet, entry, onHelp, onPasses }: On): Record<string, () => void> {
  const { draft, setDraft } = entry;
  const typing = draft.first !== "" || draft.second !== "";
  const marks = marksOf(sheet).map((m) => [MARK_KEYS[m], () => entry.mark(m)] as const);
  return {
    n: () => setDraft({ ...draft, note: draft.note === "" ? " " : draft.note }),
    arrowdown: () => entry.move(1),
    arrowup: () => entry.move(-1),
    ...(typing ? {} : { arrowright: () => onPasses(entry.target.injector) }),
    "?": onHelp,
    ...(hasPasses(sheet) ? { r: entry.repeat } : {}),
    ...Object.fromEntries(marks),
    ...shapeOf(sheet).acts({ sheet, entry }),
  };
}

export function command(e: Press, on: On): void {
  const act = actsOf(on)[e.key.toLowerCase()];
  if (!act) return;
  e.preventDefault();
  act();
}

/** The keys that figures never have: take back, answer what is asked. True where one was meant. */
export function beyondFigures(
  e: Pick<KeyboardEvent, "key" | "preventDefault" | "ctrlKey" | "metaKey" | "altKey">,
  entry: Entry,
): boolean {
  const held = e.ctrlKey || e.metaKey;
  if (held && e.key.toLowerCase() === "z") {
    e.preventDefault();
    entry.undo();
    return true;
  }
  const typing = entry.draft.first !== "" || entry.draft.second !== "";
  const answer = answerOf(entry.asking, e);
  // What is half typed is emptied first: a question must not write over it.
  const act = e.key === "Escape" && typing ? entry.clear : answer?.act;
  if (act) {
    e.preventDefault();
    act();
  }
  return act !== undefined || held || e.altKey;
}

/** Letters that begin a unit; behind a figure they belong to it, as does whatever follows them. */
const UNIT_BEGINS = /^[bkpmveoaΩµ%/]$/i;

/** A letter that begins the unit of a figure which has none yet. */
function beginsUnit(key: string, text: string): boolean {
  return text !== "" && !hasUnit(text) && UNIT_BEGINS.test(key);
}

/** A letter behind a digit that is part of what is typed: a unit, or a slip that is told in words. */
function ofFigure(key: string, text: string): boolean {
  if (key.length !== 1 || text === "") return false;
  return /[a-zµΩ%]/i.test(text) || UNIT_BEGINS.test(key);
}

/** Keys while a figure is typed. */
export function fieldKey(
  e: KeyboardEvent<HTMLInputElement>,
  field: "first" | "second",
  on: On,
): void {
  const { sheet, entry } = on;
  const { draft, firstField, secondField } = entry;
  if (beyondFigures(e, entry)) return;
  if (e.key === "Enter" && e.shiftKey && draft.first === "") return;
  if (e.key === "Enter") {
    e.preventDefault();
    const short = draft.second === "" && draft.first.trim().length <= 2;
    if (paired(sheet) && field === "first" && short) {
      if (draft.first !== "") secondField.current?.focus();
    } else entry.submit();
  } else if (e.key === " ") {
    e.preventDefault();
    const two = sheet.entry.figures.length > 1;
    if (two && field === "first" && draft.first !== "") secondField.current?.focus();
  } else if (e.key === "Backspace" && field === "second" && draft.second === "") {
    e.preventDefault();
    firstField.current?.focus();
  } else if (field === "second" && draft.second === "" && beginsUnit(e.key, draft.first)) {
    // A space stood between the first figure and its unit.
    e.preventDefault();
    entry.setDraft({ ...draft, first: draft.first + e.key });
    firstField.current?.focus();
  } else if (!ofFigure(e.key, draft[field])) command(e, on);
}
