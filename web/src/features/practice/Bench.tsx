/** The virtual engine beside its sheet: what can be done at it, and what is seen there. */
import { useState } from "react";
import { told, type RunView, type SheetView } from "../../api/client";
import { useKey } from "../../lib/keys";
import { BusyButton, Kbd, Trouble } from "../../ui/parts";
import { hasInjectors } from "../sheet/asks";
import { useAct, useHint, useRun, type Act } from "./runs";
import { Incidents, Ledger } from "./Spent";

const LINES: [string, string][] = [
  ["ignition", "Ignition"],
  ["pump", "Pump"],
  ["starter", "Starter"],
  ["clamp_supply", "Supply clamped"],
  ["clamp_return", "Return clamped"],
  ["hose_off", "Vacuum hose off"],
  ["unplugged", "Injectors unplugged"],
];
/** What an engine has whose pump feeds each injector through a pipe of its own. */
const NO_RAIL = new Set(["ignition", "starter", "unplugged"]);
const hasRail = (run: RunView) => run.steps.length > 0;
const WAITS: [number, string][] = [
  [10, "10 s"],
  [60, "1 min"],
  [600, "10 min"],
];

interface Props {
  run: RunView;
  act: (act: Act) => void;
  busy: boolean;
}

/** Ignition, pump, starter, clamps: on or off. */
function Lines({ run, act }: Omit<Props, "busy">) {
  const on = run.bench?.on ?? [];
  const lines = hasRail(run) ? LINES : LINES.filter(([name]) => NO_RAIL.has(name));
  return (
    <div className="mb-2 flex flex-wrap gap-1.5" role="group" aria-label="Lines">
      {lines.map(([name, words]) => (
        <button
          key={name}
          className="choice min-h-9 px-2.5 text-sm"
          aria-pressed={on.includes(name)}
          onClick={() => act({ what: "switch", name, on: !on.includes(name) })}
        >
          {words}
        </button>
      ))}
    </div>
  );
}

/** What the gauge on the rail shows just now, and whether the engine runs. */
function Now({ run }: { run: RunView }) {
  const { bench } = run;
  if (!bench) return null;
  return (
    <p className="mb-2 flex items-baseline gap-3">
      {hasRail(run) && (
        <output aria-label="Gauge on the rail" className="figure text-2xl font-bold">
          {bench.gauge} {bench.unit}
        </output>
      )}
      <span className="text-sm text-soft">
        {bench.runs ? "engine runs" : "engine off"}
        {bench.lifted && ", rail out"}
      </span>
    </p>
  );
}

/** What takes the whole engine: start it, let time pass, the rail out and in. */
function Works({ run, act, busy }: Props) {
  const lifted = run.bench?.lifted ?? false;
  // What undoes a thing stands in its place: the keyboard stays there.
  const knob = (words: string, what: Act, place = words) => (
    <BusyButton key={place} className="knob" busy={busy} onClick={() => act(what)}>
      {words}
    </BusyButton>
  );
  return (
    <div className="mb-3 flex flex-wrap gap-1.5">
      {run.bench?.runs
        ? knob("Stop the engine", { what: "stop" }, "engine")
        : knob("Start the engine", { what: "start" }, "engine")}
      {WAITS.map(([seconds, words]) => knob(`Wait ${words}`, { what: "wait", seconds }))}
      {hasRail(run) && knob("Relieve the rail", { what: "relieve" })}
      {hasRail(run) &&
        (lifted
          ? knob("Put the rail back", { what: "put_back" }, "rail")
          : knob("Take the rail out", { what: "lift" }, "rail"))}
    </div>
  );
}

/** What was seen last, on this sheet. */
function Seen({ run, sheet }: { run: RunView; sheet: SheetView }) {
  const here = run.told.length > 0 && (run.about === sheet.key || run.about === "");
  return (
    <div aria-live="polite" className="mb-3">
      {here && (
        <ul aria-label="What is seen" className="rounded-lg border border-hair bg-paper text-sm">
          {run.told.map((t, n) => (
            <li
              key={`${n} ${t.row}`}
              className="flex flex-wrap items-baseline gap-x-2 border-t border-hair px-2 py-1 first:border-0"
            >
              {t.row && (
                <b className={/^\d+$/.test(t.row) ? "figure text-base" : ""}>{words(t.row)}</b>
              )}
              <span className="figure">{t.text}</span>
              {t.file && <SaveRecord file={t.file} />}
            </li>
          ))}
        </ul>
      )}
    </div>
  );
}

const words = (row: string) => (row === "maker" ? "the maker says" : row.replaceAll("_", " "));

