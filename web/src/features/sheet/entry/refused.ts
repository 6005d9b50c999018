/**
 * What is asked about, by this page or by the server: the person decides; until then the reading
 * stays in the browser. Every answer has a key that no figure and no command of the entry line has.
 */
import type { ReadingIn } from "../../../api/client";
import { outbox } from "../../../lib/store";
import { asAnotherPass, heading, mayGoAgain, shownOf, takesAnotherPass } from "../../../lib/aside";
import { WHICH } from "./asking";
import { WHOSE } from "./firing";
import type { WaitingReading } from "./draft";

/** An answer to a question; one without a key is a button only. */
export interface Option {
  key: string;
  label: string;
  act: () => void;
}

export interface Asking {
  text: string;
  options: Option[];
}

const AS_TYPED = "Ctrl+Enter";
const OTHERWISE = "Alt+Enter";
const LEAVE = "Escape";

/** Which answer a key gives, if any. */
export function answerOf(
  asking: Asking | null,
  e: Pick<KeyboardEvent, "key" | "ctrlKey" | "metaKey" | "altKey">,
): Option | undefined {
  const held = e.ctrlKey || e.metaKey ? "Ctrl+" : e.altKey ? "Alt+" : "";
  return asking?.options.find((o) => o.key === held + e.key);
}

/** The pair or the figure that is suggested; null where none is. */
function meant(suggestion: string, reading: ReadingIn) {
  const parts = suggestion.split(" ");
  if (!parts.every((p) => /^[\d.]+$/.test(p)) || parts.length > 2) return null;
  const [first = null, second] = parts;
  const two = second !== undefined || reading.first !== null;
  return {
    label: `Use ${suggestion}`,
    change: two ? { first, second: second ?? reading.second ?? null } : { value: first },
  };
}

type Amend = (change: Partial<ReadingIn>) => () => void;

/** One more pass, or in the place of the one that is there. */
function whichOptions({ problems: [problem] }: WaitingReading, amend: Amend): Option[] {
  const number = Number(problem?.path ?? 0);
  return [
    { key: AS_TYPED, label: `Add pass ${number + 1}`, act: amend({}) },
    {
      key: OTHERWISE,
      label: `Correct pass ${number}`,
      act: amend({ replaces: problem?.value ?? null }),
    },
  ];
}

/** Of the burst that was just kept, or of the one that comes. */
function whoseOptions(item: WaitingReading, amend: Amend, forNext: () => void): Option[] {
  const { reading, problems } = item;
  return [
    { key: AS_TYPED, label: `Injector ${reading.injector}`, act: amend({}) },
    { key: OTHERWISE, label: `Injector ${problems[0]?.path ?? ""}`, act: forNext },
  ];
}

function options(item: WaitingReading, amend: Amend): Option[] {
  const { reading, problems, seq } = item;
  if (problems[0]?.code === WHICH) return whichOptions(item, amend);
  const made: Option[] = [];
  const other = meant(problems[0]?.suggestion ?? "", reading);
  if (other) made.push({ key: OTHERWISE, label: other.label, act: amend(other.change) });
  if (problems.every((p) => p.confirmable)) {
    const confirmed = [...reading.confirmed, ...problems.map((p) => p.code)];
    made.push({ key: AS_TYPED, label: "Keep as typed", act: amend({ confirmed }) });
  } else if (takesAnotherPass(item)) {
    made.push({ key: AS_TYPED, label: "Keep it as another pass", act: amend(asAnotherPass) });
  } else if (mayGoAgain(item)) {
    made.push({ key: AS_TYPED, label: "Send it again", act: () => void outbox.again(seq) });
  }
  return made;
}

/**
 * What stands in question, and its answers; `called` is its row, `count` how many stand. `typeAgain`
 * puts it back into the entry line; `forNext` leaves what was told beside it for the burst that comes.
 */
export function askingAbout(
  item: WaitingReading,
  called: string,
  count: number,
  typeAgain: () => void,
  forNext: () => void = typeAgain,
): Asking {
  const { reading, problems, seq } = item;
  const amend: Amend = (change) => () => void outbox.amend(seq, change);
  const shown = shownOf(reading);
  // What stands before the colon need not be told once more.
  const untold = problems.map((p) => (shown.includes(p.value) ? { ...p, value: "" } : p));
  const code = problems[0]?.code;
  const asked = code === WHICH ? (problems[0]?.rule ?? "") : heading(untold);
  const more = count > 1 ? ` (1 of ${count} questions)` : "";
  const whose = code === WHOSE;
  return {
    text: whose ? `${asked}${more}` : `${called}, ${shown}: ${asked}${more}`,
    options: [
      ...(whose ? whoseOptions(item, amend, forNext) : options(item, amend)),
      { key: LEAVE, label: "Type it again", act: typeAgain },
      { key: "", label: "Throw it away", act: () => void outbox.drop(seq) },
    ],
  };
}
