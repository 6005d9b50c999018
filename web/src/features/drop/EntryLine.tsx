/** The entry line: always in the same place, big enough to read from the driver's seat. */
import { useEffect, useRef, useState, type KeyboardEvent, type RefObject } from "react";
import type { SheetView } from "../../api/client";
import type { Draft } from "./entry";
import type { Asking, Entry } from "./useEntry";

interface Props {
  sheet: SheetView;
  entry: Entry;
  onHelp: () => void;
}

export function EntryLine({ sheet, entry, onHelp }: Props) {
  const [pad, setPad] = useState(() => window.matchMedia("(pointer: coarse)").matches);
  const unit = sheet.conditions.gauge.unit;
  const { draft, setDraft, target, row } = entry;
  const again = (row?.readings.length ?? 0) > 0;
  const put = (change: Partial<Draft>) => setDraft({ ...draft, ...change });
  const [active, setActive] = useState<"first" | "second">("first");
  const { firstField, asking } = entry;
  const asked = useRef(false);

  // When a question is answered, typing goes on where it was.
  useEffect(() => {
    if (asked.current && !asking) firstField.current?.focus();
    asked.current = asking !== null;
  }, [asking, firstField]);

  const press = (key: string) => {
    if (key === "next") {
      if (active === "first" && draft.first !== "") {
        setActive("second");
        if (!pad) entry.secondField.current?.focus();
        if (draft.second !== "") entry.submit();
        else if (draft.first.length > 3) entry.submit();
      } else {
        entry.submit();
        setActive("first");
      }
      return;
    }
    const text = draft[active];
    put({ [active]: key === "back" ? text.slice(0, -1) : text + key });
  };

  return (
    <section
      aria-label="Entry"
      className="sticky bottom-0 z-20 mt-3 rounded-lg bg-slab p-3 text-slabink"
    >
      {entry.asking && <Ask asking={entry.asking} />}
      <div className={`flex flex-wrap items-center gap-2 ${entry.asking ? "hidden" : ""}`}>
        <p className="w-15">
          <span className="figure block text-3xl font-bold leading-none">{target.injector}</span>
          <span className="text-sm text-slabsoft">
            {target.repeat || !again ? `pass ${entry.pass}` : `has ${row?.readings.length ?? 0}`}
          </span>
        </p>
        <Box
          name="first"
          unit={unit}
          value={draft.first}
          field={entry.firstField}
          pad={pad}
          onFocus={() => setActive("first")}
          onChange={(first) => put({ first })}
          onKey={(e) => keys(e, "first", entry, onHelp)}
        />
        <Box
          name="second"
          unit={unit}
          value={draft.second}
          field={entry.secondField}
          pad={pad}
          onFocus={() => setActive("second")}
          onChange={(second) => put({ second })}
          onKey={(e) => keys(e, "second", entry, onHelp)}
        />
        <Knobs entry={entry} pad={pad} setPad={setPad} />
      </div>
      {!entry.asking && draft.note !== "" && <NoteField entry={entry} />}
      <div className="mt-1 flex items-baseline gap-3 text-sm text-slabsoft sm:min-h-6">
        <p aria-live="polite" className="grow">
          {entry.said || <span className="max-sm:hidden">{hint(again && !target.repeat)}</span>}
        </p>
        <button type="button" className="shrink-0 underline max-sm:hidden" onClick={onHelp}>
          all keys ?
        </button>
      </div>
      {pad && !entry.asking && <Pad press={press} />}
    </section>
  );
}

function hint(again: boolean): string {
  return again
    ? "Arrows choose an injector; R repeats this one. Run the engine 10 to 20 s before the next burst."
    : "Type both with a space between, then Enter. One burst per key cycle; then run the engine 10 to 20 s.";
}

/** Keys while a figure is typed: letters are commands, because figures have none. */
function keys(
  e: KeyboardEvent<HTMLInputElement>,
  field: "first" | "second",
  entry: Entry,
  onHelp: () => void,
): void {
  if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === "z") {
    e.preventDefault();
    entry.undo();
    return;
  }
  if (e.ctrlKey || e.metaKey || e.altKey) return;
  if (e.key === "Enter") {
    e.preventDefault();
    if (field === "first" && entry.draft.second === "" && entry.draft.first.trim().length <= 2) {
      if (entry.draft.first !== "") entry.secondField.current?.focus();
    } else entry.submit();
  } else if (e.key === " ") {
    e.preventDefault();
    if (field === "first" && entry.draft.first !== "") entry.secondField.current?.focus();
  } else if (e.key === "Backspace" && field === "second" && entry.draft.second === "") {
    e.preventDefault();
    entry.firstField.current?.focus();
  } else command(e, entry, onHelp);
}

/** The letters and arrows, from anywhere on the sheet. */
export function command(
  e: Pick<KeyboardEvent, "key" | "preventDefault">,
  entry: Entry,
  onHelp: () => void,
): void {
  const { draft, setDraft } = entry;
  const acts: Record<string, () => void> = {
    r: entry.repeat,
    x: entry.noResponse,
    l: () => setDraft({ ...draft, late: !draft.late }),
    b: () => setDraft({ ...draft, buzz: !draft.buzz }),
    n: () => setDraft({ ...draft, note: draft.note === "" ? " " : draft.note }),
    arrowdown: () => entry.move(1),
    arrowup: () => entry.move(-1),
    "?": onHelp,
  };
  const act = acts[e.key.toLowerCase()];
  if (act) {
    e.preventDefault();
    act();
  }
}

interface BoxProps {
  name: "first" | "second";
  unit: string;
  value: string;
  field: RefObject<HTMLInputElement | null>;
  pad: boolean;
  onFocus: () => void;
  onChange: (text: string) => void;
  onKey: (e: KeyboardEvent<HTMLInputElement>) => void;
}

