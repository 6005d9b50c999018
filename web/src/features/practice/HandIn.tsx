/** The verdict of whoever practises: handed in, marked line by line, printed. */
import { useState } from "react";
import { Link } from "react-router";
import { told, type RunView } from "../../api/client";
import { BusyButton, Kbd, Trouble } from "../../ui/parts";
import { resultOf, useHandIn, useRun, type Answer } from "./runs";

interface ChoiceProps {
  label: string;
  empty: string;
  from: RunView["conditions"];
  value: string;
  pick: (code: string) => void;
}

function Choice({ label, empty, from, value, pick }: ChoiceProps) {
  return (
    <select
      aria-label={label}
      className="field"
      value={value}
      onChange={(e) => pick(e.target.value)}
    >
      <option value="">{empty}</option>
      {from.map((c) => (
        <option key={c.code} value={c.code}>
          {c.words}
        </option>
      ))}
    </select>
  );
}

type Judged = NonNullable<Answer["injectors"]>[string];
const NOTHING: Judged = { condition: "", repair: "" };

interface InjectorsProps {
  run: RunView;
  judged: Record<string, Judged>;
  judge: (row: string, judged: Judged) => void;
}

/** Each injector: how it is, and what is done with it. */
function Injectors({ run, judged, judge }: InjectorsProps) {
  return (
    <table className="mb-4 w-full max-w-2xl text-left">
      <thead>
        <tr className="text-sm text-soft">
          <th scope="col" className="py-1 pr-3">
            Injector
          </th>
          <th scope="col">How it is</th>
          <th scope="col">What is done</th>
        </tr>
      </thead>
      <tbody>
        {run.injectors.map((row) => {
          const now = judged[row] ?? NOTHING;
          return (
            <tr key={row} className="border-t border-hair">
              <th scope="row" className="figure py-1 pr-3 text-xl">
                {row}
              </th>
              <td className="pr-2">
                <Choice
                  label={`Injector ${row} is`}
                  empty="is good"
                  from={run.conditions}
                  value={now.condition}
                  pick={(condition) => judge(row, { ...now, condition })}
                />
              </td>
              <td>
                <Choice
                  label={`Do with injector ${row}`}
                  empty="stays"
                  from={run.repairs}
                  value={now.repair}
                  pick={(repair) => judge(row, { ...now, repair })}
                />
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}

interface CausesProps {
  run: RunView;
  causes: string[];
  toggle: (code: string) => void;
  elsewhere: boolean;
  setElsewhere: (on: boolean) => void;
}

/** What is wrong with the engine, or that it is nothing that this work finds. */
function Causes({ run, causes, toggle, elsewhere, setElsewhere }: CausesProps) {
  return (
    <fieldset className="mb-4">
      <legend className="label">Wrong with the engine</legend>
      <div className="grid gap-x-6 sm:grid-cols-2">
        {run.causes.map((c) => (
          <label key={c.code} className="flex min-h-9 items-center gap-2">
            <input
              type="checkbox"
              checked={causes.includes(c.code)}
              onChange={() => toggle(c.code)}
            />
            {c.words}
          </label>
        ))}
        <label className="flex min-h-9 items-center gap-2">
          <input
            type="checkbox"
            checked={elsewhere}
            onChange={(e) => setElsewhere(e.target.checked)}
          />
          the complaint comes from elsewhere: ignition, air, timing
        </label>
      </div>
    </fieldset>
  );
}

function Form({ run }: { run: RunView }) {
  const [judged, setJudged] = useState<Record<string, Judged>>({});
  const [causes, setCauses] = useState<string[]>([]);
  const [elsewhere, setElsewhere] = useState(false);
  const hand = useHandIn(run.number);
  const toggle = (code: string) =>
    setCauses((old) => (old.includes(code) ? old.filter((c) => c !== code) : [...old, code]));
  const injectors = Object.fromEntries(
    Object.entries(judged).filter(([, j]) => j.condition !== "" || j.repair !== ""),
  );
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault();
        hand.mutate({ injectors, causes, elsewhere });
      }}
    >
      <p className="mb-3 max-w-2xl">
        Say what is wrong and what is to be done. Whatever is left as it is counts as good. Once
        handed in it is marked, and the bench is put away.
      </p>
      <Injectors
        run={run}
        judged={judged}
        judge={(row, j) => setJudged((old) => ({ ...old, [row]: j }))}
      />
      <Causes
        run={run}
        causes={causes}
        toggle={toggle}
        elsewhere={elsewhere}
        setElsewhere={setElsewhere}
      />
      <BusyButton className="slab-knob" busy={hand.isPending}>
        Hand it in <Kbd>Enter</Kbd>
      </BusyButton>
      <Trouble text={hand.isError ? told(hand.error) : null} />
    </form>
  );
}

/** Every line of the marks, with its reason and the minute it happened at. */
function Lines({ marks }: Pick<RunView, "marks">) {
  return (
    <table className="mb-4 w-full max-w-3xl text-left">
      <thead>
        <tr className="text-sm text-soft">
          <th scope="col" className="py-1 pr-3">
            For
          </th>
          <th scope="col" className="pr-3 text-right">
            points
          </th>
          <th scope="col" className="pr-3 text-right">
            of
          </th>
          <th scope="col">why</th>
        </tr>
      </thead>
      <tbody>
        {marks.map((m, n) => (
          <tr key={`${n} ${m.what}`} className="border-t border-hair align-baseline">
            <th scope="row" className="py-1 pr-3">
              {m.what}
            </th>
            <td className={`figure pr-3 text-right ${m.got < m.of ? "font-bold text-high" : ""}`}>
              {m.got}
            </td>
            <td className="figure pr-3 text-right">{m.of > 0 ? m.of : ""}</td>
            <td>
              {m.why}
              {m.minute !== null && ` (minute ${Math.round(m.minute)})`}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** What was hidden, and what the answer to it was worth. */
function Marked({ run }: { run: RunView }) {
  return (
    <>
      <p className="mb-2 text-xl font-bold" role="status">
        {run.points} of 100 points
      </p>
      <p className="mb-3 max-w-2xl">
        <b>What was hidden:</b> {run.truth.join("; ") || "nothing, this engine is sound"}.
        {run.teaches && ` What it teaches: ${run.teaches}.`}
      </p>
      <Lines marks={run.marks} />
      <p className="off-paper flex flex-wrap gap-2">
        <a className="slab-knob" href={resultOf(run.number)} target="_blank" rel="noreferrer">
          Print the result
        </a>
        <Link className="knob min-h-11" to="/">
          Another exercise
        </Link>
      </p>
    </>
  );
}

export default function HandIn({ number }: { number: string }) {
  const run = useRun(number);
  return (
    <>
      <h1 className="mb-2 text-2xl font-bold">{run.data?.exam ? "Exam" : "Your verdict"}</h1>
      {!run.data && <Trouble text={run.isError ? told(run.error) : null} />}
      {run.data && (run.data.ended ? <Marked run={run.data} /> : <Form run={run.data} />)}
    </>
  );
}
