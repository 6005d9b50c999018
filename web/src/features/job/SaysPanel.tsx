/** What a sheet says: headline, next step, what is not ruled out, all rules, care. */
import { useState } from "react";
import { Link } from "react-router";
import type { JobView, RuleView, SheetView } from "../../api/client";
import { PRACTISING } from "../../lib/base";
import { Advice, Care, TONE } from "../../ui/said";
import { NextStep } from "./NextStep";
import { WorkingDialog } from "./WorkingDialog";

interface Props {
  sheet: SheetView;
  job: JobView;
}

export function SaysPanel({ sheet, job }: Props) {
  const [working, setWorking] = useState(false);
  const labels = new Set(sheet.rows.filter((r) => r.tone !== "").map((r) => r.injector));
  const named = (title: string) => title.replace("Before condemning ", "").split(/, | and /);
  // In practice nothing beyond the sheet itself is told.
  const given = PRACTISING ? [] : job.verdict.advice;
  const advice = given.filter((a) => named(a.title).some((x) => labels.has(x)));
  return (
    <>
      <h2 className="mb-2 text-sm font-bold text-soft">What the sheet says</h2>
      <p className="mb-3 text-xl font-bold leading-snug" aria-live="polite">
        {sheet.headline.map((span, n) => (
          <span key={`${n} ${span.text}`} className={TONE[span.tone] ?? ""}>
            {span.text}
          </span>
        ))}
      </p>
      {!PRACTISING && <NextStep job={job} sheet={sheet} />}
      <Moved moved={PRACTISING ? [] : (job.diagnosis.moved[sheet.key] ?? [])} />
      {advice.map((a) => (
        <Advice key={a.title} title={a.title} text={a.text} edge="border-edge" />
      ))}
      {sheet.notes.map((note) => (
        <p key={note} className="mb-2 border-l-4 border-hair pl-3 text-sm">
          {note}
        </p>
      ))}
      <button
        className="knob mb-4 mt-1"
        onClick={() => setWorking(true)}
        disabled={sheet.measured === 0}
      >
        How it was worked out
      </button>
      <Care text={sheet.care} />
      {sheet.rules.length > 0 && <Rules sheet={sheet} />}
      {sheet.limit_in_flow && <p className="mb-4 mt-2 text-sm text-soft">{sheet.limit_in_flow}</p>}
      <WorkingDialog sheet={sheet} open={working} onOpenChange={setWorking} />
    </>
  );
}

/** What this sheet moved: which way, from which share to which. */
function Moved({ moved }: { moved: JobView["diagnosis"]["moved"][string] }) {
  if (moved.length === 0) return null;
  return (
    <ul className="mb-3 text-sm" aria-label="What this sheet moved">
      {moved.map((m) => (
        <li key={m.words} className="flex justify-between gap-2 border-t border-hair py-0.5">
          <span>
            <span aria-hidden>{m.after > m.before ? "▴" : "▾"} </span>
            {m.words}
          </span>
          <span className="figure whitespace-nowrap">
            {Math.round(m.before)} → {Math.round(m.after)} %
          </span>
        </li>
      ))}
    </ul>
  );
}

function wouldReject(rule: RuleView): string {
  if (!rule.applies) return "does not apply";
  const reject = rule.reject.join(", ") || "none";
  return rule.repeat.length > 0 ? `${reject}; repeat ${rule.repeat.join(", ")}` : reject;
}

function Rules({ sheet }: { sheet: SheetView }) {
  return (
    <>
      <RuleTable rules={sheet.rules} />
      <Link
        className="mt-2 block text-sm underline"
        to={`/rules?sheet=${sheet.id}&from=/jobs/${sheet.job_number}/${sheet.key}`}
      >
        What they are worth with this gauge, on this rail
      </Link>
    </>
  );
}

function RuleTable({ rules }: { rules: RuleView[] }) {
  return (
    <table className="w-full text-sm">
      <caption className="mb-1 text-left text-sm font-bold text-soft">
        All rules on these readings
      </caption>
      <thead>
        <tr className="border-y border-hair text-left text-soft">
          <th className="py-1 font-bold">Rule</th>
          <th className="py-1 text-right font-bold">would reject</th>
        </tr>
      </thead>
      <tbody>
        {rules.map((rule) => (
          <tr key={rule.code} className="border-b border-hair align-top">
            <td className="py-1 pr-2" title={`${rule.decides} Source: ${rule.source}.`}>
              <span className={rule.chosen ? "font-bold" : ""}>{rule.title}</span>{" "}
              <span className="text-soft">{rule.limits}</span>
              {rule.chosen && <span className="text-soft"> · decides here</span>}
            </td>
            <td className="py-1 text-right" title={rule.reason || rule.caution || undefined}>
              {wouldReject(rule)}
              {rule.caution && <span className="text-soft"> *</span>}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
