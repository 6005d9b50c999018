/** Today: the jobs that are open, what each waits for, and the way to a new one. */
import { useInfiniteQuery, useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState, type RefObject } from "react";
import { Link, useNavigate, useSearchParams } from "react-router";
import { told, type JobLine } from "../../api/client";
import { useToday } from "../../lib/clock";
import { isUnsent } from "../../lib/places";
import { catalogueQuery, jobsQuery, useOutbox } from "../../lib/store";
import { unsentJobs, unsentLine } from "../../lib/unsent";
import { Head, SavedState } from "../../ui/Head";
import { BusyButton, Kbd, Trouble } from "../../ui/parts";
import { ImportDialog } from "./ImportDialog";
import { Keeping } from "./Keeping";
import { LookAgain } from "./LookAgain";
import { MiniChart } from "./MiniChart";
import { NewJobDialog } from "./NewJobDialog";

const SYSTEMS: Record<string, string> = {
  port: "port injection",
  throttle_body: "throttle body",
  direct: "direct injection",
  common_rail: "common rail",
  mechanical_diesel: "mechanical diesel",
};

type Open = "new" | "import" | null;

/** The arrows choose a job, `/` goes to the search box, `N` opens a new job. */
function useTodayKeys(
  box: RefObject<HTMLInputElement | null>,
  list: RefObject<HTMLUListElement | null>,
  open: Open,
  begin: () => void,
): void {
  const latest = useRef(begin);
  useEffect(() => {
    latest.current = begin;
  });
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      const typing = e.target instanceof HTMLInputElement || e.target instanceof HTMLSelectElement;
      if (open !== null || e.ctrlKey || e.metaKey || e.altKey) return;
      if (e.key === "ArrowDown" || e.key === "ArrowUp") {
        if (e.target instanceof HTMLSelectElement) return;
        e.preventDefault();
        step(list.current, e.key === "ArrowDown" ? 1 : -1, box.current);
      } else if (!typing && e.key === "/") {
        e.preventDefault();
        box.current?.focus();
      } else if (!typing && e.key.toLowerCase() === "n") {
        e.preventDefault();
        latest.current();
      }
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [box, list, open]);
}

/** The jobs that were fetched so far, and how many there are in all. */
function useJobs(find: string, closed: boolean) {
  const jobs = useInfiniteQuery(jobsQuery(find, closed));
  const pages = jobs.data?.pages ?? [];
  const last = pages.at(-1);
  const total = last ? `${last.more ? "more than " : ""}${last.total}` : "0";
  return { jobs, rows: pages.flatMap((page) => page.jobs), total };
}

interface MoreProps {
  jobs: ReturnType<typeof useJobs>["jobs"];
  here: number;
  total: string;
}

/** The next page of jobs, where there is one. */
function More({ jobs, here, total }: MoreProps) {
  if (!jobs.hasNextPage) return null;
  return (
    <BusyButton
      className="knob mt-3"
      busy={jobs.isFetchingNextPage}
      onClick={() => void jobs.fetchNextPage()}
    >
      Show more: {here} of {total} are here
    </BusyButton>
  );
}

export default function TodayPage() {
  const [find, setFind] = useState("");
  const [closed, setClosed] = useState(false);
  const [open, setOpen] = useState<Open>(null);
  const box = useRef<HTMLInputElement>(null);
  const list = useRef<HTMLUListElement>(null);
  const { jobs, rows, total } = useJobs(find, closed);
  const { waiting } = useOutbox();
  // Here already when a new job is opened in a few keys.
  useQuery(catalogueQuery);
  const begin = () => setOpen("new");
  useTodayKeys(box, list, open, begin);
  return (
    <>
      <title>Today · Plumb</title>
      <TodayHead open={closed || find ? null : total} bringIn={() => setOpen("import")} />
      <main className="mx-auto max-w-7xl px-4 py-5">
        <div className="mb-4 flex flex-wrap items-center gap-3">
          <h1 className="text-xl font-bold">Today</h1>
          <Search box={box} find={find} setFind={setFind} first={rows[0]} />
          <label className="off-paper flex min-h-11 items-center gap-2 text-sm">
            <input type="checkbox" checked={closed} onChange={(e) => setClosed(e.target.checked)} />
            closed ones too
          </label>
          <button className="slab-knob" onClick={begin}>
            New job <Kbd>N</Kbd>
          </button>
        </div>
        <Trouble text={jobs.isError ? told(jobs.error) : null} />
        <Keeping />
        {jobs.isSuccess && rows.length === 0 && (
          <p className="rounded-lg border border-hair bg-sheet p-6">
            {find ? "No job fits these words." : "No job is open. Start one with New job."}
          </p>
        )}
        <LookAgain />
        <Jobs list={list} rows={find ? rows : [...unsentJobs(waiting).map(unsentLine), ...rows]} />
        <More jobs={jobs} here={rows.length} total={total} />
        <Legend />
      </main>
      <NewJobDialog open={open === "new"} onOpenChange={(o) => setOpen(o ? "new" : null)} />
      <ImportDialog open={open === "import"} onOpenChange={(o) => setOpen(o ? "import" : null)} />
    </>
  );
}

