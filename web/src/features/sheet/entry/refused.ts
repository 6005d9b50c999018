/** What the server would not keep: the person decides; until then it stays in the browser. */
import { outbox } from "../../../lib/store";
import { asAnotherPass, heading, mayGoAgain, shownOf, takesAnotherPass } from "../../../lib/aside";
import type { WaitingReading } from "./draft";

/** An answer that works on what waits, not on the entry line. */
export interface Option {
  key: string;
  label: string;
  act: () => void;
}

export interface Asking {
  text: string;
  options: Option[];
}

/** The pair or the figure that the server suggests; null where it suggests none. */
function meant(suggestion: string): { label: string; change: object } | null {
  const parts = suggestion.split(" ");
  if (!parts.every((p) => /^[\d.]+$/.test(p)) || parts.length > 2) return null;
  const [first = null, second] = parts;
  return {
    label: `Use ${suggestion}`,
    change: second === undefined ? { value: first } : { first, second },
  };
}

/** What can be done with a reading that stepped aside; `change` puts it back into the entry line. */
export function refusedAsking(item: WaitingReading, change?: () => void): Asking {
  const { reading, problems, seq } = item;
  const amend = (change: object) => () => void outbox.amend(seq, change);
  const options: Option[] = [];
  const other = meant(problems[0]?.suggestion ?? "");
  if (other) options.push({ key: "Enter", label: other.label, act: amend(other.change) });
  if (problems.every((p) => p.confirmable)) {
    const confirmed = [...reading.confirmed, ...problems.map((p) => p.code)];
    options.push({ key: "M", label: "I meant it", act: amend({ confirmed }) });
  }
  if (mayGoAgain(item)) {
    options.push({ key: "S", label: "Send it again", act: () => void outbox.again(seq) });
  }
  if (change) options.push({ key: "C", label: "Change it", act: change });
  if (takesAnotherPass(item)) {
    options.push({ key: "A", label: "Keep it as another pass", act: amend(asAnotherPass) });
  }
  options.push({ key: "T", label: "Throw mine away", act: () => void outbox.drop(seq) });
  const where = reading.injector ? `${reading.injector}, ` : "";
  return { text: `${where}${shownOf(reading)}: ${heading(problems)}`, options };
}
