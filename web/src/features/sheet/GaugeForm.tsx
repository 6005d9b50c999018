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

/** A gauge that is not on the shelf: its name, step, unit and class. */
function AnotherGauge({ sheet, save }: { sheet: SheetView; save: Save }) {
  const [known, setKnown] = useState(sheet.gauge);
  const put = (change: Partial<GaugeView>) => setKnown({ ...known, ...change });
  const fixed = sheet.measured > 0 || sheet.units.length === 1;
  const keep = () =>
    save({
      gauge: copied({ ...known, name: known.name.trim() || "gauge", step: known.step.trim() }),
    });
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault();
        keep();
      }}
    >
      <Text label="Another gauge: its name" value={known.name} onChange={(name) => put({ name })} />
      <Text
        label="Smallest step you can read"
        value={known.step}
        onChange={(step) => put({ step })}
        numeric
      />
      <label className="label" htmlFor="gauge-unit">
        Unit
      </label>
      <select
        id="gauge-unit"
        className="field mb-2"
        value={known.unit}
        disabled={fixed}
        onChange={(e) => put({ unit: e.target.value })}
      >
        {sheet.units.map((u) => (
          <option key={u}>{u}</option>
        ))}
      </select>
      <GaugeClass gauge={known} put={put} />
      <Keep />
    </form>
  );
}

export function GaugeForm({ sheet, save }: { sheet: SheetView; save: Save }) {
  const fitting = useGauges(sheet, save);
  return (
    <>
      <ShelfList entries={fitting} />
      {sheet.measured > 0 && sheet.units.length > 1 && (
        <p className="mb-2 text-sm text-soft">
          The readings were typed in {sheet.gauge.unit}; a gauge in another unit needs a new sheet.
        </p>
      )}
      <AnotherGauge sheet={sheet} save={save} />
    </>
  );
}
