/** The conditions of a sheet, each a knob that opens to change it. The server says which there are. */
import { useQuery } from "@tanstack/react-query";
import { useEffect, useState, type ReactNode } from "react";
import { type FieldView, type KnobView, type SheetChange, type SheetView } from "../../api/client";
import { PRESSURES } from "../shelf/kinds";
import { changeTold, gaugesQuery, shelfQuery, useSheetChange } from "../../lib/store";
import { Chip, Text, Trouble } from "../../ui/parts";
import { RuleForm } from "./RuleForm";

export type Change = Omit<SheetChange, "version">;
export type Save = (change: Change) => void;

/** Letters that open a knob; a digit then takes from the shelf. */
const LETTERS: Record<string, string> = { g: "Gauge", u: "Rule" };

export function Conditions({ sheet }: { sheet: SheetView }) {
  const [open, setOpen] = useState<string | null>(null);
  const rule = sheet.rules.find((r) => r.chosen);
  const window_ = sheet.knobs.find((k) => k.window)?.name;

  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      const at = e.target instanceof HTMLElement ? e.target : null;
      if (e.ctrlKey || e.metaKey || e.altKey || at?.closest("[role=dialog], [role=alertdialog]"))
        return;
      if (e.defaultPrevented || at?.closest("select, textarea")) return;
      // While a seat is held, its letters say what the tip did.
      if (document.querySelector("section[aria-label=Seat]")) return;
      if (at instanceof HTMLInputElement && at.inputMode !== "decimal" && at.inputMode !== "none")
        return;
      const letter = e.key.toLowerCase();
      const typed = sheet.entry.words.some((w) => w.key === letter);
      const wanted = letter === "w" ? window_ : LETTERS[letter];
      const there =
        wanted === "Gauge"
          ? sheet.gauge.step !== ""
          : wanted === "Rule"
            ? sheet.rule.code !== ""
            : wanted;
      if (!wanted || !there || typed) return;
      e.preventDefault();
      setOpen(wanted);
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [sheet, window_]);

  const props = { sheet, open, setOpen };
  return (
    <div className="mb-2 flex flex-wrap gap-1.5">
      {sheet.gauge.step !== "" && (
        <Condition
          {...props}
          name="Gauge"
          value={`${sheet.gauge.name || "unnamed"}, ${sheet.gauge.step} ${sheet.gauge.unit}`}
          form={(save) => <GaugeForm sheet={sheet} save={save} />}
        />
      )}
      {sheet.knobs.map((knob) => (
        <Condition
          key={knob.name}
          {...props}
          name={knob.name}
          value={knob.value}
          form={(save) => <KnobForm sheet={sheet} knob={knob} save={save} />}
        />
      ))}
      {sheet.rule.code !== "" && (
        <Condition
          {...props}
          name="Rule"
          value={`${sheet.rule.title.toLowerCase()}, ${rule?.limits ?? ""}`}
          form={(save) => <RuleForm key={sheet.rule.code} sheet={sheet} save={save} />}
        />
      )}
    </div>
  );
}

interface ConditionProps {
  sheet: SheetView;
  name: string;
  value: string;
  open: string | null;
  setOpen: (name: string | null) => void;
  form: (save: Save) => ReactNode;
}

function Condition({ sheet, name, value, open, setOpen, form }: ConditionProps) {
  const change = useSheetChange(sheet);
  return (
    <Chip
      name={name}
      value={value}
      open={open === name}
      onOpenChange={(next) => {
        setOpen(next ? name : null);
        change.reset();
      }}
    >
      {form((made) => change.mutate(made, { onSuccess: () => setOpen(null) }))}
      <Trouble text={changeTold(change)} />
    </Chip>
  );
}

export interface FromShelf {
  id: number;
  name: string;
  what: string;
  take: () => void;
}

/** Entries of the shelf with a digit each; pressing it takes the entry. */
export function ShelfList({ entries }: { entries: FromShelf[] }) {
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      const at = e.target instanceof HTMLElement ? e.target : null;
      const entry = entries[Number(e.key) - 1];
      if (!/^[1-9]$/.test(e.key) || !entry || at?.closest("input, select")) return;
      e.preventDefault();
      entry.take();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [entries]);
  if (entries.length === 0) return null;
  return (
    <>
      <p className="label">From the shelf</p>
      <ul className="mb-3 grid gap-1">
        {entries.map((e, n) => (
          <li key={e.id}>
            {/* The first has the focus, so that a digit is not typed into a field. */}
            <button className="knob w-full text-left" autoFocus={n === 0} onClick={e.take}>
              {n < 9 && <kbd className="figure text-xs">{n + 1}</kbd>} <b>{e.name}</b> {e.what}
            </button>
          </li>
        ))}
      </ul>
    </>
  );
}

export function Keep({ words = "Keep" }: { words?: string }) {
  return (
    <button type="submit" className="slab-knob mt-1">
      {words}
    </button>
  );
}

