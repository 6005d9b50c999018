/** What is noted in words rather than read off a gauge: a choice of words, and the pump's sound. */
import type { SheetView } from "../../api/client";
import { changeTold, useSheetChange } from "../../lib/store";
import { useKey } from "../../lib/keys";
import { Kbd, Trouble } from "../../ui/parts";

interface ChoiceProps {
  name: string;
  value: string;
  options: [code: string, label: string][];
  onPick: (code: string) => void;
}

/** One of a few words, as a row of buttons that the arrows walk along. */
export function Choice({ name, value, options, onPick }: ChoiceProps) {
  return (
    <fieldset className="mb-3">
      <legend className="label mb-1">{name}</legend>
      <div className="flex flex-wrap gap-1">
        {options.map(([code, label]) => (
          <button
            key={code}
            type="button"
            aria-pressed={value === code}
            className="choice"
            onClick={() => onPick(value === code ? "" : code)}
          >
            {label}
          </button>
        ))}
      </div>
    </fieldset>
  );
}

/** Change what is noted, from the version that is shown. */
export function useNote(sheet: SheetView) {
  const change = useSheetChange(sheet);
  const trouble = <Trouble text={changeTold(change)} />;
  type Texts = Record<string, string>;
  const put = (texts: Texts | ((now: SheetView) => Texts)) =>
    change.mutate((now) => ({ put: typeof texts === "function" ? texts(now) : texts }));
  return { put, trouble };
}

/** Humps that are only looked at: all even in one key, or whose is low. */
export function Looked({ sheet }: { sheet: SheetView }) {
  const { put, trouble } = useNote(sheet);
  const looked = sheet.form?.looked;
  const low = sheet.form?.low_by_eye ?? [];
  // A cylinder without an injector of its own is a row called by its number.
  const numbers = sheet.rows.map((r) => r.cylinder || Number(/\d+$/.exec(r.injector)?.[0]));
  const cylinders = [...new Set(numbers)];
  const note = (now: number[], seen = true) =>
    put({ "by_eye.looked": seen ? "yes" : "", "by_eye.low": now.join(" ") });
  const even = looked === true && low.length === 0;
  // A figure says more than an eye.
  const read = sheet.rows.some((r) => r.count > 0);
  const allEven = () => note([], !even);
  useKey("a", allEven, () => !read);
  if (read && !looked) return null;
  return (
    <>
      <fieldset className="mb-3">
        <legend className="label mb-1">By eye, where no figures are read</legend>
        <div className="flex flex-wrap gap-1">
          <button type="button" className="choice gap-2" aria-pressed={even} onClick={allEven}>
            all even <Kbd>A</Kbd>
          </button>
          {cylinders.map((n) => (
            <button
              key={n}
              type="button"
              className="choice"
              aria-pressed={low.includes(n)}
              onClick={() => note(low.includes(n) ? low.filter((x) => x !== n) : [...low, n])}
            >
              low on {n}
            </button>
          ))}
        </div>
      </fieldset>
      {trouble}
    </>
  );
}

export function PumpHeard({ sheet }: { sheet: SheetView }) {
  const { put, trouble } = useNote(sheet);
  return (
    <>
      <Choice
        name="Key on: what is heard of the pump"
        value={sheet.form?.pump ?? ""}
        options={[
          ["runs", "it runs"],
          ["clicks_only", "the relay clicks only"],
          ["silent", "nothing"],
        ]}
        onPick={(pump) => put({ pump })}
      />
      {trouble}
    </>
  );
}
