/** What could be behind the complaint: a line each, its share drawn as a thread of that length. */
import type { JobView } from "../../api/client";

type Cause = JobView["diagnosis"]["causes"][number];

export function Causes({ diagnosis }: { diagnosis: JobView["diagnosis"] }) {
  if (diagnosis.causes.length === 0) return null;
  const title = diagnosis.complaint || "What was found";
  return (
    <section
      aria-label="What could be behind it"
      className="mb-3 rounded-lg border border-hair bg-sheet px-3 pb-2 pt-3"
    >
      <h2 className="mb-1 text-sm font-bold text-soft">
        {title[0]?.toUpperCase()}
        {title.slice(1)}
      </h2>
      <ul className="border-l-2 border-ink">
        {diagnosis.causes.map((cause) => (
          <li key={`${cause.code} ${cause.words} ${cause.state}`}>
            <Line cause={cause} />
          </li>
        ))}
      </ul>
    </section>
  );
}

/** One cause: its thread and what is known of it; opened, what speaks for it and against it. */
function Line({ cause }: { cause: Cause }) {
  const faint = cause.state === "cleared" ? "text-soft line-through decoration-1" : "";
  const bold = cause.state === "found" ? "font-bold" : "";
  return (
    <details className="border-b border-hair last:border-b-0">
      <summary className="grid min-h-11 cursor-pointer grid-cols-[minmax(0,1fr)_3.5rem] items-center gap-x-3 py-1 md:grid-cols-[minmax(0,20rem)_3.5rem_minmax(0,1fr)]">
        <span>
          <span className={`block pl-2 text-sm leading-snug ${bold} ${faint}`}>{cause.words}</span>
          <Thread cause={cause} />
        </span>
        <span className="figure text-right">
          {cause.state === "cleared" ? "" : `${shown(cause.share)} %`}
        </span>
        <span className="col-span-2 pl-2 text-sm leading-snug text-soft md:col-span-1 md:pl-0">
          {cause.note}
        </span>
      </summary>
      <Weighing cause={cause} />
    </details>
  );
}

const shown = (share: number) => (share < 1 ? "< 1" : Math.round(share).toString());

/** From the line of all: full and weighted where it was found, dashed while it is only possible. */
function Thread({ cause }: { cause: Cause }) {
  if (cause.state === "cleared") {
    return <span aria-hidden className="block h-2 w-8 border-b border-edge" />;
  }
  const found = cause.state === "found";
  return (
    <span aria-hidden className="relative block h-3 pr-3">
      <span
        className={`absolute left-0 top-1.5 block ${found ? "border-t-[3px] border-ink" : "border-t-2 border-dashed border-soft"}`}
        style={{
          width: `calc((100% - 0.75rem) * ${Math.max(2, Math.min(100, cause.share)) / 100})`,
        }}
      >
        <span
          className={`absolute -right-2 block size-2.5 rounded-full border-2 border-ink ${found ? "-top-[7px] bg-ink" : "-top-[6px] bg-sheet"}`}
        />
      </span>
    </span>
  );
}

function Weighing({ cause }: { cause: Cause }) {
  return (
    <div className="pb-2 pl-2 text-sm">
      <Speaks title="Speaks for it" of={cause.speaks_for} />
      <Speaks title="Speaks against it" of={cause.speaks_against} />
      {cause.common && (
        <p className="text-soft">How common, before anything is measured: {cause.common}.</p>
      )}
    </div>
  );
}

function Speaks({ title, of }: { title: string; of: string[] }) {
  if (of.length === 0) return null;
  return (
    <>
      <p className="font-bold">{title}</p>
      <ul className="list-disc pl-5 text-soft">
        {of.map((text, n) => (
          <li key={`${n} ${text}`}>{text}</li>
        ))}
      </ul>
    </>
  );
}
