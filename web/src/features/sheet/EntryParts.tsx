/** Parts of every entry line: a figure's box, a knob, the number pad, a question, a note. */
import type { KeyboardEvent, RefObject } from "react";
import type { Asking } from "./entry/refused";

interface BoxProps {
  name: string;
  unit: string;
  value: string;
  field: RefObject<HTMLInputElement | null>;
  pad: boolean;
  wide?: boolean;
  onFocus: () => void;
  onChange: (text: string) => void;
  onKey: (e: KeyboardEvent<HTMLInputElement>) => void;
}

/** One figure, and its unit where another than the shown one is typed. Nothing typed is swallowed. */
export function Box(props: BoxProps) {
  const { name, unit, value, field, pad, wide, onFocus, onChange, onKey } = props;
  return (
    <label
      className={`block ${wide ? "w-32" : "w-22"} grow-0 rounded-lg bg-field px-1.5 py-1 text-ink focus-within:outline-3 focus-within:outline-chalk`}
    >
      <span className="block truncate text-sm text-soft">
        {name}, {unit}
      </span>
      <input
        ref={field}
        className="figure w-full bg-transparent text-2xl font-bold outline-none"
        inputMode={pad ? "none" : "decimal"}
        autoComplete="off"
        enterKeyHint="next"
        maxLength={16}
        value={value}
        onFocus={onFocus}
        onChange={(e) => onChange(e.target.value.replace(/\s/g, ""))}
        onKeyDown={onKey}
      />
    </label>
  );
}

export function Knob(props: { cap: string; words: string; pressed?: boolean; act: () => void }) {
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

/** A question about what was typed. It takes neither the focus nor a key that figures have. */
export function Ask({ asking, then }: { asking: Asking; then: () => void }) {
  return (
    <section aria-label="Question" className="mb-2 border-b border-slabsoft pb-2">
      <p role="alert" className="mb-2 border-l-4 border-chalk pl-3 text-lg font-bold leading-snug">
        {asking.text}
      </p>
      <div className="flex flex-wrap gap-2">
        {asking.options.map((option) => (
          <button
            key={option.label}
            type="button"
            className="min-h-12 rounded-lg bg-field px-4 font-bold text-ink"
            onClick={() => {
              option.act();
              then();
            }}
          >
            {option.label}{" "}
            {option.key !== "" && (
              <kbd className="figure rounded border border-hair px-1.5 text-xs max-sm:hidden">
                {option.key === "Escape" ? "Esc" : option.key}
              </kbd>
            )}
          </button>
        ))}
      </div>
    </section>
  );
}

const PAD = ["7", "8", "9", "4", "5", "6", "1", "2", "3", ".", "0", "back"];

export function Pad({ press, last = "next" }: { press: (key: string) => void; last?: string }) {
  const keep = (e: { preventDefault: () => void }) => e.preventDefault();
  return (
    <div
      className="grid shrink-0 grid-cols-[1fr_1fr_1fr_1.2fr] gap-1.5 max-md:mt-2 max-md:max-w-md md:w-72 short:max-md:hidden"
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
        {last}
      </button>
    </div>
  );
}

interface NoteProps {
  label: string;
  value: string;
  numeric?: boolean;
  onChange: (text: string) => void;
  onDone: (cancelled: boolean) => void;
}

/** One line of text, or one more figure, that Enter ends and Escape throws away. */
export function NoteField({ label, value, numeric, onChange, onDone }: NoteProps) {
  return (
    <label className="mt-2 block">
      <span className="text-sm text-slabsoft">{label}</span>
      <input
        // What comes back with its row takes no key from the figures.
        autoFocus={value === ""}
        className="field"
        maxLength={numeric ? 12 : 500}
        inputMode={numeric ? "decimal" : "text"}
        value={value}
        onChange={(e) => onChange(e.target.value)}
        onKeyDown={(e) => {
          if (e.key === "Enter" || e.key === "Escape") {
            e.preventDefault();
            e.stopPropagation();
            onDone(e.key === "Escape");
          }
        }}
      />
    </label>
  );
}
