/** The frame: addresses of the screens, and the head they share. */
import { lazy, Suspense, type ReactNode } from "react";
import { ErrorBoundary, type FallbackProps } from "react-error-boundary";
import { BrowserRouter, Link, Route, Routes } from "react-router";
import { TodayPage } from "./features/today/TodayPage";
import { useOutbox, useOutboxOpen } from "./lib/store";
import { setPrefs, SHOWN_UNITS, usePrefs, type ShownUnit, type Theme } from "./lib/prefs";
import { Opening, Trouble } from "./ui/parts";

const ShelfPage = lazy(() => import("./features/shelf/ShelfPage"));
const JobPage = lazy(() => import("./features/job/JobPage"));

export function App() {
  useOutboxOpen();
  return (
    <BrowserRouter>
      <ErrorBoundary FallbackComponent={Broken}>
        <Suspense fallback={<Opening />}>
          <Routes>
            <Route path="/" element={<TodayPage />} />
            <Route path="/jobs/:number" element={<JobPage />} />
            <Route path="/jobs/:number/:sheet" element={<JobPage />} />
            <Route path="/shelf" element={<ShelfPage />} />
            <Route path="*" element={<Lost />} />
          </Routes>
        </Suspense>
      </ErrorBoundary>
    </BrowserRouter>
  );
}

/** A part of the pages that did not come (the server is away, or was renewed), or a fault of ours. */
function Broken({ error }: FallbackProps) {
  return (
    <main className="grid justify-items-start gap-3 p-6">
      <h1 className="text-xl font-bold">This screen did not open.</h1>
      <Trouble text={error instanceof Error ? error.message : String(error)} />
      <p>
        What was typed and not yet saved is kept in this browser. If the server is away, start it,
        then load the screen anew.
      </p>
      <button className="knob" onClick={() => window.location.reload()}>
        Load it anew
      </button>
      <a href="/" className="underline">
        To today&rsquo;s jobs
      </a>
    </main>
  );
}

function Lost() {
  return (
    <>
      <Head title="Not here" />
      <main className="p-6">
        <h1 className="text-xl font-bold">There is no such screen.</h1>
        <Link to="/" className="underline">
          To today&rsquo;s jobs
        </Link>
      </main>
    </>
  );
}

interface HeadProps {
  title: string;
  sub?: string;
  children?: ReactNode;
}

/** The head of every screen: where you are, the unit, light or dark, and what is kept. */
export function Head({ title, sub, children }: HeadProps) {
  const prefs = usePrefs();
  return (
    <header className="flex min-h-13 flex-wrap items-center gap-x-4 gap-y-1 border-b border-hair bg-sheet px-4 py-1.5">
      <Link
        to="/"
        className="flex items-center gap-2 text-xl font-bold text-ink"
        aria-label="Plumb: today's jobs"
      >
        <img src="/plumb.svg" alt="" className="h-8" /> Plumb
      </Link>
      <div className="min-w-0 grow basis-40">
        <p className="truncate font-bold leading-tight">{title}</p>
        {sub && <p className="truncate text-sm leading-tight text-soft">{sub}</p>}
      </div>
      <div className="flex flex-wrap items-center gap-1.5">
        {children}
        <label className="knob">
          <span className="sr-only">Show pressures in</span>
          <select
            className="bg-field text-ink"
            value={prefs.unit}
            onChange={(e) => setPrefs({ unit: e.target.value as ShownUnit })}
          >
            {SHOWN_UNITS.map((u) => (
              <option key={u}>{u}</option>
            ))}
          </select>
        </label>
        <label className="knob">
          <span className="sr-only">Light or dark</span>
          <select
            className="bg-field text-ink"
            value={prefs.theme}
            onChange={(e) => setPrefs({ theme: e.target.value as Theme })}
          >
            <option value="system">as system</option>
            <option value="light">light</option>
            <option value="dark">dark</option>
          </select>
        </label>
      </div>
    </header>
  );
}

/** Whether all that was typed is kept by the server. */
interface SavedProps {
  savedAt: string | null;
  idle?: string;
}

export function SavedState({ savedAt, idle = "Nothing to save yet" }: SavedProps) {
  const { waiting, link } = useOutbox();
  const asking = waiting.filter((w) => w.problems.length > 0).length;
  const waits = waiting.length - asking;
  let text = savedAt ? `Saved ${when(new Date(savedAt))}` : idle;
  if (asking > 0) text = `${asking} to decide`;
  else if (waits > 0) {
    text = link === "away" ? `${waits} wait${waits === 1 ? "s" : ""} in this browser` : "Saving…";
  }
  return (
    <span
      role="status"
      className={`knob ${waits > 0 || asking > 0 ? "border-chalk bg-wash font-bold" : ""}`}
    >
      {text}
    </span>
  );
}

/** The time of today, the day of earlier. */
function when(moment: Date): string {
  return moment.toDateString() === new Date().toDateString()
    ? moment.toLocaleTimeString("en-GB")
    : moment.toLocaleDateString("en-GB", { day: "numeric", month: "short" });
}