/** One figure. Only what can be a figure is let in; two pasted at once are split. */
function Box({ name, unit, value, field, pad, onFocus, onChange, onKey }: BoxProps) {
  return (
    <label className="block w-24 grow-0 rounded-lg bg-field px-3 py-1 text-ink focus-within:outline-3 focus-within:outline-chalk">
      <span className="block text-sm text-soft">
        {name}, {unit}
      </span>
      <input
        ref={field}
        className="figure w-full bg-transparent text-2xl font-bold outline-none"
        inputMode={pad ? "none" : "decimal"}
        autoComplete="off"
        enterKeyHint="next"
        maxLength={12}
        value={value}
        onFocus={onFocus}
        onChange={(e) => onChange(e.target.value.replace(/[^\d.,]/g, ""))}
        onKeyDown={onKey}
      />
    </label>
  );
}

interface KnobsProps {
  entry: Entry;
  pad: boolean;
  setPad: (pad: boolean) => void;
}

/** The touch twin of every key. */
function Knobs({ entry, pad, setPad }: KnobsProps) {
  const { draft, setDraft } = entry;
  const set = (change: Partial<Draft>) => {
    setDraft({ ...draft, ...change });
    entry.firstField.current?.focus();
  };
  return (
    <div className="flex gap-1 max-sm:-mx-1 max-sm:overflow-x-auto max-sm:px-1 sm:flex-wrap">
      <Knob cap="⏎" words="keep" act={() => entry.submit()} />
      <Knob cap="R" words="repeat" act={entry.repeat} />
      <Knob cap="X" words="none" act={entry.noResponse} />
      <Knob cap="L" words="late" pressed={draft.late} act={() => set({ late: !draft.late })} />
      <Knob cap="B" words="buzz" pressed={draft.buzz} act={() => set({ buzz: !draft.buzz })} />
      <Knob cap="N" words="note" act={() => set({ note: draft.note || " " })} />
      <Knob cap="^Z" words="undo" act={entry.undo} />
      <Knob cap="123" words="pad" pressed={pad} act={() => setPad(!pad)} />
    </div>
  );
}

function Knob(props: { cap: string; words: string; pressed?: boolean; act: () => void }) {
  return (
    <button
      type="button"
      className="entry-knob shrink-0"
      {...(props.pressed === undefined ? {} : { "aria-pressed": props.pressed })}
      onClick={props.act}
    >
      <b className="figure">{props.cap}</b> {props.words}
    </button>
  );
}

function NoteField({ entry }: { entry: Entry }) {
  return (
    <label className="mt-2 block">
      <span className="text-sm text-slabsoft">Note for this burst</span>
      <input
        autoFocus
        className="field"
        maxLength={500}
        value={entry.draft.note.trimStart()}
        onChange={(e) => entry.setDraft({ ...entry.draft, note: e.target.value || " " })}
        onKeyDown={(e) => {
          if (e.key === "Enter" || e.key === "Escape") {
            e.preventDefault();
            e.stopPropagation();
            if (e.key === "Escape") entry.setDraft({ ...entry.draft, note: "" });
            if (entry.draft.first && entry.draft.second) entry.submit();
            else entry.firstField.current?.focus();
          }
        }}
      />
    </label>
  );
}

/** A question about what was typed; its first answer has the focus. */
function Ask({ asking }: { asking: Asking }) {
  const first = useRef<HTMLButtonElement>(null);
  useEffect(() => first.current?.focus(), [asking.text]);
  return (
    <div
      role="alertdialog"
      aria-label="Question"
      aria-describedby="asked"
      className="border-l-4 border-chalk pl-3"
      onKeyDown={(e) => {
        const option = asking.options.find((o) => o.key.toLowerCase() === e.key.toLowerCase());
        if (option && e.key !== "Enter") {
          e.preventDefault();
          e.stopPropagation();
          option.act();
        }
      }}
    >
      <p id="asked" className="mb-2 text-lg font-bold">
        {asking.text}
      </p>
      <div className="flex flex-wrap gap-2">
        {asking.options.map((option, n) => (
          <button
            key={option.label}
            ref={n === 0 ? first : null}
            className="min-h-12 rounded-lg bg-field px-4 font-bold text-ink"
            onClick={option.act}
          >
            {option.label}{" "}
            <kbd className="figure rounded border border-hair px-1.5 text-xs">
              {option.key === "Escape" ? "Esc" : option.key}
            </kbd>
          </button>
        ))}
      </div>
    </div>
  );
}

const PAD = ["7", "8", "9", "4", "5", "6", "1", "2", "3", ".", "0", "back"];

function Pad({ press }: { press: (key: string) => void }) {
  const keep = (e: { preventDefault: () => void }) => e.preventDefault();
  return (
    <div
      className="mt-2 grid max-w-md grid-cols-[1fr_1fr_1fr_1.2fr] gap-1.5"
      aria-label="Number pad"
      role="group"
    >
      <div className="col-span-3 grid grid-cols-3 gap-1.5">
        {PAD.map((key) => (
          <button
            key={key}
            type="button"
            className="figure min-h-12 rounded-lg bg-field text-xl font-bold text-ink"
            aria-label={key === "back" ? "delete the last digit" : key === "." ? "point" : key}
            onPointerDown={keep}
            onClick={() => press(key)}
          >
            {key === "back" ? "⌫" : key}
          </button>
        ))}
      </div>
      <button
        type="button"
        className="rounded-lg bg-chalk text-lg font-bold text-[#2a2e33]"
        onPointerDown={keep}
        onClick={() => press("next")}
      >
        next
      </button>
    </div>
  );
}
