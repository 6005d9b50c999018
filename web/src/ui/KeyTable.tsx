/** Keys, and what each does. */
import { PRACTISING } from "../lib/base";
import { Kbd } from "./parts";

/** In practice nobody says what comes next, and nothing is repaired. */
const NOT_IN_PRACTICE = new Set(["J", "Shift Enter"]);

export function KeyTable({ keys }: { keys: [key: string, what: string][] }) {
  const shown = PRACTISING ? keys.filter(([key]) => !NOT_IN_PRACTICE.has(key)) : keys;
  return (
    <dl className="grid grid-cols-[auto_1fr] gap-x-4 gap-y-2">
      {shown.map(([key, what]) => (
        <div key={key} className="contents">
          <dt>
            <Kbd>{key}</Kbd>
          </dt>
          <dd>{what}</dd>
        </div>
      ))}
    </dl>
  );
}
