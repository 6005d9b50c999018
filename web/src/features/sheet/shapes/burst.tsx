/** Two pressures, before and after a burst: read late, a buzz, the pressure at which it fires. */
import { Knob } from "../EntryParts";
import type { Draft } from "../entry/draft";
import type { Entry } from "../useEntry";
import type { Shape, ShapeProps } from "./shape";

function changes({ draft, setDraft }: Entry) {
  const put = (change: Partial<Draft>) => setDraft({ ...draft, ...change });
  return {
    late: () => put({ late: !draft.late }),
    buzz: () => put({ buzz: !draft.buzz }),
    fires: () => put({ fires: draft.fires === null ? " " : null }),
  };
}

function Knobs({ entry }: ShapeProps) {
  const { draft, firstField } = entry;
  const { late, buzz, fires } = changes(entry);
  const then = (act: () => void) => () => {
    act();
    firstField.current?.focus();
  };
  return (
    <>
      <Knob cap="L" words="late" pressed={draft.late} act={then(late)} />
      <Knob cap="B" words="buzz" pressed={draft.buzz} act={then(buzz)} />
      <Knob cap="F" words="fires" pressed={draft.fires !== null} act={then(fires)} />
    </>
  );
}

export const burst: Shape = {
  hint: (sheet, again) => {
    const then = sheet.starts ? "run the engine 10 to 20 s" : "clear the cylinder";
    return again
      ? `Arrows choose an injector; R repeats this one. First ${then}.`
      : `Type both with a space between, then Enter. One burst per key cycle; then ${then}.`;
  },
  keys: (sheet) => [
    ["50 26 Enter", "first and second pressure, kept at once; 3.45bar with a unit of its own"],
    ["R", "repeat: one more pass of this injector"],
    ["X", "no response: no drop, no click"],
    ["L", "the second pressure was read late"],
    ["B", "before the figures: a buzz was heard, but no clean click"],
    ["F", "it opened only once the rail had bled down: at which pressure"],
    [
      "E",
      sheet.starts
        ? "the engine ran: raw fuel is burnt, the key was turned"
        : "the cylinders were cleared of raw fuel, the key was turned",
    ],
  ],
  acts: ({ entry }) => {
    const { late, buzz, fires } = changes(entry);
    return { l: late, b: buzz, f: fires };
  },
  Knobs,
};