/** What an instrument recorded, as a file that the sheet takes. */
function SaveRecord({ file }: { file: string }) {
  const save = () => {
    const url = URL.createObjectURL(new Blob([file], { type: "text/csv" }));
    Object.assign(document.createElement("a"), { href: url, download: "record.csv" }).click();
    URL.revokeObjectURL(url);
  };
  return (
    <button className="knob" onClick={save}>
      Save the record
    </button>
  );
}

/** Look or read for this sheet: row by row where each is work of its own, else all at once. */
function Looks({ run, act, busy, sheet }: Props & { sheet: SheetView }) {
  const each = run.by_row.includes(sheet.kind);
  const open = sheet.rows.find((r) => r.readings.length === 0)?.injector;
  const next = each ? (open ?? run.injectors[0] ?? "") : "";
  const look = (rows: string[]) => act({ what: "look", sheet: sheet.key, rows });
  useKey("q", () => look(each ? [next] : []));
  return (
    <>
      <p className="mb-2 flex flex-wrap gap-1.5">
        <BusyButton className="slab-knob" busy={busy} onClick={() => look(each ? [next] : [])}>
          <Kbd>Q</Kbd>{" "}
          {!each ? "Look and read" : open ? `Do injector ${next}` : `Injector ${next} again`}
        </BusyButton>
        {(hasInjectors(sheet) ? run.injectors : []).map((row) => (
          <BusyButton
            key={row}
            className="knob figure"
            busy={busy}
            aria-label={`Look at injector ${row}`}
            onClick={() => look([row])}
          >
            {row}
          </BusyButton>
        ))}
      </p>
      {sheet.kind === run.hold_kind && <Tries run={run} act={act} busy={busy} />}
    </>
  );
}

/** Where does it go?  One thing after the other. */
function Tries({ run, act, busy }: Props) {
  return (
    <Picked
      label="Try at the hold"
      from={run.steps}
      words="Try it"
      busy={busy}
      pick={(name) => act({ what: "try", name })}
    />
  );
}

/** What nothing behind it can be measured without. */
function Repairs({ run, act, busy }: Props) {
  if (run.repairable.length === 0) return null;
  return (
    <Picked
      label="Put right before going on"
      from={run.repairable}
      words="Put right"
      busy={busy}
      pick={(name) => act({ what: "repair", name })}
    />
  );
}

interface PickedProps {
  label: string;
  from: RunView["steps"];
  words: string;
  busy: boolean;
  pick: (code: string) => void;
}

function Picked({ label, from, words: told, busy, pick }: PickedProps) {
  const [code, setCode] = useState(from[0]?.code ?? "");
  return (
    <div className="mb-3">
      <label>
        <span className="label">{label}</span>
        <select className="field" value={code} onChange={(e) => setCode(e.target.value)}>
          {from.map((c) => (
            <option key={c.code} value={c.code}>
              {c.words}
            </option>
          ))}
        </select>
      </label>
      <BusyButton className="knob mt-1" busy={busy} onClick={() => pick(code)}>
        {told}
      </BusyButton>
    </div>
  );
}

/** What Plumb would do next; not in an exam. */
function Hint({ run }: { run: RunView }) {
  const hint = useHint(run.number);
  if (run.exam) return <p className="text-sm text-soft">An exam: there are no hints.</p>;
  return (
    <div className="mb-3">
      <BusyButton className="knob" busy={hint.isPending} onClick={() => hint.mutate()}>
        A hint, for 4 points
      </BusyButton>
      {run.hint && <p className="mt-1 border-l-4 border-chalk pl-2 text-sm">{run.hint}</p>}
      <Trouble text={hint.isError ? told(hint.error) : null} />
    </div>
  );
}

export default function Bench({ sheet }: { sheet: SheetView }) {
  const run = useRun(sheet.job_number);
  const act = useAct(sheet.job_number);
  if (!run.data) return <Trouble text={run.isError ? told(run.error) : null} />;
  if (run.data.ended) return <p className="mb-4 font-bold">This one was handed in.</p>;
  const props = { run: run.data, act: act.mutate, busy: act.isPending };
  return (
    <section aria-label="Bench" className="mb-4 border-b border-hair pb-2">
      <h2 className="mb-1 text-sm font-bold text-soft">At the engine</h2>
      <Now run={run.data} />
      <Looks {...props} sheet={sheet} />
      <Seen run={run.data} sheet={sheet} />
      <Trouble text={act.isError ? told(act.error) : null} />
      <Lines {...props} />
      <Works {...props} />
      <Repairs {...props} />
      <Hint run={run.data} />
      <Incidents run={run.data} />
      <Ledger run={run.data} />
    </section>
  );
}
