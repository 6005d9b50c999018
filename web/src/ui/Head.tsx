/** The head of every screen, and whether all that was typed is kept. */
import { lazy, Suspense, useEffect, useState, type ReactNode } from "react";
import { flushSync } from "react-dom";
import { Link } from "react-router";
import { PRACTISING } from "../lib/base";
import { useHere } from "../lib/here";
import { useKeptSince } from "../lib/kept";
import { setPrefs, SHOWN_UNITS, usePrefs, type Theme } from "../lib/prefs";
import { outbox, useOutbox } from "../lib/store";
import { SAVING, waitsTold } from "../lib/waits";
import { ToDecide } from "./ToDecide";

const Who = lazy(() => import("../features/people/Who"));

interface HeadProps {
  title: string;
  sub?: string;
  children?: ReactNode;
}

/** The head of every screen: where you are, the unit, light or dark, and what is kept. */
export function Head({ title, sub, children }: HeadProps) {
  const prefs = usePrefs();
  const here = useHere();
  return (
    <header className="flex min-h-13 flex-wrap items-center gap-x-4 gap-y-1 border-b border-hair bg-sheet px-4 py-1.5">
      {PRACTISING && <PracticeBand />}
      <Link
        to="/"
        className="flex items-center gap-2 text-xl font-bold text-ink"
        aria-label={PRACTISING ? "Plumb: practice" : "Plumb: today's jobs"}
      >
        <img src="/plumb.svg" alt="" className="h-8" /> Plumb
      </Link>
      <div className="min-w-0 grow basis-40">
        <p className="truncate font-bold leading-tight">{title}</p>
        {sub && <p className="truncate text-sm leading-tight text-soft">{sub}</p>}
      </div>
      <Printed />
      <div className="off-paper flex flex-wrap items-center gap-1.5">
        {children}
        <Pick
          label="Show pressures in"
          value={prefs.unit}
          options={SHOWN_UNITS.map((u) => [u, u])}
          pick={(unit) => setPrefs({ unit })}
        />
        <Pick
          label="Light or dark"
          value={prefs.theme}
          options={THEMES}
          pick={(theme) => setPrefs({ theme })}
        />
        {here?.person && (
          <Suspense>
            <Who here={here} />
          </Suspense>
        )}
      </div>
    </header>
  );
}

/** Nobody shall take a virtual engine for a real one. */
function PracticeBand() {
  return (
    <p className="-mx-4 -mt-1.5 basis-[calc(100%+2rem)] border-b border-chalk bg-wash px-4 py-1 text-sm">
      <b>Practice.</b> A virtual engine with hidden faults; nothing of it gets into the workshop.{" "}
      <a href="/" className="underline">
        Back to the workshop
      </a>
    </p>
  );
}

/** The day and hour on paper. */
function Printed() {
  const [at, setAt] = useState(() => new Date());
  useEffect(() => {
    const now = () => flushSync(() => setAt(new Date()));
    window.addEventListener("beforeprint", now);
    return () => window.removeEventListener("beforeprint", now);
  }, []);
  const day = at.toLocaleString("en-GB", { dateStyle: "long", timeStyle: "short" });
  return <p className="on-paper">Printed {day}</p>;
}

const THEMES: [Theme, string][] = [
  ["system", "as system"],
  ["light", "light"],
  ["dark", "dark"],
];

interface PickProps<T extends string> {
  label: string;
  value: T;
  options: [T, string][];
  pick: (value: T) => void;
}

function Pick<T extends string>({ label, value, options, pick }: PickProps<T>) {
  return (
    <label className="knob">
      <span className="sr-only">{label}</span>
      <select
        className="bg-field text-ink"
        value={value}
        onChange={(e) => pick(e.target.value as T)}
      >
        {options.map(([code, words]) => (
          <option key={code} value={code}>
            {words}
          </option>
        ))}
      </select>
    </label>
  );
}

/** Whether all that was typed is kept by the server. */
interface SavedProps {
  savedAt: string | null;
  idle?: string;
}

export function SavedState({ savedAt, idle = "Nothing to save yet" }: SavedProps) {
  const { waiting, link } = useOutbox();
  const kept = useKeptSince();
  const asking = waiting.filter((w) => w.problems.length > 0).length;
  const others = waiting.filter(
    (w) => !outbox.isMine(w) || !outbox.isMine(outbox.parentOf(w) ?? w),
  );
  const waits = waiting.length - asking - others.length;
  let text = savedAt ? `Saved ${when(new Date(savedAt))}` : idle;
  if (asking > 0) text = `${asking} to decide`;
  else if (waits > 0) {
    text = link === "away" ? waitsTold(waits, waiting) : SAVING;
  } else if (others.length > 0) {
    text = `${others.length} wait${others.length === 1 ? "s" : ""} for ${others[0]?.by?.name}`;
  }
  if (link === "blocked") text = "Close the other windows of Plumb";
  return (
    <>
      <span
        role="status"
        className={`knob ${waits > 0 || asking > 0 || link === "blocked" ? "border-chalk bg-wash font-bold" : ""}`}
      >
        {text}
      </span>
      {kept && <span className="knob">The server is away: as of {when(new Date(kept))}</span>}
      {asking > 0 && <ToDecide />}
    </>
  );
}

/** The time of today, the day of earlier. */
function when(moment: Date): string {
  return moment.toDateString() === new Date().toDateString()
    ? moment.toLocaleTimeString("en-GB")
    : moment.toLocaleDateString("en-GB", { day: "numeric", month: "short" });
}
