/** Forms of the shelf: a gauge, a window, a rule of the shop. */
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState, type ReactNode } from "react";
import api, {
  got,
  told,
  type Catalogue,
  type FieldView,
  type GaugeView,
  type Kind,
  type ShelfView,
} from "../../api/client";
import { catalogueQuery } from "../../lib/store";
import { BusyButton, Text, Trouble } from "../../ui/parts";
import { GaugeClass, typedGauge } from "../../ui/GaugeClass";
import { AskInstrument } from "./AskInstrument";
import { EVERY_VEHICLE, PRICES } from "../finish/prices";

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
      <BusyButton className="slab-knob" busy={busy}>
        Keep
      </BusyButton>
    </form>
  );
}

const BLANK: GaugeView = {
  id: 0,
  name: "",
  unit: "psi",
  step: "",
  lead: "",
  percent: "",
  counts: "",
  address: "",
  command: "",
  class_percent: "",
  span: "",
  reads: "",
  class_words: "",
};

function keepGauge(gauge: GaugeView) {
  const body = typedGauge(gauge);
  const { id } = gauge;
  return id
    ? got(api.PUT("/api/gauges/{gauge_id}", { params: { path: { gauge_id: id } }, body }))
    : got(api.POST("/api/gauges", { body }));
}

const ACCURACY = [
  ["lead", "Resistance of the leads, {unit}"],
  ["percent", "Accuracy, % of the reading"],
  ["counts", "Accuracy, counts of the last digit"],
] as const;

/** Every unit that some sheet is read in. */
function useUnits(): string[] {
  const kinds = useQuery(catalogueQuery).data?.kinds ?? [];
  // Amperes are of the clamp on a starter's cable, which no sheet is typed in.
  return [...new Set([...kinds.flatMap((k) => k.units), "A"])];
}

export function GaugeForm({ gauge, done }: { gauge: GaugeView | null; done: () => void }) {
  const [g, setG] = useState<GaugeView>(gauge ?? BLANK);
  const units = useUnits();
  const put = (change: Partial<GaugeView>) => setG({ ...g, ...change });
  const keep = useKeep("gauges", () => keepGauge(g), done);
  const meter = g.unit === "ohm" || g.unit === "V";
  return (
    <Shell error={keep.error} busy={keep.isPending} keep={() => keep.mutate()}>
      <Text label="Name" value={g.name} onChange={(name) => put({ name })} />
      <Select
        label="Unit"
        value={g.unit}
        options={units.map((u) => [u, u])}
        onChange={(unit) => put({ unit })}
      />
      <Text
        label="Smallest step you can read"
        value={g.step}
        onChange={(step) => put({ step })}
        numeric
      />
      <GaugeClass gauge={g} put={put} />
      {meter &&
        ACCURACY.map(([key, label]) => (
          <Text
            key={key}
            label={label.replace("{unit}", g.unit)}
            value={g[key]}
            onChange={(text) => put({ [key]: text })}
            numeric
          />
        ))}
      <AskInstrument
        address={g.address}
        command={g.command}
        unit={g.unit}
        onAddress={(address) => put({ address })}
        onCommand={(command) => put({ command })}
      />
    </Shell>
  );
}

function useKeep<T>(what: "gauges" | "shelf", send: () => Promise<T>, done: () => void) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: send,
    onSuccess: () => {
      void client.invalidateQueries({ queryKey: [what] });
      done();
    },
  });
}

interface Entry {
  what: "window" | "rule" | "price" | "box";
  name: string;
  kind: string;
  unit: string;
  values: Record<string, string>;
}

function keepEntry(id: number | null, { what, name, kind, unit, values }: Entry) {
  const filled = Object.fromEntries(Object.entries(values).filter(([, v]) => v.trim()));
  const body = { what, name, kind: kind as Kind, unit: unit as "psi", values: filled };
  return id === null
    ? got(api.POST("/api/shelf", { body }))
    : got(api.PUT("/api/shelf/{entry_id}", { params: { path: { entry_id: id } }, body }));
}

interface EntryProps {
  what: Entry["what"];
  entry: ShelfView | null;
  done: () => void;
}

/** A window or a rule of the shop; what it can hold says the catalogue. */
export function EntryForm({ what, entry, done }: EntryProps) {
  const catalogue = useQuery(catalogueQuery);
  const Form = { window: WindowForm, rule: RuleOfShopForm, price: PriceForm, box: BoxForm }[what];
  if (!catalogue.data) return <Trouble text={catalogue.isError ? told(catalogue.error) : null} />;
  return <Form entry={entry} done={done} catalogue={catalogue.data} />;
}

interface FormProps {
  entry: ShelfView | null;
  done: () => void;
  catalogue: Catalogue;
}

interface FieldsProps {
  fields: FieldView[];
  unit: string;
  values: Record<string, string>;
  onChange: (values: Record<string, string>) => void;
}

/** The limits of an entry, those in its unit named so. */
function Fields({ fields, unit, values, onChange }: FieldsProps) {
  return fields.map(({ key, label, kind }) => (
    <Text
      key={key}
      label={label.replace("{unit}", unit || "choose a unit")}
      numeric={kind === "number"}
      value={values[key] ?? ""}
      onChange={(text) => onChange({ ...values, [key]: text })}
    />
  ));
}

