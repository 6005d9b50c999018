/** What is noted in words rather than read off a gauge: the walk-round, and the pump's sound. */
import { useState } from "react";
import type { SheetView } from "../../api/client";
import { changeTold, useSheetChange } from "../../lib/store";
import { Trouble } from "../../ui/parts";

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
function useNote(sheet: SheetView) {
  const change = useSheetChange(sheet);
  const trouble = <Trouble text={changeTold(change)} />;
  type Texts = Record<string, string>;
  const put = (texts: Texts | ((now: SheetView) => Texts)) =>
    change.mutate((now) => ({ put: typeof texts === "function" ? texts(now) : texts }));
  return { put, trouble };
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

export function WalkSheet({ sheet }: { sheet: SheetView }) {
  const { put, trouble } = useNote(sheet);
  const form = sheet.form;
  if (!form) return null;
  const toggle = (code: string) =>
    put((now) => {
      const noted = now.form?.complaint ?? [];
      const rest = noted.filter((c) => c !== code && (code === "none") === (c === "none"));
      return { complaint: (noted.includes(code) ? rest : [...rest, code]).join(" ") };
    });
  return (
    <div className="rounded-lg border border-hair bg-sheet p-4">
      <fieldset className="mb-4">
        <legend className="label mb-1">Complaint, as many as fit</legend>
        <div className="flex flex-wrap gap-1">
          {form.complaints.map((c, n) => (
            <button
              key={c.code}
              type="button"
              autoFocus={n === 0}
              aria-pressed={form.complaint.includes(c.code)}
              className="choice"
              onClick={() => toggle(c.code)}
            >
              {c.label}
            </button>
          ))}
        </div>
      </fieldset>
      <Choice
        name="Vacuum hose at the regulator: look into it"
        value={form.hose}
        options={[
          ["dry", "dry"],
          ["damp", "a little damp"],
          ["wet", "wet with fuel"],
        ]}
        onPick={(hose) => put({ hose })}
      />
      <Choice
        name="Connectors and clips at the injectors"
        value={form.connectors}
        options={[
          ["good", "all home"],
          ["loose", "loose"],
          ["broken", "a clip is broken"],
        ]}
        onPick={(connectors) => put({ connectors })}
      />
      <Line
        label="Codes, with a space between"
        value={form.codes.join(" ")}
        onKeep={(codes) => put({ codes: codes.toUpperCase() })}
      />
      <Line
        label="What else was seen: hoses cracked, marks of fuel, who was here before"
        value={form.note}
        onKeep={(note) => put({ note })}
      />
      {trouble}
    </div>
  );
}

interface LineProps {
  label: string;
  value: string;
  onKeep: (text: string) => void;
}

/** A line of text that is kept when it is left, or with Enter. */
function Line({ label, value, onKeep }: LineProps) {
  const [typed, setTyped] = useState<string | null>(null);
  const text = typed ?? value;
  const keep = () => {
    if (typed !== null && typed.trim() !== value) onKeep(typed.trim());
    setTyped(null);
  };
  return (
    <label className="mb-3 block">
      <span className="label">{label}</span>
      <input
        className="field"
        maxLength={300}
        value={text}
        onChange={(e) => setTyped(e.target.value)}
        onBlur={keep}
        onKeyDown={(e) => {
          if (e.key === "Enter") keep();
        }}
      />
    </label>
  );
}
