/** The keys of the entry line: letters are commands, because figures have none. */
import type { KeyboardEvent } from "react";
import type { SheetView } from "../../api/client";
import { hasPasses, marksOf } from "./entry/draft";
import { shapeOf } from "./shapes";
import type { Entry } from "./useEntry";

type Press = Pick<KeyboardEvent, "key" | "preventDefault">;

interface On {
  sheet: SheetView;
  entry: Entry;
  onHelp: () => void;
}

const MARK_KEYS = { none: "x", over: "o" } as const;

/** What each letter and arrow does, from anywhere on the sheet. */
function actsOf({ sheet, entry, onHelp }: On): Record<string, () => void> {
  const { draft, setDraft } = entry;
  const marks = marksOf(sheet).map((m) => [MARK_KEYS[m], () => entry.mark(m)] as const);
  return {
    n: () => setDraft({ ...draft, note: draft.note === "" ? " " : draft.note }),
    arrowdown: () => entry.move(1),
    arrowup: () => entry.move(-1),
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

/** Keys while a figure is typed. */
export function fieldKey(
  e: KeyboardEvent<HTMLInputElement>,
  field: "first" | "second",
  on: On,
): void {
  const { sheet, entry } = on;
  const { draft, firstField, secondField } = entry;
  if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === "z") {
    e.preventDefault();
    entry.undo();
  } else if (e.ctrlKey || e.metaKey || e.altKey) return;
  else if (e.key === "Enter") {
    e.preventDefault();
    const short = draft.second === "" && draft.first.trim().length <= 2;
    if (sheet.entry.shape === "burst" && field === "first" && short) {
      if (draft.first !== "") secondField.current?.focus();
    } else entry.submit();
  } else if (e.key === " ") {
    e.preventDefault();
    const two = sheet.entry.figures.length > 1;
    if (two && field === "first" && draft.first !== "") secondField.current?.focus();
  } else if (e.key === "Backspace" && field === "second" && draft.second === "") {
    e.preventDefault();
    firstField.current?.focus();
  } else command(e, on);
}
