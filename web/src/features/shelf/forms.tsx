/** Forms of the shelf: a gauge, a window, a rule of the shop. */
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState, type ReactNode } from "react";
import api, { got, told, type GaugeView, type ShelfView } from "../../api/client";
import { Text, Trouble } from "../../ui/parts";
import { PRESSURE_FIELDS, RULE_FIELDS } from "../sheet/RuleForm";
import { KIND_FIELDS, KIND_NAMES, KIND_UNITS, PRESSURES } from "./kinds";

interface SelectProps {
  label: string;
  value: string;
  options: [code: string, label: string][];
  onChange: (code: string) => void;
}

function Select({ label, value, options, onChange }: SelectProps) {
  return (
    <label className="mb-2 block">
      <span className="label">{label}</span>
      <select className="field" value={value} onChange={(e) => onChange(e.target.value)}>
        {options.map(([code, words]) => (
          <option key={code} value={code}>
            {words}
          </option>
        ))}
      </select>
    </label>
  );
}

interface ShellProps {
  error: unknown;
  busy: boolean;
  keep: () => void;
  children: ReactNode;
}

function Shell({ error, busy, keep, children }: ShellProps) {
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault();
        keep();
      }}
    >
      {children}
      <Trouble text={error ? told(error) : null} />
      <button className="slab-knob" disabled={busy}>
        Keep
      </button>
    </form>
  );
}

export function GaugeForm({ gauge, done }: { gauge: GaugeView | null; done: () => void }) {
  const client = useQueryClient();
  const [g, setG] = useState<GaugeView>(
    gauge ?? { id: 0, name: "", unit: "psi", step: "", lead: "", percent: "", counts: "" },
  );
  const put = (change: Partial<GaugeView>) => setG({ ...g, ...change });
  const keep = useMutation({
    mutationFn: () => {
      const { id, ...rest } = g;
      const body = { ...rest, unit: g.unit as "psi" };
      return id
        ? got(api.PUT("/api/gauges/{gauge_id}", { params: { path: { gauge_id: id } }, body }))
        : got(api.POST("/api/gauges", { body }));
    },
    onSuccess: () => {
      void client.invalidateQueries({ queryKey: ["gauges"] });
      done();
    },
  });
  const meter = g.unit === "ohm" || g.unit === "V";
  return (
    <Shell error={keep.error} busy={keep.isPending} keep={() => keep.mutate()}>
      <Text label="Name" value={g.name} onChange={(name) => put({ name })} />
      <Select
        label="Unit"
        value={g.unit}
        options={[...PRESSURES, "ohm", "V", "ml", "mm3", "percent", "ms"].map((u) => [u, u])}
        onChange={(unit) => put({ unit })}
      />
      <Text
        label="Smallest step you can read"
        value={g.step}
        onChange={(step) => put({ step })}
        numeric
      />
      {meter && (
        <>
          <Text
            label={`Resistance of the leads, ${g.unit}`}
            value={g.lead}
            onChange={(lead) => put({ lead })}
            numeric
          />
          <Text
            label="Accuracy, % of the reading"
            value={g.percent}
            onChange={(percent) => put({ percent })}
            numeric
          />
          <Text
            label="Accuracy, counts of the last digit"
            value={g.counts}
            onChange={(counts) => put({ counts })}
            numeric
          />
        </>
      )}
    </Shell>
  );
}

interface EntryProps {
  what: "window" | "rule";
  entry: ShelfView | null;
  done: () => void;
}

export function EntryForm({ what, entry, done }: EntryProps) {
  const client = useQueryClient();
  const [name, setName] = useState(entry?.name ?? "");
  const [kind, setKind] = useState(entry?.kind ?? (what === "window" ? "coil_resistance" : ""));
  const [unit, setUnit] = useState(entry?.unit ?? (what === "window" ? "ohm" : ""));
  const [values, setValues] = useState<Record<string, string>>(
    entry?.values ?? (what === "rule" ? { name: "flow_index" } : {}),
  );
  const keep = useMutation({
    mutationFn: () => {
      const filled = Object.fromEntries(Object.entries(values).filter(([, v]) => v.trim()));
      const body = { what, name, kind: kind as "hold", unit: unit as "psi", values: filled };
      return entry
        ? got(api.PUT("/api/shelf/{entry_id}", { params: { path: { entry_id: entry.id } }, body }))
        : got(api.POST("/api/shelf", { body }));
    },
    onSuccess: () => {
      void client.invalidateQueries({ queryKey: ["shelf"] });
      done();
    },
  });
  const units = what === "rule" ? ["", ...PRESSURES, "ml"] : (KIND_UNITS[kind] ?? PRESSURES);
  return (
    <Shell error={keep.error} busy={keep.isPending} keep={() => keep.mutate()}>
      <Text label="Name" value={name} onChange={setName} />
      {what === "window" ? (
        <Select
          label="For the sheet"
          value={kind}
          options={Object.entries(KIND_NAMES)}
          onChange={(next) => {
            setKind(next);
            setUnit((KIND_UNITS[next] ?? PRESSURES)[0] ?? "");
            setValues({});
          }}
        />
      ) : (
        <Select
          label="Rule it is a variant of"
          value={values.name ?? "flow_index"}
          options={Object.keys(RULE_FIELDS).map((code) => [code, code.replaceAll("_", " ")])}
          onChange={(next) => setValues({ name: next })}
        />
      )}
      <Select
        label="Unit"
        value={unit}
        options={units.map((u) => [u, u || "any: no limit in a unit"])}
        onChange={setUnit}
      />
      {what === "window"
        ? (KIND_FIELDS[kind] ?? []).map(([key, label, numeric]) => (
            <Text
              key={key}
              label={label}
              numeric={numeric}
              value={values[key] ?? ""}
              onChange={(text) => setValues({ ...values, [key]: text })}
            />
          ))
        : [...(RULE_FIELDS[values.name ?? "flow_index"] ?? []), ["source", "Source"]].map(
            ([key = "", label = ""]) => (
              <Text
                key={key}
                label={PRESSURE_FIELDS.has(key) ? `${label}, ${unit || "choose a unit"}` : label}
                numeric={key !== "source" && key !== "suspect"}
                value={values[key] ?? ""}
                onChange={(text) => setValues({ ...values, [key]: text })}
              />
            ),
          )}
    </Shell>
  );
}
