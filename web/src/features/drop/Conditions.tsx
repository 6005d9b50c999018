/** The conditions of a sheet: gauge, burst, engine, rule, what is expected. Each opens to change. */
import { useQuery } from "@tanstack/react-query";
import { useId, useState, type ReactNode } from "react";
import { told, type SheetChange, type SheetView } from "../../api/client";
import { gaugesQuery, useSheetChange } from "../../lib/store";
import { Chip, Trouble } from "../../ui/parts";

type Change = Omit<SheetChange, "version">;

export function Conditions({ sheet }: { sheet: SheetView }) {
  const c = sheet.conditions;
  const rule = sheet.rules.find((r) => r.chosen);
  return (
    <div className="mb-2 flex gap-1.5 max-sm:-mx-1 max-sm:overflow-x-auto max-sm:p-1 sm:flex-wrap">
      <Condition
        sheet={sheet}
        name="Gauge"
        value={`${c.gauge.name || "unnamed"}, ${c.gauge.step} ${c.gauge.unit}`}
        form={(save) => <GaugeForm sheet={sheet} save={save} />}
      />
      <Condition
        sheet={sheet}
        name="Burst"
        value={c.pulses ? `${c.pulses} × ${c.on_ms ?? "?"} ms` : "?"}
        form={(save) => <BurstForm sheet={sheet} save={save} />}
      />
      <Condition
        sheet={sheet}
        name="Engine"
        value={c.engine_temperature_c ? `${c.engine_temperature_c} °C` : "?"}
        form={(save) => <EngineForm sheet={sheet} save={save} />}
      />
      <Condition
        sheet={sheet}
        name="Rule"
        value={`${c.rule_title.toLowerCase()}, ${rule?.limits ?? ""}`}
        form={(save) => <RuleForm key={c.rule} sheet={sheet} save={save} />}
      />
      <Condition
        sheet={sheet}
        name="Expected"
        value={c.expected_drop ? `${c.expected_drop} ${c.gauge.unit}` : "unknown"}
        form={(save) => <ExpectedForm sheet={sheet} save={save} />}
      />
    </div>
  );
}

interface ConditionProps {
  sheet: SheetView;
  name: string;
  value: string;
  form: (save: (change: Change) => void) => ReactNode;
}

function Condition({ sheet, name, value, form }: ConditionProps) {
  const [open, setOpen] = useState(false);
  const change = useSheetChange(sheet);
  return (
    <Chip
      name={name}
      value={value}
      open={open}
      onOpenChange={(next) => {
        setOpen(next);
        change.reset();
      }}
    >
      {form((made) => change.mutate(made, { onSuccess: () => setOpen(false) }))}
      <Trouble text={change.isError ? told(change.error) : null} />
    </Chip>
  );
}

interface FormProps {
  sheet: SheetView;
  save: (change: Change) => void;
}

interface TextProps {
  label: string;
  value: string;
  onChange: (text: string) => void;
  numeric?: boolean;
}

function Text({ label, value, onChange, numeric }: TextProps) {
  const id = useId();
  return (
    <div className="mb-2">
      <label className="label" htmlFor={id}>
        {label}
      </label>
      <input
        id={id}
        className="field"
        inputMode={numeric ? "decimal" : "text"}
        autoComplete="off"
        value={value}
        onChange={(e) => onChange(e.target.value)}
      />
    </div>
  );
}

function Save({ words = "Keep" }: { words?: string }) {
  return (
    <button type="submit" className="slab-knob mt-1">
      {words}
    </button>
  );
}

const orNull = (text: string) => (text.trim() === "" ? null : text.trim());

function GaugeForm({ sheet, save }: FormProps) {
  const gauges = useQuery(gaugesQuery);
  const now = sheet.conditions.gauge;
  const [name, setName] = useState(now.name);
  const [step, setStep] = useState(now.step);
  const [unit, setUnit] = useState(now.unit);
  const empty = sheet.rows.every((r) => r.readings.length === 0);
  const shelf = gauges.data?.filter((g) => empty || g.unit === now.unit) ?? [];
  return (
    <>
      <p className="label">From the shelf</p>
      <ul className="mb-3 grid gap-1">
        {shelf.map((g) => (
          <li key={g.id}>
            <button
              className="knob w-full"
              onClick={() => save({ gauge: { name: g.name, unit: g.unit as "psi", step: g.step } })}
            >
              <b>{g.name}</b> reads to {g.step} {g.unit}
            </button>
          </li>
        ))}
      </ul>
      {!empty && (
        <p className="mb-2 text-sm text-soft">
          The readings were typed in {now.unit}; a gauge in another unit needs a new sheet.
        </p>
      )}
      <form
        onSubmit={(e) => {
          e.preventDefault();
          save({ gauge: { name: name.trim() || "gauge", unit: unit as "psi", step: step.trim() } });
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
          disabled={!empty}
          onChange={(e) => setUnit(e.target.value)}
        >
          {["psi", "kPa", "bar"].map((u) => (
            <option key={u}>{u}</option>
          ))}
        </select>
        <Save />
      </form>
    </>
  );
}

function BurstForm({ sheet, save }: FormProps) {
  const [pulses, setPulses] = useState(String(sheet.conditions.pulses ?? ""));
  const [on, setOn] = useState(sheet.conditions.on_ms ?? "");
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault();
        save({
          burst: { pulses: pulses.trim() === "" ? null : Number(pulses), on_ms: orNull(on) },
        });
      }}
    >
      <Text label="Pulses" value={pulses} onChange={setPulses} numeric />
      <Text label="On time of each, ms" value={on} onChange={setOn} numeric />
      <p className="mb-2 text-sm text-soft">
        The same burst for every injector. Longer if the gauge is coarse, shorter if the rail runs
        empty.
      </p>
      <Save />
    </form>
  );
}