interface KnobFormProps {
  sheet: SheetView;
  knob: KnobView;
  save: Save;
}

/** The fields of one knob, and the windows on the shelf that fit it. */
function KnobForm({ sheet, knob, save }: KnobFormProps) {
  const [texts, setTexts] = useState<Record<string, string>>(
    Object.fromEntries(knob.fields.map((f) => [f.key, f.value])),
  );
  const shelf = useQuery({ ...shelfQuery, enabled: knob.window });
  const keys = new Set(knob.fields.map((f) => f.key));
  const fitting = (shelf.data ?? [])
    .filter(
      (e) =>
        e.what === "window" &&
        e.kind === sheet.kind &&
        e.unit === sheet.gauge.unit &&
        Object.keys(e.values).some((k) => keys.has(k)),
    )
    .map((e) => ({
      id: e.id,
      name: e.name,
      what: e.values["window.source"] ?? "",
      take: () => {
        const blank = Object.fromEntries(
          sheet.knobs
            .filter((k) => k.window)
            .flatMap((k) => k.fields)
            .map((f) => [f.key, f.key in e.values ? "" : f.value]),
        );
        save({ put: { ...blank, ...e.values } });
      },
    }));
  return (
    <>
      {knob.window && <ShelfList entries={fitting} />}
      <form
        onSubmit={(e) => {
          e.preventDefault();
          save({ put: texts });
        }}
      >
        {knob.note && <p className="mb-2 text-sm text-soft">{knob.note}</p>}
        {knob.fields.map((f) => (
          <FieldInput
            key={f.key}
            field={f}
            value={texts[f.key] ?? ""}
            onChange={(text) => setTexts({ ...texts, [f.key]: text })}
          />
        ))}
        <Keep />
      </form>
    </>
  );
}

interface FieldProps {
  field: FieldView;
  value: string;
  onChange: (text: string) => void;
}

function FieldInput({ field, value, onChange }: FieldProps) {
  if (field.kind === "choice") {
    return (
      <label className="mb-2 block">
        <span className="label">{field.label}</span>
        <select className="field" value={value} onChange={(e) => onChange(e.target.value)}>
          {field.options.map((o) => (
            <option key={o.code} value={o.code}>
              {o.label}
            </option>
          ))}
        </select>
      </label>
    );
  }
  if (field.kind === "yes") {
    return (
      <label className="mb-2 flex min-h-11 items-center gap-2">
        <input
          type="checkbox"
          className="h-5 w-5"
          checked={value === "yes"}
          onChange={(e) => onChange(e.target.checked ? "yes" : "")}
        />
        {field.label}
      </label>
    );
  }
  return (
    <Text label={field.label} value={value} numeric={field.kind !== "text"} onChange={onChange} />
  );
}

const CORRECTIONS = ["mm3", "percent", "ms"];

function GaugeForm({ sheet, save }: { sheet: SheetView; save: Save }) {
  const gauges = useQuery(gaugesQuery);
  const now = sheet.gauge;
  const [name, setName] = useState(now.name);
  const [step, setStep] = useState(now.step);
  const [unit, setUnit] = useState(now.unit);
  const empty = sheet.measured === 0;
  const pressure = PRESSURES.includes(now.unit);
  const many = sheet.kind === "correction" ? CORRECTIONS : [now.unit];
  const units = pressure ? PRESSURES : many;
  const fitting = (gauges.data ?? [])
    .filter((g) => (empty ? units.includes(g.unit) : g.unit === now.unit))
    .map((g) => ({
      id: g.id,
      name: g.name,
      what: `reads to ${g.step} ${g.unit}${g.lead ? `, leads ${g.lead}` : ""}`,
      take: () => {
        const { name, step, lead, percent, counts } = g;
        save({ gauge: { name, step, lead, percent, counts, unit: g.unit as "psi" } });
      },
    }));
  return (
    <>
      <ShelfList entries={fitting} />
      {!empty && pressure && (
        <p className="mb-2 text-sm text-soft">
          The readings were typed in {now.unit}; a gauge in another unit needs a new sheet.
        </p>
      )}
      <form
        onSubmit={(e) => {
          e.preventDefault();
          const gauge = { name: name.trim() || "gauge", unit: unit as "psi", step: step.trim() };
          save({ gauge: { ...gauge, lead: now.lead, percent: now.percent, counts: now.counts } });
        }}
      >
        <Text label="Another gauge: its name" value={name} onChange={setName} />
        <Text label="Smallest step you can read" value={step} onChange={setStep} numeric />
        <label className="label" htmlFor="gauge-unit">
          Unit
        </label>
        <select
          id="gauge-unit"
          className="field mb-2"
          value={unit}
          disabled={!empty || units.length === 1}
          onChange={(e) => setUnit(e.target.value)}
        >
          {units.map((u) => (
            <option key={u}>{u}</option>
          ))}
        </select>
        <Keep />
      </form>
    </>
  );
}
