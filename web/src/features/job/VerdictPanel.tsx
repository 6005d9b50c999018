/** Beside the verdict: what is next, and what stands before condemning an injector. */
import type { JobView } from "../../api/client";
import { Advice, Care } from "../../ui/said";
import { Waits } from "../finish/Ordered";
import { NextStep } from "./NextStep";

const STANDS: Record<string, string> = {
  yes: "Explained",
  partly: "Explained in part",
  no: "Not explained",
  open: "Still open",
};

/** Word by word of the complaint by what it is explained; what remains outside, and how it is told. */
function Explained({ diagnosis }: { diagnosis: JobView["diagnosis"] }) {
  const title = STANDS[diagnosis.explained];
  if (!title || diagnosis.by_word.length === 0) return null;
  return (
    <>
      <h2 className="mb-1 mt-4 text-sm font-bold text-soft">{title}</h2>
      <dl className="mb-2 text-sm">
        {diagnosis.by_word.map((w) => (
          <div key={w.title} className="border-t border-hair py-1">
            <dt className="font-bold">{w.title}</dt>
            <dd className="text-soft">{w.text || "nothing found explains it"}</dd>
          </div>
        ))}
      </dl>
      {diagnosis.explained !== "yes" && diagnosis.remains.length > 0 && (
        <>
          <h2 className="mb-1 mt-4 text-sm font-bold text-soft">Outside of what Plumb measures</h2>
          <dl className="mb-2 text-sm">
            {diagnosis.remains.map((r) => (
              <div key={r.title} className="border-t border-hair py-1">
                <dt className="font-bold">{r.title}</dt>
                <dd className="text-soft">{r.text}</dd>
              </div>
            ))}
          </dl>
        </>
      )}
    </>
  );
}

/** Beside the matrix: what comes next, what was ruled out, what is only assumed. */
export default function VerdictPanel({ job }: { job: JobView }) {
  const { verdict } = job;
  return (
    <>
      <Waits job={job} />
      <NextStep job={job} />
      <Explained diagnosis={job.diagnosis} />
      {verdict.advice.map((a) => (
        <Advice key={a.title} title={a.title} text={a.text} edge="border-edge" />
      ))}
      <h2 className="mb-1 mt-4 text-sm font-bold text-soft">Ruled out</h2>
      {verdict.ruled_out.length === 0 && <p className="text-sm text-soft">Nothing yet.</p>}
      <dl className="text-sm">
        {verdict.ruled_out.map((r) => (
          <div key={r.title} className="border-t border-hair py-1">
            <dt className="font-bold">{r.title}</dt>
            <dd className="text-soft">{r.text}</dd>
          </div>
        ))}
      </dl>
      <h2 className="mb-1 mt-4 text-sm font-bold text-soft">Still only assumed</h2>
      {verdict.assumed.length === 0 ? (
        <p className="mb-3 text-sm text-soft">Nothing that this verdict rests on.</p>
      ) : (
        <ul className="mb-3 list-disc pl-5 text-sm">
          {verdict.assumed.map((a) => (
            <li key={a}>{a}</li>
          ))}
        </ul>
      )}
      <Care text={verdict.care} />
    </>
  );
}
