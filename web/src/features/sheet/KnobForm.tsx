/** The form behind a knob: its fields, and the windows on the shelf that fit it. */
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { FieldView, KnobView, SheetView, ShelfView } from "../../api/client";
import { shelfQuery } from "../../lib/store";
import { Text } from "../../ui/parts";
import { Keep, ShelfList, type FromShelf, type Save } from "./fromShelf";

interface KnobFormProps {
  sheet: SheetView;
  knob: KnobView;
  save: Save;
}

/** The windows on the shelf that fit a knob. */
function useWindows(sheet: SheetView, knob: KnobView, save: Save): FromShelf[] {
  const shelf = useQuery({ ...shelfQuery, enabled: knob.window });
  const keys = new Set(knob.fields.map((f) => f.key));
  const fits = (e: ShelfView) =>
    e.what === "window" &&
    e.kind === sheet.kind &&
    e.unit === sheet.gauge.unit &&
    Object.keys(e.values).some((k) => keys.has(k));
  const take = (e: ShelfView) => () => {
    const blank = Object.fromEntries(
      sheet.knobs
        .filter((k) => k.window)
        .flatMap((k) => k.fields)
        .map((f) => [f.key, f.key in e.values ? "" : f.value]),
    );
    save({ put: { ...blank, ...e.values } });
  };
  return (shelf.data ?? [])
    .filter(fits)
    .map((e) => ({ id: e.id, name: e.name, what: e.values["window.source"] ?? "", take: take(e) }));
}

/** The fields of one knob, and the windows on the shelf that fit it. */
export function KnobForm({ sheet, knob, save }: KnobFormProps) {
  const [texts, setTexts] = useState<Record<string, string>>(
    Object.fromEntries(knob.fields.map((f) => [f.key, f.value])),
  );
  const fitting = useWindows(sheet, knob, save);
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
