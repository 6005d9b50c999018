/** A job: the route on the left, the sheet in the middle, what the set says on the right. */
import { useQuery } from "@tanstack/react-query";
import { lazy, Suspense, useEffect, useState, type ReactNode } from "react";
import { Link, useNavigate, useParams, useSearchParams } from "react-router";
import { longDay } from "../../lib/clock";
import { Refused, told, type JobView, type KnotView, type SheetView } from "../../api/client";
import { PRACTISING } from "../../lib/base";
import { useKey } from "../../lib/keys";
import { useBeside, useThreeColumns } from "../../lib/media";
import { usePrefs } from "../../lib/prefs";
import { idOf, isUnsent } from "../../lib/places";
import { jobQuery, outbox, sheetQuery, useOutbox } from "../../lib/store";
import { Head, SavedState } from "../../ui/Head";
import { againWords, Kbd, Opening, Trouble } from "../../ui/parts";
import { Conditions } from "../sheet/Conditions";
import { expectedOf } from "../sheet/asks";
import { RowsSheet } from "../sheet/SheetView";
import { NotesWaiting } from "./NotesWaiting";
import { RouteLine, useBegin } from "./Route";
import { SaysPanel } from "./SaysPanel";
import { TakeAgain } from "./TakeAgain";

// What a sheet is entered with comes when such a sheet is opened; the usual one is part of the page.
const HowTo = lazy(() => import("../howto/HowTo"));
const Baselines = lazy(() => import("../sheet/Baselines"));
const LearntWindow = lazy(() => import("../sheet/LearntWindow"));
const Live = lazy(() => import("../live/Live"));
const HoldSheet = lazy(() => import("../hold/HoldSheet"));
const WalkSheet = lazy(() => import("../sheet/WalkSheet"));
const Bench = lazy(() => import("../practice/Bench"));
const HandIn = lazy(() => import("../practice/HandIn"));
const Spent = lazy(() => import("../practice/Spent"));
const Photos = lazy(() => import("../photos/Photos"));
const RepairPage = lazy(() => import("../finish/RepairPage"));
const Sightings = lazy(() => import("./Sightings"));
const VerdictPage = lazy(() => import("./VerdictPage"));
const VerdictPanel = lazy(() => import("./VerdictPanel"));
const JobTools = lazy(() => import("./JobTools"));

/** Which job and sheet are asked for; once the server knows them, by the names that it gave. */
function useAddress(): { number: string; key: string | undefined } {
  const { number: asked = "", sheet: askedKey } = useParams();
  useOutbox();
  const navigate = useNavigate();
  const number = outbox.numberOf(asked) ?? asked;
  const key = outbox.placeOf(idOf(askedKey))?.key ?? askedKey;
  const isNew = number !== asked || key !== askedKey;
  useEffect(() => {
    const sheet = key === undefined ? "" : `/${key}`;
    if (isNew) void navigate(`/jobs/${encodeURIComponent(number)}${sheet}`, { replace: true });
  }, [isNew, key, navigate, number]);
  return { number, key };
}