function EngineForm({ sheet, save }: FormProps) {
  const [temperature, setTemperature] = useState(sheet.conditions.engine_temperature_c ?? "");
  const [supply, setSupply] = useState(sheet.conditions.supply_v ?? "");
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault();
        save({
          engine: {
            state: sheet.conditions.engine_state as "key_on_engine_off",
            temperature_c: orNull(temperature),
          },
          ...(orNull(supply) ? { supply_v: orNull(supply) } : {}),
        });
      }}
    >
      <Text label="Engine temperature, °C" value={temperature} onChange={setTemperature} numeric />
      <Text label="Supply of the tester, V" value={supply} onChange={setSupply} numeric />
      <Save />
    </form>
  );
}

const RULE_FIELDS: Record<string, [key: string, label: string][]> = {
  flow_index: [["tolerance_percent", "Tolerance, % of flow"]],
  plain_mean: [["limit", "Limit"]],
  ends_left_out: [
    ["limit", "More than this: repeat"],
    ["reject", "This or more: reject"],
  ],
  suspect_left_out: [
    ["tolerance_percent", "Tolerance, % of the others' mean"],
    ["suspect", "Suspect (empty: the farthest)"],
  ],
  commonest_drop: [["limit", "Limit"]],
  end_pressure: [["limit", "Limit"]],
  within_each_other: [["limit", "Limit"]],
  modified_z: [["score", "Score"]],
  extreme_studentized: [["alpha", "α"]],
  analysis_of_means: [["alpha", "α"]],
};

function RuleForm({ sheet, save }: FormProps) {
  const now = sheet.conditions;
  const [name, setName] = useState(now.rule);
  const [limits, setLimits] = useState<Record<string, string>>(now.rule_limits);
  const [source, setSource] = useState(now.rule_source);
  const spec = sheet.rules.find((r) => r.code === name);
  const fields = RULE_FIELDS[name] ?? [];
  const pressures = new Set(["limit", "reject"]);
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault();
        const made = Object.fromEntries(fields.map(([key]) => [key, orNull(limits[key] ?? "")]));
        save({ rule: { name: name as "flow_index", ...made, source: source.trim() } });
      }}
    >
      <label className="label" htmlFor="rule-name">
        Rule that decides on this sheet
      </label>
      <select
        id="rule-name"
        className="field mb-1"
        value={name}
        onChange={(e) => {
          setName(e.target.value);
          setLimits({});
        }}
      >
        {sheet.rules.map((r) => (
          <option key={r.code} value={r.code}>
            {r.title}
          </option>
        ))}
      </select>
      <p className="mb-2 text-sm text-soft">
        {spec?.decides} Without a figure of your own: {spec?.limits}.
      </p>
      {fields.map(([key, label]) => (
        <Text
          key={key}
          label={pressures.has(key) ? `${label}, ${now.gauge.unit}` : label}
          value={limits[key] ?? ""}
          numeric={key !== "suspect"}
          onChange={(text) => setLimits({ ...limits, [key]: text })}
        />
      ))}
      <Text label="Source of the limit" value={source} onChange={setSource} />
      <Save />
    </form>
  );
}

function ExpectedForm({ sheet, save }: FormProps) {
  const [drop, setDrop] = useState(sheet.conditions.expected_drop ?? "");
  const [source, setSource] = useState(sheet.conditions.expected_source);
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault();
        save({ expected: { drop: orNull(drop), source: source.trim() } });
      }}
    >
      <p className="mb-2 text-sm text-soft">
        What a maker or an earlier sheet says one burst should take. It settles a split set, and
        shows a fault that all of them share.
      </p>
      <Text
        label={`Drop of one burst, ${sheet.conditions.gauge.unit} (empty: unknown)`}
        value={drop}
        onChange={setDrop}
        numeric
      />
      <Text label="Who says so" value={source} onChange={setSource} />
      <Save />
    </form>
  );
}
