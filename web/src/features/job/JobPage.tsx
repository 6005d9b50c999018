/** A job: the route on the left, the sheet in the middle, what the set says on the right. */
import { useMutation, useQuery } from "@tanstack/react-query";
import { lazy, Suspense, useState } from "react";
import { Link, useParams } from "react-router";
import api, {
  got,
  Refused,
  told,
  type JobView,
  type KnotView,
  type SheetView,
} from "../../api/client";
import { usePrefs } from "../../lib/prefs";
import { jobQuery, queries, sheetQuery } from "../../lib/store";
import { Head, SavedState } from "../../ui/Head";
import { Kbd, Opening, Trouble } from "../../ui/parts";
import { Conditions } from "../sheet/Conditions";
import { RowsSheet } from "../sheet/SheetView";
import { TraceSlot } from "../trace/TraceSlot";
import { RouteLine } from "./Route";
import { SaysPanel } from "./SaysPanel";

// What a sheet is entered with comes when such a sheet is opened; the usual one is part of the page.
const HoldSheet = lazy(() => import("../hold/HoldSheet"));
const WalkSheet = lazy(() => import("../sheet/WalkSheet"));
const VerdictPage = lazy(() => import("./VerdictPage"));
const VerdictPanel = lazy(() => import("./VerdictPanel"));
const EngineDialog = lazy(() => import("./EngineDialog"));

export default function JobPage() {
  const { number = "", sheet: key } = useParams();
  // A new unit to show asks for the sheet anew.
  usePrefs();
  const job = useQuery(jobQuery(number));
  if (job.data) return <Job key={job.data.number} job={job.data} sheetKey={key} />;
  const lost = job.error instanceof Refused && job.error.status === 404;
  return (
    <>
      <Head title={`Job ${number}`} />
      <main className="p-6">
        <h1 className="mb-2 text-xl font-bold">Job {number}</h1>
        {job.isPending ? (
          <p>Opening…</p>
        ) : (
          <Trouble text={lost ? `There is no job ${number}.` : told(job.error)} />
        )}
        <Link className="underline" to="/">
          To today&rsquo;s jobs
        </Link>
      </main>
    </>
  );
}

/** The knot that the address names; without one the newest sheet. */
function knotAt(job: JobView, key: string | undefined): KnotView | undefined {
  const begun = job.route.filter((k) => k.sheet_id);
  const newest = begun.reduce<KnotView | undefined>(
    (last, k) => (!last || k.sheet_id > last.sheet_id ? k : last),
    undefined,
  );
  return begun.find((k) => k.key === key) ?? newest;
}

function Job({ job, sheetKey }: { job: JobView; sheetKey: string | undefined }) {
  const verdict = sheetKey === "verdict";
  const knot = verdict ? undefined : knotAt(job, sheetKey);
  const sheet = useQuery({ ...sheetQuery(knot?.sheet_id ?? 0), enabled: knot !== undefined });
  const shown = verdict ? undefined : sheet.data;
  const sub = [`Job ${job.number}`, job.vehicle.registration, job.complaint, ...job.codes];
  return (
    <>
      <title>{`${job.number} ${job.vehicle.name} · Plumb`}</title>
      <Head title={job.vehicle.name} sub={sub.filter(Boolean).join(" · ")}>
        <Link className="knob" to="/?find">
          Find<span className="max-sm:sr-only"> a job</span> <Kbd>/</Kbd>
        </Link>
        <SavedState
          savedAt={shown && shown.measured > 0 ? shown.saved_at : null}
          idle={verdict ? "All saved" : "Nothing to save yet"}
        />
      </Head>
      {/* One boundary: what the sheet says never stands there before the sheet can be typed into. */}
      <Suspense fallback={<Opening />}>
        <div className="grid lg:grid-cols-[12.5rem_minmax(0,1fr)_18.5rem]">
          <div className="order-last border-t border-hair p-4 lg:order-none lg:border-r lg:border-t-0">
            <RouteLine job={job} here={verdict ? "verdict" : knot?.key} />
            <JobTools job={job} />
          </div>
          <main className="min-w-0 p-3 sm:p-4">
            {!verdict && sheet.isError && !sheet.data && <Trouble text={told(sheet.error)} />}
            {shown && <Sheet key={shown.id} sheet={shown} vehicle={job.vehicle} />}
            {verdict && <VerdictPage job={job} />}
            {!knot && !verdict && <p>No sheet has been started on this job.</p>}
          </main>
          <aside
            className="border-t border-hair bg-sheet p-4 lg:border-l lg:border-t-0"
            aria-label="What the set says"
          >
            {shown && <SaysPanel sheet={shown} job={job} />}
            {verdict && <VerdictPanel job={job} />}
          </aside>
        </div>
      </Suspense>
    </>
  );
}

/** The sheet in the middle: its name, its conditions, and what its kind is entered with. */
function Sheet({ sheet, vehicle }: { sheet: SheetView; vehicle: JobView["vehicle"] }) {
  return (
    <>
      <div className="mb-2 flex flex-wrap items-baseline gap-x-3">
        <h1 className="text-2xl font-bold">{sheet.title}</h1>
        <p className="text-soft max-sm:hidden">{sheet.sub}</p>
      </div>
      <Conditions sheet={sheet} />
      {sheet.entry.shape === "form" ? (
        <WalkSheet sheet={sheet} />
      ) : sheet.entry.shape === "point" ? (
        <HoldSheet sheet={sheet} />
      ) : sheet.entry.shape === "trace" ? (
        <TraceSlot sheet={sheet} />
      ) : (
        <RowsSheet sheet={sheet} vehicle={vehicle} />
      )}
    </>
  );
}

/** What can be done with the job as a whole. */
function JobTools({ job }: { job: JobView }) {
  const [engine, setEngine] = useState(false);
  const close = useMutation({
    mutationFn: () =>
      got(
        api.PATCH("/api/jobs/{number}", {
          params: { path: { number: job.number } },
          body: { closed: !job.closed },
        }),
      ),
    onSuccess: (view) => {
      queries.setQueryData(["job", job.number], view);
      void queries.invalidateQueries({ queryKey: ["jobs"] });
    },
  });
  return (
    <section
      aria-label="This job"
      className="mt-5 flex flex-wrap gap-2 lg:grid lg:justify-items-start"
    >
      <button className="knob" onClick={() => setEngine(true)}>
        Banks and feeds
      </button>
      <a className="knob" href={`/api/jobs/${encodeURIComponent(job.number)}/file`} download>
        Save the job file
      </a>
      <button className="knob" disabled={close.isPending} onClick={() => close.mutate()}>
        {job.closed ? "Open the job again" : "Close the job"}
      </button>
      <Trouble text={close.isError ? told(close.error) : null} />
      <Suspense>
        {engine && <EngineDialog vehicle={job.vehicle} open={engine} onOpenChange={setEngine} />}
      </Suspense>
    </section>
  );
}
