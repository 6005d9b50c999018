/** One figure: with its sign where it has one, a spray beside it where it is looked at. */
import { Knob } from "../EntryParts";
import { hasPasses, marksOf, nextOf } from "../entry/draft";
import type { Shape, ShapeProps } from "./shape";

/** A figure with its sign turned round. */
function turned(text: string): string {
  return text.startsWith("-") ? text.slice(1) : `-${text.replace(/^\+/, "")}`;
}

const MARKS = {
  none: ["X", "no response"],
  over: ["O", "over: it runs off the instrument"],
} as const;

function Knobs({ sheet, entry }: ShapeProps) {
  const { draft, setDraft, firstField } = entry;
  const { sprays, signed } = sheet.entry;
  const put = (change: Partial<typeof draft>) => {
    setDraft({ ...draft, ...change });
    firstField.current?.focus();
  };
  return (
    <>
      {sprays.length > 0 && (
        <Knob
          cap="S"
          words={draft.spray ? `spray ${draft.spray}` : "spray"}
          pressed={draft.spray !== ""}
          act={() => put({ spray: nextOf(sprays, draft.spray) })}
        />
      )}
      {signed && <Knob cap="±" words="sign" act={() => put({ first: turned(draft.first) })} />}
    </>
  );
}

export const value: Shape = {
  hint: () => "Type the figure, then Enter; the cursor goes on in the order of reach.",
  keys: (sheet) => {
    const made: [string, string][] = [["12.4 Enter", "the figure, kept at once"]];
    if (hasPasses(sheet)) made.push(["R", "repeat: one more pass of this injector"]);
    for (const mark of marksOf(sheet)) made.push([...MARKS[mark]]);
    if (sheet.entry.sprays.length > 0) made.push(["S", "the spray: even, streaky, stream, none"]);
    return made;
  },
  acts: ({ sheet, entry }) => {
    const { draft, setDraft } = entry;
    const { sprays } = sheet.entry;
    if (sprays.length === 0) return {};
    return { s: () => setDraft({ ...draft, spray: nextOf(sprays, draft.spray) }) };
  },
  Knobs,
};