export default function JobPage() {
  const { number, key } = useAddress();
  // A new unit to show asks for the sheet anew.
  usePrefs();
  const job = useQuery(jobQuery(number));
  if (job.data) return <Job key={outbox.bornAs(number)} job={job.data} sheetKey={key} />;
  const lost = job.error instanceof Refused && job.error.status === 404;
  return (
    <>
      <Head title={jobWords(number)} />
      <main className="p-6" aria-busy={job.isPending}>
        <h1 className="mb-2 text-xl font-bold">{jobWords(number)}</h1>
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

/** What a job is called; one that waits here has no number yet. */
const jobWords = (number: string): string =>
  isUnsent(number) ? "New job, not sent yet" : `Job ${number}`;

/** The knot that the address names; without one the newest sheet. */
function knotAt(job: JobView, key: string | undefined): KnotView | undefined {
  const begun = job.route.filter((k) => k.sheet_id);
  const newest = begun.reduce<KnotView | undefined>(
    // Those that wait in this browser lie below zero, the newest lowest.
    (last, k) => (!last || Math.abs(k.sheet_id) > Math.abs(last.sheet_id) ? k : last),
    undefined,
  );
  const ofKind = begun.filter((k) => k.kind === key).at(-1);
  return begun.find((k) => k.key === key) ?? ofKind ?? newest;
}

/** An address may name a kind of sheet, as a worksheet's code does: one that is not there is begun. */
function useKindInAddress(job: JobView, key: string | undefined): void {
  const begin = useBegin(job);
  const knot = job.route.find((k) => k.kind === key);
  const wanted = knot && !job.route.some((k) => k.kind === key && k.sheet_id) && !job.closed;
  const { mutate, isIdle } = begin;
  useEffect(() => {
    if (wanted && isIdle) mutate({ kind: knot.kind });
  }, [wanted, isIdle, mutate, knot]);
}

function Job({ job, sheetKey }: { job: JobView; sheetKey: string | undefined }) {
  useKindInAddress(job, sheetKey);
  const repair = sheetKey === "repair";
  const verdict = sheetKey === "verdict";
  const whole = verdict || repair;
  const knot = whole ? undefined : knotAt(job, sheetKey);
  const sheet = useQuery({ ...sheetQuery(knot?.sheet_id ?? 0), enabled: knot !== undefined });
  const shown = whole ? undefined : sheet.data;
  const beside = useBeside();
  // Who comes for another row begins there, on a sheet that stands open already too.
  const at = useSearchParams()[0].get("at") ?? "";
  const says = (
    <Says beside={beside}>
      {shown && PRACTISING && <Bench sheet={shown} />}
      {shown && <SaysPanel sheet={shown} job={job} />}
      {whole && !PRACTISING && !isUnsent(job.number) && <VerdictPanel job={job} />}
      {whole && PRACTISING && <Spent number={job.number} />}
    </Says>
  );
  const here = whole ? sheetKey : knot?.key;
  return (
    <>
      <JobHead job={job} shown={shown} />
      {/* One boundary: what the sheet says never stands there before the sheet can be typed into. */}
      <Suspense fallback={<Opening />}>
        <div className="grid lg:grid-cols-[minmax(0,1fr)_17rem] xl:grid-cols-[12.5rem_minmax(0,1fr)_18.5rem]">
          <RouteColumn key={here} job={job} here={here} title={shown?.title} />
          <main className="min-w-0 p-3 sm:p-4" aria-busy={sheet.isLoading}>
            <NotesWaiting number={job.number} />
            {!shown && !whole && <Coming job={job} knot={knot} trouble={sheet.failureReason} />}
            {shown && (
              <Sheet key={`${outbox.originOf(shown.id)} ${at}`} sheet={shown} vehicle={job.vehicle}>
                {!beside && says}
              </Sheet>
            )}
            <OfTheJob job={job} shown={shown} here={sheetKey} />
            {whole && !beside && says}
          </main>
          {beside && says}
        </div>
      </Suspense>
    </>
  );
}

/** Until a sheet is there: its heading, for a page has one at any moment, and what keeps it away. */
function Coming({ job, knot, trouble }: ComingProps) {
  return (
    <>
      <h1 className="text-2xl font-bold">{knot?.title ?? jobWords(job.number)}</h1>
      {trouble && <Trouble text={told(trouble)} />}
      {!knot && <p>No sheet has been started on this job.</p>}
    </>
  );
}

interface ComingProps {
  job: JobView;
  knot: KnotView | undefined;
  trouble: Error | null;
}

/** What stands beneath a sheet, and the screens that are no sheets: verdict and repair. */
function OfTheJob({ job, shown, here }: OfTheJobProps) {
  if (isUnsent(job.number)) return <NotSeen here={here} />;
  if (PRACTISING && (here === "verdict" || here === "repair"))
    return <HandIn number={job.number} />;
  if (here === "verdict") return <VerdictPage job={job} />;
  if (here === "repair") {
    return (
      <>
        <RepairPage job={job} />
        <Photos job={job} sheet="" />
      </>
    );
  }
  return (
    <Suspense>
      {shown?.entry.shape === "form" && !PRACTISING && <Sightings job={job} />}
      {shown && shown.id > 0 && <TakeAgain key={`again ${shown.key}`} job={job} sheet={shown} />}
      {shown && shown.id > 0 && <Photos key={shown.key} job={job} sheet={shown.key} />}
    </Suspense>
  );
}

/** In place of verdict and repair of a job that waits in this browser. */
function NotSeen({ here = "" }: { here: string | undefined }) {
  const title = WHOLE[here];
  if (!title) return null;
  return (
    <>
      <h1 className="text-2xl font-bold">{title}</h1>
      <p>The server has not seen this job yet. What it says of it comes then.</p>
    </>
  );
}

/** The screens of a job that are no sheets. */
const WHOLE: Record<string, string> = { verdict: "Verdict", repair: "Repair" };

interface OfTheJobProps {
  job: JobView;
  shown: SheetView | undefined;
  here: string | undefined;
}

/** Which job it is, and whether everything typed is kept. */
function JobHead({ job, shown }: { job: JobView; shown: SheetView | undefined }) {
  const number = `${jobWords(job.number)}${job.closed ? ", closed" : ""}`;
  const of = job.dated_because ? `visit of ${longDay(job.opened)}` : "";
  const sub = [number, of, job.vehicle.registration, job.complaint, ...job.codes];
  return (
    <>
      <title>{`${isUnsent(job.number) ? "New" : job.number} ${job.vehicle.name} · Plumb`}</title>
      <Head title={job.vehicle.name} sub={sub.filter(Boolean).join(" · ")}>
        <Link className="knob" to="/?find">
          Find<span className="max-sm:sr-only"> a job</span> <Kbd>/</Kbd>
        </Link>
        <SavedState
          savedAt={shown && shown.measured > 0 ? shown.saved_at : null}
          idle={shown ? "Nothing to save yet" : "All saved"}
        />
      </Head>
    </>
  );
}

/** What the sheet or the job says: beside it, or beneath. */
function Says({ beside, children }: { beside: boolean; children: ReactNode }) {
  return (
    <aside
      className={`bg-sheet p-4 ${beside ? "border-l border-hair" : "mt-3 rounded-lg border border-hair"}`}
      aria-label="What the set says"
    >
      {children}
    </aside>
  );
}

interface RouteColumnProps {
  job: JobView;
  here: string | undefined;
  title: string | undefined;
}

/** The route in a column of its own, or one tap away where there is no room for one. */
function RouteColumn({ job, here, title }: RouteColumnProps) {
  const column = useThreeColumns();
  const [open, setOpen] = useState(false);
  const inside = (
    <>
      <RouteLine job={job} here={here} />
      <Suspense>
        {isUnsent(job.number) && <Unsent number={job.number} />}
        {!PRACTISING && !isUnsent(job.number) && <JobTools job={job} />}
      </Suspense>
    </>
  );
  if (column) return <div className="border-r border-hair p-4">{inside}</div>;
  return (
    <details
      className="border-b border-hair bg-sheet px-4 lg:col-span-2"
      open={open}
      onToggle={(e) => setOpen(e.currentTarget.open)}
    >
      <summary className="flex min-h-12 cursor-pointer items-center gap-2 font-bold">
        <span aria-hidden>{open ? "▾" : "▸"}</span> Route
        <span className="truncate font-normal text-soft">{WHOLE[here ?? ""] ?? title ?? ""}</span>
      </summary>
      <div className="pb-4">{inside}</div>
    </details>
  );
}

/** A job that waits in this browser can be thrown away like any that is empty, and asks first. */
function Unsent({ number }: { number: string }) {
  const [asked, setAsked] = useState(false);
  const navigate = useNavigate();
  const item = outbox.waiting().find((w) => w.kind === "job" && w.number === number);
  if (!item) return null;
  const on = outbox.beneath(item).length;
  const drop = () => void outbox.drop(item.seq).then(() => navigate("/"));
  if (!asked) {
    return (
      <button className="knob" onClick={() => (on > 0 ? setAsked(true) : drop())}>
        Throw this job away
      </button>
    );
  }
  return (
    <p className="grid justify-items-start gap-2 border-l-4 border-chalk pl-3">
      <span>With it goes what was entered on it: {on}.</span>
      <button className="knob" onClick={drop}>
        Throw it away all the same
      </button>
      <button className="knob" onClick={() => setAsked(false)}>
        Keep it
      </button>
    </p>
  );
}

interface SheetProps {
  sheet: SheetView;
  vehicle: JobView["vehicle"];
  /** What stands under the entry where it has no place beside the sheet. */
  children: ReactNode;
}

/** The card that says how this work is done; H opens it. */
function HowItIsDone({ sheet }: { sheet: SheetView }) {
  const [open, setOpen] = useState(false);
  useKey("h", () => setOpen(true));
  return (
    <>
      <button className="knob" onClick={() => setOpen(true)}>
        <span className="max-sm:sr-only">How it is done</span> <Kbd>H</Kbd>
      </button>
      <Suspense>{open && <HowTo sheet={sheet} close={() => setOpen(false)} />}</Suspense>
    </>
  );
}

/** A sheet that could have a window, and has none. */
function lacksWindow(sheet: SheetView): boolean {
  const window = sheet.knobs.find((k) => k.window);
  return (
    !sheet.closed &&
    sheet.id > 0 &&
    sheet.rule.code === "" &&
    (window?.fields.every((f) => f.value === "") ?? false)
  );
}

/** The sheet in the middle: its name, its conditions, and what its kind is entered with. */
function Sheet({ sheet, vehicle, children }: SheetProps) {
  const rows = !["form", "point"].includes(sheet.entry.shape);
  return (
    <>
      <div className="mb-2 flex flex-wrap items-baseline gap-x-3">
        <h1 className="text-2xl font-bold">
          {sheet.title}
          {sheet.again && `, ${sheet.again.words}`}
        </h1>
        {sheet.again && <p className="font-bold">{againWords(sheet.again)}</p>}
        <p className="text-soft max-sm:hidden">{sheet.sub}</p>
        <HowItIsDone sheet={sheet} />
      </div>
      <Conditions sheet={sheet} />
      <Suspense>{sheet.id > 0 && <Live key={sheet.id} sheet={sheet} />}</Suspense>
      {lacksWindow(sheet) && (
        <Suspense>
          <LearntWindow sheet={sheet} />
        </Suspense>
      )}
      {!sheet.closed && expectedOf(sheet) === "" && (
        <Suspense>
          <Baselines sheet={sheet} />
        </Suspense>
      )}
      {sheet.carried !== "" && <p className="mb-2 border-l-4 border-hair pl-3">{sheet.carried}</p>}
      {sheet.entry.shape === "form" ? (
        <WalkSheet sheet={sheet} />
      ) : sheet.entry.shape === "point" ? (
        <HoldSheet sheet={sheet} />
      ) : (
        <RowsSheet sheet={sheet} vehicle={vehicle} beneath={children} />
      )}
      {!rows && children}
    </>
  );
}
