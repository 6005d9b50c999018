/** Every key that works on a sheet. */
import type { SheetView } from "../../api/client";
import { PRACTISING } from "../../lib/base";
import { KeyTable } from "../../ui/KeyTable";
import { hasSpells } from "./asks";
import { shapeOf } from "./shapes";

const ALWAYS: [string, string][] = [
  ["N", "a note for this reading"],
  ["↑ ↓", "choose a row"],
  ["→", "its passes: correct, mark, note, take back"],
  ["Ctrl Z", "take back the last thing typed here"],
  ["Ctrl Enter", "keep what is asked about as it was typed"],
  ["Alt Enter", "take what is suggested"],
  ["Esc", "empty the line; then: type again what is asked about"],
  ["Space, then arrows", "on a row's handle: move it in the order of reach"],
  ["[ ]", "the sheet before, the sheet after"],
  ["V", "the verdict"],
  ["J", "the repair"],
  ["H", "how it is done"],
  ["Shift Enter", "go where the next step is"],
  ["G, then Alt 1 to 9", "a gauge from the shelf"],
  ["W, then Alt 1 to 9", "a window from the shelf"],
  ["U, then Alt 1 to 9", "a rule of the shop"],
  ["I", "let the instrument fill it in; again: stop"],
  ["/", "find a job"],
  ["?", "this sheet"],
];

/** In practice there is a bench beside the sheet. */
const PRACTICE: [string, string][] = [
  ["Q", "at the engine: look and read, or do the next injector"],
];

function keysOf(sheet: SheetView): [string, string][] {
  const made = shapeOf(sheet).keys(sheet);
  const clock: [string, string][] = hasSpells(sheet)
    ? [["K", "the clock: a cranking spell begins or ends, or the time of idling"]]
    : [];
  // A row that takes one word has no note of its own.
  const always = ALWAYS.filter(([key]) => key !== "N" || sheet.entry.words.length === 0);
  return [...(PRACTISING ? PRACTICE : []), ...made, ...clock, ...always];
}

export default function KeyList({ sheet }: { sheet: SheetView }) {
  return <KeyTable keys={keysOf(sheet)} />;
}