interface JobsProps {
  list: RefObject<HTMLUListElement | null>;
  rows: JobLine[];
}

function Jobs({ list, rows }: JobsProps) {
  return (
    <ul ref={list} className="overflow-hidden rounded-lg border border-hair bg-sheet empty:hidden">
      {rows.map((job) => (
        <JobRow key={job.number} job={job} />
      ))}
    </ul>
  );
}

function TodayHead({ open, bringIn }: { open: string | null; bringIn: () => void }) {
  const day = useToday().toLocaleDateString("en-GB", {
    weekday: "long",
    day: "numeric",
    month: "long",
  });
  return (
    <Head title="Workshop" sub={open === null ? day : `${day}, ${open} open`}>
      <Link className="knob" to="/shelf">
        Shelf
      </Link>
      <a className="knob" href="/practice/">
        Practice
      </a>
      <button className="knob" onClick={bringIn}>
        Bring in a job file
      </button>
      <SavedState savedAt={null} idle="All saved" />
    </Head>
  );
}

interface SearchProps {
  box: RefObject<HTMLInputElement | null>;
  find: string;
  setFind: (words: string) => void;
  first: JobLine | undefined;
}

/** Narrows the list as it is typed; Enter opens the first that is left. */
function Search({ box, find, setFind, first }: SearchProps) {
  const [params] = useSearchParams();
  const navigate = useNavigate();
  useEffect(() => {
    if (params.has("find")) box.current?.focus();
  }, [box, params]);
  return (
    <label className="off-paper relative min-w-60 grow">
      <span className="sr-only">Find a job by number, plate, vehicle, complaint or code</span>
      <input
        ref={box}
        type="search"
        className="field pr-12"
        placeholder="Number, plate, vehicle, complaint or code"
        value={find}
        onChange={(e) => setFind(e.target.value)}
        onKeyDown={(e) => {
          if (e.key === "Enter" && first)
            void navigate(`/jobs/${encodeURIComponent(first.number)}`);
          if (e.key === "Escape") setFind("");
        }}
      />
      <span className="pointer-events-none absolute right-3 top-2.5" aria-hidden>
        <Kbd>/</Kbd>
      </span>
    </label>
  );
}

function Legend() {
  return (
    <p className="off-paper mt-3 flex flex-wrap gap-x-5 gap-y-1 text-sm text-soft">
      <span>
        <Kbd>↑</Kbd> <Kbd>↓</Kbd> choose
      </span>
      <span>
        <Kbd>Enter</Kbd> go on where it stopped
      </span>
      <span>Yellow edge: can be done now. Black edge: nothing left to measure.</span>
    </p>
  );
}

/** Move the focus through the list of jobs; above the first lies the search box. */
function step(list: HTMLUListElement | null, by: number, box: HTMLInputElement | null): void {
  const links = [...(list?.querySelectorAll<HTMLAnchorElement>("a") ?? [])];
  const at = links.findIndex((l) => l === document.activeElement);
  const next = links[at + by];
  if (next) next.focus();
  else if (by < 0) box?.focus();
}

function JobRow({ job }: { job: JobLine }) {
  const edge = job.closed ? "border-hair" : job.waits === "done" ? "border-ink" : "border-chalk";
  return (
    <li className="border-b border-hair last:border-0">
      <Link
        to={`/jobs/${encodeURIComponent(job.number)}`}
        className="grid grid-cols-[3.5rem_1fr] items-center gap-x-3 gap-y-2 px-4 py-3 hover:bg-paper md:grid-cols-[3.5rem_1fr_18rem] lg:grid-cols-[3.5rem_1fr_17rem_20rem]"
      >
        <span className="figure text-lg font-bold">
          {isUnsent(job.number) ? "new" : job.number}
        </span>
        <span className="min-w-0">
          <span className="block truncate text-lg font-bold">{job.vehicle}</span>
          <span className="block truncate text-sm text-soft">
            {[job.registration, job.complaint, ...job.codes].filter(Boolean).join(" · ") ||
              `${job.cylinders} cylinders, ${SYSTEMS[job.fuel_system] ?? job.fuel_system}`}
          </span>
        </span>
        <span
          className={`col-start-2 h-10 lg:col-start-3 lg:row-start-1 ${!job.bobs?.length ? "max-lg:hidden" : ""}`}
        >
          <MiniChart bobs={job.bobs} corridor={job.corridor_percent} />
        </span>
        <span
          className={`col-start-2 border-l-4 pl-4 md:col-start-3 md:row-span-2 md:row-start-1 lg:col-start-4 lg:row-span-1 ${edge}`}
        >
          {job.waits === "now" && <span className="text-sm text-soft">waits for: </span>}
          <span className="font-bold">{job.closed ? "Closed" : job.next_title}</span>
          <span className="block text-sm text-soft">{job.next_sub}</span>
        </span>
      </Link>
    </li>
  );
}
