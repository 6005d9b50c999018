/** One of a few words, each with a letter. */
import { Knob } from "../EntryParts";
import type { Shape, ShapeProps } from "./shape";

function Knobs({ sheet, entry }: ShapeProps) {
  return sheet.entry.words.map((w) => (
    <Knob key={w.code} cap={w.key.toUpperCase()} words={w.label} act={() => entry.word(w.code)} />
  ));
}

export const words: Shape = {
  hint: (sheet) => {
    const letters = sheet.entry.words.map((w) => `${w.key.toUpperCase()} ${w.label}`).join(", ");
    return `Press the letter: ${letters}. The cursor goes on by itself.`;
  },
  keys: (sheet) => sheet.entry.words.map((w) => [w.key.toUpperCase(), w.label]),
  acts: ({ sheet, entry }) =>
    Object.fromEntries(sheet.entry.words.map((w) => [w.key, () => entry.word(w.code)])),
  Knobs,
};
