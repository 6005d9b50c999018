/** Practice: thirty engines, as many drawn ones as anybody likes, an exam, and how far everybody has come. */
import { useQuery } from "@tanstack/react-query";
import { Link, useNavigate } from "react-router";
import { told, type PracticeView } from "../../api/client";
import { setPrefs, usePrefs } from "../../lib/prefs";
import { Head } from "../../ui/Head";
import { BusyButton, Text, Trouble } from "../../ui/parts";
import { practiceQuery, resultOf, useBeginRun } from "./runs";

type Exercise = PracticeView["exercises"][number];
type Run = PracticeView["runs"][number];

const runPath = (run: Run) =>
  `/jobs/${encodeURIComponent(run.number)}${run.points === null ? "" : "/verdict"}`;
const nameOf = (run: Run) =>
  run.exercise.startsWith("drawn") ? "drawn" : `Exercise ${run.exercise}`;

interface ExercisesProps {
  of: Exercise[];
  me: string;
  begin: (code: string) => void;
  busy: boolean;
}

/** The thirty, the easiest first, with the best that this person got. */
function Exercises({ of, me, begin, busy }: ExercisesProps) {
  return (
    <ol
      aria-label="Exercises"
      className="grid gap-px overflow-hidden rounded-lg border border-hair bg-hair sm:grid-cols-2 lg:grid-cols-3"
    >
      {of.map((e) => (
        <li key={e.code} className="flex items-center gap-3 bg-sheet px-3 py-1.5">
          <span className="figure text-lg font-bold">{e.code}</span>
          <span className="min-w-0 grow text-sm leading-tight">
            {e.vehicle}
            <span className="block text-soft">
              {e.system.replaceAll("_", " ")}, {e.count} injector{e.count === 1 ? "" : "s"}
              {me in e.best && <b className="text-ink"> · best {e.best[me]}</b>}
            </span>
          </span>
          <BusyButton
            className="knob shrink-0"
            busy={busy}
            aria-label={`Begin exercise ${e.code}`}
            onClick={() => begin(e.code)}
          >
            Begin
          </BusyButton>
        </li>
      ))}
    </ol>
  );
}

function Runs({ title, of }: { title: string; of: Run[] }) {
  if (of.length === 0) return null;
  return (
    <section className="mt-6">
      <h2 className="mb-1 font-bold">{title}</h2>
      <ul className="overflow-hidden rounded-lg border border-hair bg-sheet">
        {of.map((run) => (
          <li
            key={run.number}
            className="flex flex-wrap items-center gap-x-4 gap-y-1 border-t border-hair px-3 py-1.5 first:border-0"
          >
            <Link className="min-w-0 grow underline" to={runPath(run)}>
              {run.vehicle}
            </Link>
            <span className="text-sm text-soft">
              {run.exam && "exam, "}
              {nameOf(run)}, {run.by || "nobody named"},{" "}
              {new Date(run.begun_at).toLocaleString("en-GB", {
                dateStyle: "medium",
                timeStyle: "short",
              })}
            </span>
            {run.points !== null && (
              <>
                <b className="figure">{run.points}</b>
                <a className="knob" href={resultOf(run.number)} target="_blank" rel="noreferrer">
                  Print
                </a>
              </>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}

/** Who has come how far. */
function People({ of }: { of: PracticeView["people"] }) {
  if (of.length === 0) return null;
  return (
    <table className="mt-6 w-full max-w-2xl text-left">
      <caption className="mb-1 text-left font-bold">How far everybody has come</caption>
      <thead>
        <tr className="border-b border-hair text-sm text-soft">
          <th scope="col">Who</th>
          <th scope="col" className="text-right">
            handed in
          </th>
          <th scope="col" className="text-right">
            of the thirty, 80 or more
          </th>
          <th scope="col" className="text-right">
            mean of the best
          </th>
        </tr>
      </thead>
      <tbody>
        {of.map((p) => (
          <tr key={p.by} className="border-b border-hair">
            <th scope="row" className="py-1">
              {p.by || "nobody named"}
            </th>
            <td className="figure text-right">{p.handed_in}</td>
            <td className="figure text-right">{p.solved}</td>
            <td className="figure text-right">{p.mean_best}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** What all of it is about, and the ways in that are no exercise of the thirty. */
function Ways({ begin, busy }: { begin: (exam: boolean) => void; busy: boolean }) {
  return (
    <>
      <p className="mb-3 max-w-3xl">
        An engine with a complaint, real sheets, instruments that speak. Work it in the order you
        think right, pay for it in minutes and money, hand in a verdict. It is marked for the
        injectors found, for good ones left alone, for the cause, for what it cost and for what
        could have hurt someone.
      </p>
      <p className="mb-4 flex flex-wrap gap-2">
        <BusyButton className="slab-knob" busy={busy} onClick={() => begin(false)}>
          Draw an engine
        </BusyButton>
        <BusyButton className="knob min-h-11" busy={busy} onClick={() => begin(true)}>
          Exam: one is drawn, without hints
        </BusyButton>
      </p>
    </>
  );
}

export default function PracticePage() {
  const practice = useQuery(practiceQuery);
  const { me } = usePrefs();
  const navigate = useNavigate();
  const run = useBeginRun();
  const begin = (exercise: string, exam = false) =>
    run.mutate(
      { exercise, by: me.trim(), exam },
      { onSuccess: (made) => void navigate(`/jobs/${encodeURIComponent(made.number)}`) },
    );
  const runs = practice.data?.runs ?? [];
  return (
    <>
      <title>Practice · Plumb</title>
      <Head title="Practice" sub="engines with hidden faults" />
      <main className="mx-auto max-w-7xl px-4 py-5">
        <h1 className="mb-2 text-2xl font-bold">Practice</h1>
        <Ways begin={(exam) => begin("", exam)} busy={run.isPending} />
        <div className="mb-4 max-w-xs">
          <Text label="Who practises" value={me} onChange={(name) => setPrefs({ me: name })} />
        </div>
        <Trouble text={practice.isError ? told(practice.error) : null} />
        <Trouble text={run.isError ? told(run.error) : null} />
        <Exercises
          of={practice.data?.exercises ?? []}
          me={me.trim()}
          begin={(code) => begin(code)}
          busy={run.isPending}
        />
        <Runs title="Going on" of={runs.filter((r) => r.points === null)} />
        <Runs title="Handed in" of={runs.filter((r) => r.points !== null).slice(0, 20)} />
        <People of={practice.data?.people ?? []} />
      </main>
    </>
  );
}
