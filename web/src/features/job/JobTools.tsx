/** What can be done with a job as a whole: change it, take it along, close it. */
import { lazy, Suspense, useState } from "react";
import { Link } from "react-router";
import type { JobView } from "../../api/client";
import { Closing } from "./Closing";
import { BASE } from "../../lib/base";

const EngineDialog = lazy(() => import("./EngineDialog"));
const JobDialog = lazy(() => import("./JobDialog"));

/** What can be taken along: on paper, as a workbook, as the job file. */
function Papers({ number }: { number: string }) {
  const at = `${BASE}/api/jobs/${encodeURIComponent(number)}`;
  return (
    <>
      <a className="knob" href={`${at}/report.pdf`} target="_blank" rel="noreferrer">
        Report
      </a>
      <a className="knob" href={`${at}/worksheet.pdf`} target="_blank" rel="noreferrer">
        Worksheet
      </a>
      <a className="knob" href={`${at}/book.xlsx`} download>
        Workbook
      </a>
      <a className="knob" href={`${at}/file`} download>
        Save the job file
      </a>
      <a className="knob" href={`${at}/archive`} download>
        Save it whole
      </a>
    </>
  );
}

/** What can be done with the job as a whole. */
export default function JobTools({ job }: { job: JobView }) {
  const [open, setOpen] = useState<"job" | "engine" | null>(null);
  return (
    <section
      aria-label="This job"
      className="mt-5 flex flex-wrap gap-2 xl:grid xl:justify-items-start"
    >
      <button className="knob" onClick={() => setOpen("job")}>
        Complaint and codes
      </button>
      <button className="knob" onClick={() => setOpen("engine")}>
        Vehicle and engine
      </button>
      <Link className="knob" to={`/vehicles/${job.vehicle.id}`}>
        Through the years
      </Link>
      <Papers number={job.number} />
      <Link className="knob" to={`/journal?job=${encodeURIComponent(job.number)}`}>
        Who changed what
      </Link>
      <Closing job={job} />
      {job.by && <p className="text-sm text-soft">Opened by {job.by}</p>}
      <Suspense>
        {open === "engine" && (
          <EngineDialog vehicle={job.vehicle} open onOpenChange={() => setOpen(null)} />
        )}
        {open === "job" && <JobDialog job={job} open onOpenChange={() => setOpen(null)} />}
      </Suspense>
    </section>
  );
}
