/** The gauge of a sheet: one of the shelf, or another by its name, step and unit. */
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { GaugeView, SheetView } from "../../api/client";
import { gaugesQuery } from "../../lib/store";
import { GaugeClass, typedGauge } from "../../ui/GaugeClass";
import { Text } from "../../ui/parts";
import { Keep, ShelfList, type FromShelf, type Save } from "./fromShelf";

/** A gauge as a sheet copies it: where it is asked stays on the shelf. */
const copied = (gauge: GaugeView) => typedGauge({ ...gauge, address: "", command: "" });

/** The gauges on the shelf that a sheet can take. */
function useGauges(sheet: SheetView, save: Save): FromShelf[] {
  const gauges = useQuery(gaugesQuery);
  const units = sheet.measured === 0 ? sheet.units : [sheet.gauge.unit];
  return (gauges.data ?? [])
    .filter((g) => units.includes(g.unit))
    .map((g) => ({
      id: g.id,
      name: g.name,
      what: `reads to ${g.step} ${g.unit}${g.lead ? `, leads ${g.lead}` : ""}${g.class_words ? `, ${g.class_words}` : ""}`,
      take: () => save({ gauge: copied(g) }),
    }));
}

export function GaugeForm({ sheet, save }: { sheet: SheetView; save: Save }) {
  const now = sheet.gauge;
  const [name, setName] = useState(now.name);
  const [step, setStep] = useState(now.step);
  const [unit, setUnit] = useState(now.unit);
  const [known, setKnown] = useState(now);
  const empty = sheet.measured === 0;
  const fitting = useGauges(sheet, save);
  return (
    <>
      <ShelfList entries={fitting} />
      {!empty && sheet.units.length > 1 && (
        <p className="mb-2 text-sm text-soft">
          The readings were typed in {now.unit}; a gauge in another unit needs a new sheet.
        </p>
      )}
      <form
        onSubmit={(e) => {
          e.preventDefault();
          save({
            gauge: copied({ ...known, name: name.trim() || "gauge", unit, step: step.trim() }),
          });
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
          disabled={!empty || sheet.units.length === 1}
          onChange={(e) => setUnit(e.target.value)}
        >
          {sheet.units.map((u) => (
            <option key={u}>{u}</option>
          ))}
        </select>
        <GaugeClass gauge={{ ...known, unit }} put={(c) => setKnown({ ...known, ...c })} />
        <Keep />
      </form>
    </>
  );
}
