/** The walk-round: complaint, hose, connectors, codes, and what else was seen. */
import { useState } from "react";
import type { SheetView } from "../../api/client";
import { Choice, useNote } from "./Noted";

export default function WalkSheet({ sheet }: { sheet: SheetView }) {
  const { put, trouble } = useNote(sheet);
  const form = sheet.form;
  if (!form) return null;
  return (
    <div className="rounded-lg border border-hair bg-sheet p-4">
      <Complaints form={form} put={put} />
      {form.looked_at.includes("hose") && (
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
      )}
      {form.looked_at.includes("connectors") && (
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
      )}
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

type Form = NonNullable<SheetView["form"]>;

interface ComplaintsProps {
  form: Form;
  put: ReturnType<typeof useNote>["put"];
}

/** What the driver complains of; “none” and a complaint exclude each other. */
function Complaints({ form, put }: ComplaintsProps) {
  const toggle = (code: string) =>
    put((now) => {
      const noted = now.form?.complaint ?? [];
      const rest = noted.filter((c) => c !== code && (code === "none") === (c === "none"));
      return { complaint: (noted.includes(code) ? rest : [...rest, code]).join(" ") };
    });
  return (
    <fieldset className="mb-4">
      {form.told !== "" && (
        <p className="mb-2 text-sm text-soft">
          Told when the job was opened: <b className="text-ink">{form.told}</b>
        </p>
      )}
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
        data-paper
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