/** A window for one kind of sheet. */
function WindowForm({ entry, done, catalogue }: FormProps) {
  const kinds = catalogue.kinds.filter((k) => k.limits.length > 0);
  const [now, setNow] = useState<Entry>(() => {
    const [first] = kinds;
    const blank = { name: "", kind: first?.code ?? "", unit: first?.units[0] ?? "", values: {} };
    return { ...(entry ?? blank), what: "window" };
  });
  const put = (change: Partial<Entry>) => setNow({ ...now, ...change });
  const keep = useKeep("shelf", () => keepEntry(entry?.id ?? null, now), done);
  const kind = kinds.find((k) => k.code === now.kind);
  return (
    <Shell error={keep.error} busy={keep.isPending} keep={() => keep.mutate()}>
      <Text label="Name" value={now.name} onChange={(name) => put({ name })} />
      <Select
        label="For the sheet"
        value={now.kind}
        options={kinds.map((k) => [k.code, k.title])}
        onChange={(code) => {
          const next = kinds.find((k) => k.code === code);
          put({ kind: code, unit: next?.units[0] ?? "", values: {} });
        }}
      />
      <Select
        label="Unit"
        value={now.unit}
        options={(kind?.units ?? []).map((u) => [u, u])}
        onChange={(unit) => put({ unit })}
      />
      <Fields
        fields={kind?.limits ?? []}
        unit={now.unit}
        values={now.values}
        onChange={(values) => put({ values })}
      />
    </Shell>
  );
}

const SOURCE: FieldView = { key: "source", label: "Source", kind: "text", value: "", options: [] };

/** A variant of one of the rules, with limits of the shop's own. */
function RuleOfShopForm({ entry, done, catalogue }: FormProps) {
  const { rules, kinds } = catalogue;
  const [now, setNow] = useState<Entry>(() => {
    const blank = { name: "", kind: "", unit: "", values: { name: rules[0]?.code ?? "" } };
    return { ...(entry ?? blank), what: "rule" };
  });
  const put = (change: Partial<Entry>) => setNow({ ...now, ...change });
  const keep = useKeep("shelf", () => keepEntry(entry?.id ?? null, now), done);
  const rule = rules.find((r) => r.code === now.values.name);
  const units = new Set(["", ...kinds.filter((k) => k.compares).flatMap((k) => k.units)]);
  return (
    <Shell error={keep.error} busy={keep.isPending} keep={() => keep.mutate()}>
      <Text label="Name" value={now.name} onChange={(name) => put({ name })} />
      <Select
        label="Rule it is a variant of"
        value={now.values.name ?? ""}
        options={rules.map((r) => [r.code, r.title])}
        onChange={(name) => put({ values: { name } })}
      />
      <Select
        label="Unit"
        value={now.unit}
        options={[...units].map((u) => [u, u || "any: no limit in a unit"])}
        onChange={(unit) => put({ unit })}
      />
      <Fields
        fields={[...(rule?.fields ?? []), SOURCE]}
        unit={now.unit}
        values={now.values}
        onChange={(values) => put({ values })}
      />
    </Shell>
  );
}

/** What it costs: for vehicles of a name, for a part number, or for every vehicle. */
function PriceForm({ entry, done }: FormProps) {
  const [now, setNow] = useState<Entry>(() => {
    const blank = { name: EVERY_VEHICLE, kind: "", unit: "", values: {} };
    return { ...(entry ?? blank), what: "price" };
  });
  const keep = useKeep("shelf", () => keepEntry(entry?.id ?? null, now), done);
  return (
    <Shell error={keep.error} busy={keep.isPending} keep={() => keep.mutate()}>
      <Text
        label="A vehicle’s name, a part number, or every vehicle"
        value={now.name}
        onChange={(name) => setNow({ ...now, name })}
      />
      {PRICES.map(([key, label]) => (
        <Text
          key={key}
          label={label}
          numeric={key !== "currency"}
          value={now.values[key] ?? ""}
          onChange={(text) => setNow({ ...now, values: { ...now.values, [key]: text } })}
        />
      ))}
    </Shell>
  );
}

/** A burst box: where it is, and the burst it gives where the sheet says none. */
function BoxForm({ entry, done }: FormProps) {
  const [now, setNow] = useState<Entry>(() => {
    const blank = { name: "", kind: "", unit: "", values: { pulses: "50", on_ms: "10" } };
    return { ...(entry ?? blank), what: "box" };
  });
  const put = (key: string, text: string) =>
    setNow({ ...now, values: { ...now.values, [key]: text } });
  const keep = useKeep("shelf", () => keepEntry(entry?.id ?? null, now), done);
  return (
    <Shell error={keep.error} busy={keep.isPending} keep={() => keep.mutate()}>
      <Text label="Name" value={now.name} onChange={(name) => setNow({ ...now, name })} />
      <Text
        label="Pulses of a burst"
        numeric
        value={now.values.pulses ?? ""}
        onChange={(text) => put("pulses", text)}
      />
      <Text
        label="On time of each, ms"
        numeric
        value={now.values.on_ms ?? ""}
        onChange={(text) => put("on_ms", text)}
      />
      <AskInstrument
        address={now.values.address ?? ""}
        command=""
        unit=""
        onAddress={(text) => put("address", text)}
      />
    </Shell>
  );
}
