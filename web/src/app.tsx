/** The frame: addresses of the screens, and what stands where one does not open. */
import { lazy, Suspense, useState } from "react";
import { ErrorBoundary, type FallbackProps } from "react-error-boundary";
import { BrowserRouter, Link, Route, Routes, useLocation } from "react-router";
import { BASE, PRACTISING } from "./lib/base";
import { useKey } from "./lib/keys";
import { useOutboxOpen } from "./lib/store";
import { Gate } from "./ui/Gate";
import { Head } from "./ui/Head";
import { Opening, Trouble } from "./ui/parts";

// Who opens a job need not wait for Today, nor the other way round.
const TodayPage = lazy(() => import("./features/today/TodayPage"));
const ShelfPage = lazy(() => import("./features/shelf/ShelfPage"));
const JobPage = lazy(() => import("./features/job/JobPage"));
const YearsPage = lazy(() => import("./features/years/YearsPage"));
const RulesPage = lazy(() => import("./features/rules/RulesPage"));
const PracticePage = lazy(() => import("./features/practice/PracticePage"));
const PeoplePage = lazy(() => import("./features/people/PeoplePage"));
const JournalPage = lazy(() => import("./features/people/JournalPage"));
const ScreenKeys = lazy(() => import("./features/keys/ScreenKeys"));

export function App() {
  useOutboxOpen();
  return (
    <BrowserRouter basename={BASE || "/"}>
      <ErrorBoundary FallbackComponent={Broken}>
        <Gate>
          <Suspense fallback={<Opening />}>
            <Routes>
              <Route path="/" element={PRACTISING ? <PracticePage /> : <TodayPage />} />
              <Route path="/jobs/:number" element={<JobPage />} />
              <Route path="/jobs/:number/:sheet" element={<JobPage />} />
              <Route path="/vehicles/:id" element={<YearsPage />} />
              <Route path="/rules" element={<RulesPage />} />
              <Route path="/shelf" element={<ShelfPage />} />
              <Route path="/people" element={<PeoplePage />} />
              <Route path="/journal" element={<JournalPage />} />
              <Route path="*" element={<Lost />} />
            </Routes>
          </Suspense>
          <Help />
        </Gate>
      </ErrorBoundary>
    </BrowserRouter>
  );
}

/** What stands on a sheet that tells its keys itself. */
const OWN_KEYS = "section[aria-label=Entry], section[aria-label=Closed]";

/** `?` shows the keys of the screen; a sheet with an entry line shows its own. */
function Help() {
  const { pathname } = useLocation();
  const [open, setOpen] = useState(false);
  // Where a sheet tells its own keys this one is left to it, untouched.
  useKey(
    "?",
    () => setOpen(true),
    () => document.querySelector(OWN_KEYS) === null,
  );
  if (!open) return null;
  return (
    <Suspense>
      <ScreenKeys path={pathname} close={() => setOpen(false)} />
    </Suspense>
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
      <a href={BASE || "/"} className="underline">
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
