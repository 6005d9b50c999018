/** The repair: what was done, what goes with it, whether it helped, and the signature. */
import { lazy, Suspense } from "react";
import { useNavigate, useSearchParams } from "react-router";
import { told, type JobView } from "../../api/client";
import { BusyButton, Trouble } from "../../ui/parts";
import { useBegin } from "../job/Route";
import { Answers } from "./Answers";
import { Pairs } from "./Pairs";
import { NotedList } from "./Noted";
import { Ordered } from "./Ordered";
import { RepairForm } from "./RepairForm";
import { Things } from "./Things";
import { ending, notes, useNote, useSigning } from "./useFinish";
import { BASE } from "../../lib/base";

const SignDialog = lazy(() => import("./SignDialog"));

export default function RepairPage({ job }: { job: JobView }) {
  const { finishing } = job;
  return (
    <>
      <div className="mb-2 flex flex-wrap items-baseline gap-x-3">
        <h1 className="text-2xl font-bold">Repair</h1>
        <p className="text-soft">
          {finishing.over ? "everything that was worked on is put right" : whatIsOpen(job)}
        </p>
      </div>
      <Signatures job={job} />
      <Ordered job={job} />
      <Done job={job} />
      {finishing.repairs.length > 0 && <Things job={job} />}
      <Due job={job} />
      {finishing.pairs.length > 0 && <Pairs job={job} />}
      {asksForIt(job) && <Answers job={job} />}
      <Close job={job} />
    </>
  );
}

/** The complaint is asked for again once something was done, or measured again. */
function asksForIt({ finishing }: JobView): boolean {
  const { answers, repairs, pairs } = finishing;
  return answers.length > 0 && (repairs.length + pairs.length > 0 || answers.some((a) => a.answer));
}

function whatIsOpen({ finishing }: JobView): string {
  if (finishing.repairs.length === 0) return "nothing was done yet";
  if (finishing.due.length > 0) return "to be measured again";
  if (finishing.answers.some((a) => a.answer === ""))
    return "the complaint is to be asked for again";
  return finishing.answers.some((a) => a.answer !== "gone") ? "the complaint is not gone" : "";
}

const when = (at: string) =>
  new Date(at).toLocaleString("en-GB", { dateStyle: "medium", timeStyle: "short" });

/** What was done, and the form for the next thing. */
function Done({ job }: { job: JobView }) {
  const note = useNote(job);
  return (
    <section aria-label="What was done" className="mb-4">
      <h2 className="mb-1 text-lg font-bold">What was done</h2>
      {job.finishing.repairs.length > 0 && (
        <NotedList
          things={job.finishing.repairs.map((r) => ({
            id: r.id,
            words: r.words,
            beside: [when(r.at), r.by, r.note].filter(Boolean).join(" · "),
          }))}
          closed={job.closed}
          takeBack={(r) => note.mutate([notes.takeBack(r.id, r.words)])}
        />
      )}
      <Trouble text={note.isError ? told(note.error) : null} />
      {!job.closed && <RepairForm job={job} />}
    </section>
  );
}

/** What is to be measured again, in the route's order. */
function Due({ job }: { job: JobView }) {
  const begin = useBegin(job);
  const navigate = useNavigate();
  const { due } = job.finishing;
  if (due.length === 0) return null;
  return (
    <section aria-label="To be measured again" className="mb-4">
      <h2 className="mb-1 text-lg font-bold">To be measured again</h2>
      <ul className="rounded-lg border border-hair bg-sheet">
        {due.map((d) => (
          <li
            key={`${d.kind} ${d.after}`}
            className="flex flex-wrap items-center gap-2 border-b border-hair px-3 py-1.5 last:border-0"
          >
            <span className="min-w-40 flex-1">
              <b>{d.title}</b>
              {d.injectors.length > 0 && ` of ${d.injectors.join(", ")}`}
              <span className="text-sm text-soft"> · against {d.after}</span>
            </span>
            <BusyButton
              className="knob min-h-11"
              disabled={job.closed}
              busy={begin.isPending}
              onClick={() =>
                d.key
                  ? void navigate(`/jobs/${encodeURIComponent(job.number)}/${d.key}`)
                  : begin.mutate({
                      kind: d.kind,
                      after: d.after,
                      injectors: d.injectors,
                      at: d.injectors[0] ?? "",
                      because: "after the repair",
                    })
              }
            >
              {d.key ? "Go on" : "Begin"}
            </BusyButton>
          </li>
        ))}
      </ul>
      <Trouble text={begin.isError ? told(begin.error) : null} />
    </section>
  );
}

/** Who signed, and what would be decided otherwise today. */
function Signatures({ job }: { job: JobView }) {
  return job.finishing.signatures.map((s) => (
    <section
      key={s.at}
      aria-label="Signed"
      className="mb-3 rounded-lg border-2 border-ink bg-sheet p-3"
    >
      <p>
        <b>Signed by {s.by}</b>,{" "}
        {new Date(s.at).toLocaleString("en-GB", { dateStyle: "long", timeStyle: "short" })}, Plumb{" "}
        {s.version}.
      </p>
      <p>{s.says}</p>
      {s.reason && <p className="text-soft">Left open: {s.reason}</p>}
      {s.hand && (
        <svg viewBox="0 0 300 100" className="h-16" role="img" aria-label={`Signature of ${s.by}`}>
          <path
            d={s.hand}
            fill="none"
            stroke="var(--ink)"
            strokeWidth={2.5}
            strokeLinecap="round"
            strokeLinejoin="round"
          />
        </svg>
      )}
      {s.differs && (
        <p className="mt-1 border-l-4 border-high pl-3">
          This version would decide otherwise, and changes nothing: {s.differs}.
        </p>
      )}
    </section>
  ));
}

function Close({ job }: { job: JobView }) {
  const opening = useSigning();
  const [params, setParams] = useSearchParams();
  const signing = params.has("sign") && !job.closed;
  const setSigning = (on: boolean) => setParams(on ? { sign: "" } : {}, { replace: true });
  return (
    <p className="mt-4 flex flex-wrap gap-2">
      {job.closed ? (
        <button className="knob min-h-11" onClick={() => opening.mutate(ending(job).open)}>
          Open the job again
        </button>
      ) : (
        <button className="slab-knob" onClick={() => setSigning(true)}>
          Close and sign
        </button>
      )}
      <a
        className="knob min-h-11"
        href={`${BASE}/api/jobs/${encodeURIComponent(job.number)}/report.pdf`}
        target="_blank"
        rel="noreferrer"
      >
        Report for the customer
      </a>
      <Trouble text={opening.isError ? told(opening.error) : null} />
      <Suspense>{signing && <SignDialog job={job} close={() => setSigning(false)} />}</Suspense>
    </p>
  );
}
