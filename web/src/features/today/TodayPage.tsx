/** Today: the jobs that are open, what each waits for, and the way to a new one. */
import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { Link, useNavigate, useSearchParams } from "react-router";
import { told, type JobLine } from "../../api/client";
import { Head } from "../../app";
import { jobsQuery } from "../../lib/store";
import { Kbd, Trouble } from "../../ui/parts";
import { ImportDialog } from "./ImportDialog";
import { MiniChart } from "./MiniChart";
import { NewJobDialog } from "./NewJobDialog";

const SYSTEMS: Record<string, string> = {
  port: "port injection",
  throttle_body: "throttle body",
  direct: "direct injection",
  common_rail: "common rail",
  mechanical_diesel: "mechanical diesel",
};

export function TodayPage() {
  const [params] = useSearchParams();
  const [find, setFind] = useState("");
  const [closed, setClosed] = useState(false);
  const [dialog, setDialog] = useState<"new" | "import" | "keys" | null>(null);
  const box = useRef<HTMLInputElement>(null);
  const list = useRef<HTMLUListElement>(null);
  const jobs = useQuery(jobsQuery(find, closed));
  const navigate = useNavigate();

  useEffect(() => {
    if (params.has("find")) box.current?.focus();
  }, [params]);

  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      const typing = e.target instanceof HTMLInputElement || e.target instanceof HTMLSelectElement;
      if (dialog !== null || e.ctrlKey || e.metaKey || e.altKey) return;
      if (e.key === "ArrowDown" || e.key === "ArrowUp") {
        if (e.target instanceof HTMLSelectElement) return;
        e.preventDefault();
        step(list.current, e.key === "ArrowDown" ? 1 : -1, box.current);
      } else if (!typing && e.key === "/") {
        e.preventDefault();
        box.current?.focus();
      } else if (!typing && e.key.toLowerCase() === "n") {
        e.preventDefault();
        setDialog("new");
      }
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [dialog]);

  const rows = jobs.data ?? [];
  const open = rows.filter((j) => !j.closed).length;
  return (
    <>
      <title>Today · Plumb</title>
      <Head
        title="Workshop"
        sub={`${new Date().toLocaleDateString("en-GB", { weekday: "long", day: "numeric", month: "long" })}, ${open} open`}
      >
        <Link className="knob" to="/shelf">
          Shelf
        </Link>
        <button className="knob" onClick={() => setDialog("import")}>
          Bring in a job file
        </button>
      </Head>
      <main className="mx-auto max-w-7xl px-4 py-5">
        <div className="mb-4 flex flex-wrap items-center gap-3">
          <h1 className="text-xl font-bold">Today</h1>
          <label className="relative min-w-60 grow">
            <span className="sr-only">Find a job by number, plate, vehicle, complaint or code</span>
            <input
              ref={box}
              type="search"
              className="field pr-12"
              placeholder="Number, plate, vehicle, complaint or code"
              value={find}
              onChange={(e) => setFind(e.target.value)}
              onKeyDown={(e) => {
                const first = rows[0];
                if (e.key === "Enter" && first)
                  void navigate(`/jobs/${encodeURIComponent(first.number)}`);
                if (e.key === "Escape") setFind("");
              }}
            />
            <span className="pointer-events-none absolute right-3 top-2.5" aria-hidden>
              <Kbd>/</Kbd>
            </span>
          </label>
          <label className="flex min-h-11 items-center gap-2 text-sm">
            <input type="checkbox" checked={closed} onChange={(e) => setClosed(e.target.checked)} />
            closed ones too
          </label>
          <button className="slab-knob" onClick={() => setDialog("new")}>
            New job <Kbd>N</Kbd>
          </button>
        </div>
        <Trouble text={jobs.isError ? told(jobs.error) : null} />
        {jobs.isSuccess && rows.length === 0 && (
          <p className="rounded-lg border border-hair bg-sheet p-6">
            {find ? "No job fits these words." : "No job is open. Start one with New job."}
          </p>
        )}
        <ul
          ref={list}
          className="overflow-hidden rounded-lg border border-hair bg-sheet empty:hidden"
        >
          {rows.map((job) => (
            <JobRow key={job.number} job={job} />
          ))}
        </ul>
        <p className="mt-3 flex flex-wrap gap-x-5 gap-y-1 text-sm text-soft">
          <span>
            <Kbd>↑</Kbd> <Kbd>↓</Kbd> choose
          </span>
          <span>
            <Kbd>Enter</Kbd> go on where it stopped
          </span>
          <span>Yellow edge: can be done now. Black edge: nothing left to measure.</span>
        </p>
      </main>
      <NewJobDialog open={dialog === "new"} onOpenChange={(o) => setDialog(o ? "new" : null)} />
      <ImportDialog
        open={dialog === "import"}
        onOpenChange={(o) => setDialog(o ? "import" : null)}
      />
    </>
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
        className="grid grid-cols-[3.5rem_1fr] items-center gap-x-3 gap-y-2 px-4 py-3 hover:bg-paper md:grid-cols-[3.5rem_1fr_17rem_20rem]"
      >
        <span className="figure text-lg font-bold">{job.number}</span>
        <span className="min-w-0">
          <span className="block truncate text-lg font-bold">{job.vehicle}</span>
          <span className="block truncate text-sm text-soft">
            {[job.registration, job.complaint, ...job.codes].filter(Boolean).join(" · ") ||
              `${job.cylinders} cylinders, ${SYSTEMS[job.fuel_system] ?? job.fuel_system}`}
          </span>
        </span>
        <span className="col-start-2 h-10 md:col-start-3">
          <MiniChart bobs={job.bobs} corridor={job.corridor_percent} />
        </span>
        <span className={`col-start-2 border-l-4 pl-4 md:col-start-4 ${edge}`}>
          <span className="block font-bold">{job.closed ? "Closed" : job.next_title}</span>
          <span className="block text-sm text-soft">{job.next_sub}</span>
        </span>
      </Link>
    </li>
  );
}
