/** The verdict: one sentence, the matrix of injectors and sheets, what to do and why. */
import { lazy, Suspense } from "react";
import { Link } from "react-router";
import type { JobView, VerdictView } from "../../api/client";
import { PlumbRow, plumbScale, type Ground, type Tone } from "../../ui/PlumbChart";
import { BusyButton, Kbd } from "../../ui/parts";
import { TONE } from "../../ui/said";
import { Ways } from "../finish/Ways";
import { Causes } from "./Causes";
import { repeating, useBegin } from "./Route";
import { BASE } from "../../lib/base";

const Accept = lazy(() => import("./Accept"));
const Sightings = lazy(() => import("./Sightings"));

type Row = VerdictView["rows"][number];
type Scale = ReturnType<typeof plumbScale>;

export default function VerdictPage({ job }: { job: JobView }) {
  const verdict = job.verdict;
  return (
    <>
      <div className="mb-2 flex flex-wrap items-baseline gap-x-3">
        <h1 className="text-2xl font-bold">Verdict</h1>
        <p className="text-soft">{verdict.sub}</p>
      </div>
      <p className="mb-3 max-w-4xl text-xl font-bold leading-snug" aria-live="polite">
        {verdict.sentence.map((span, n) => (
          <span key={`${n} ${span.text}`} className={TONE[span.tone] ?? ""}>
            {span.text}
          </span>
        ))}
      </p>
      {verdict.causes.map((cause) => (
        <p key={cause} className="mb-2 border-l-4 border-high pl-3">
          <b>Check first:</b> {cause}.
        </p>
      ))}
      <Causes diagnosis={job.diagnosis} />
      {verdict.rows.length > 0 && <Matrix job={job} />}
      <Ways job={job} />
      <Suspense>
        <Sightings job={job} />
      </Suspense>
      <WayOn job={job} />
    </>
  );
}

/** From the verdict on: to the repair, or to the sheet that is done again after it. */
function WayOn({ job }: { job: JobView }) {
  const begin = useBegin(job);
  return (
    <p className="mt-3 flex flex-wrap gap-2">
      <Link className="slab-knob" to={`/jobs/${encodeURIComponent(job.number)}/repair`}>
        To the repair <Kbd>J</Kbd>
      </Link>
      <BusyButton
        className="knob min-h-11"
        disabled={!job.repeat}
        busy={begin.isPending}
        onClick={() => job.repeat && begin.mutate(repeating(job.repeat))}
      >
        Start the repeat sheet{job.repeat && `, ${job.repeat.reason}`}
      </BusyButton>
      <a
        className="knob min-h-11"
        href={`${BASE}/api/jobs/${encodeURIComponent(job.number)}/file`}
        download
      >
        Save the job file
      </a>
    </p>
  );
}

/** The drop off the set's average, in percent, with the shop's corridor. */
function scaleOf(verdict: VerdictView): Scale {
  const half = verdict.corridor_percent;
  const ground: Ground = {
    relative: true,
    unit: "%",
    centre: 0,
    low: -half,
    high: half,
    decimals: 0,
  };
  return plumbScale(ground, 40);
}

function Matrix({ job }: { job: JobView }) {
  const { verdict } = job;
  const scale = scaleOf(verdict);
  return (
    <div
      className="overflow-x-auto rounded-lg border border-hair bg-sheet"
      tabIndex={0}
      role="region"
      aria-label="Injectors and sheets"
    >
      <table className="w-full md:min-w-[40rem] border-collapse text-left">
        <thead>
          <tr className="text-sm text-soft">
            <th scope="col" className="px-3 py-2">
              Injector
            </th>
            {verdict.columns.map((name) => (
              <th key={name} scope="col" className="px-2 py-2 max-md:hidden">
                {name}
              </th>
            ))}
            <th scope="col" className="px-2 py-2">
              Reads as
            </th>
            <th scope="col" className="px-2 py-2">
              Do
            </th>
          </tr>
        </thead>
        <tbody>
          {verdict.rows.map((row) => (
            <Injector
              key={row.injector}
              job={job}
              row={row}
              scale={scale}
              alike={alike(verdict.rows, row)}
            />
          ))}
        </tbody>
      </table>
    </div>
  );
}

/** What is told under a row in words, so that the same is not told twice. */
const told = (r: Row) =>
  JSON.stringify([r.condition, r.because, r.evidence, r.not_ruled_out, r.contradictions, r.rows]);

/** Those of whom the same is told: at the first of them, and nobody at the others. */
function alike(rows: Row[], row: Row): string[] {
  const same = rows.filter((r) => told(r) === told(row)).map((r) => r.injector);
  return same[0] === row.injector ? same : [];
}

interface InjectorProps {
  job: JobView;
  row: Row;
  scale: Scale;
  alike: string[];
}

/** An injector across the sheets; below it, unless it is sound, why it reads as it does. */
function Injector({ job, row, scale, alike }: InjectorProps) {
  const { verdict } = job;
  const explained = row.condition !== "sound" && alike.length > 0;
  const decided = row.can_be_accepted || row.accepted !== "";
  return (
    <>
      <tr className="border-t border-hair align-middle">
        <th scope="row" className="whitespace-nowrap px-3 py-2">
          <span className="figure text-xl font-bold">{row.injector}</span>{" "}
          <span className="text-xs text-soft">{row.bank}</span>
        </th>
        {row.cells.map((cell, n) => (
          <td key={verdict.columns[n]} className="figure whitespace-nowrap px-2 py-2 max-md:hidden">
            {n === verdict.chart ? <Hung row={row} scale={scale} cell={cell} /> : cell}
          </td>
        ))}
        <td className={`px-2 py-2 font-bold ${TONE[row.tone] ?? ""}`}>{row.condition_words}</td>
        <td className="px-2 py-2 font-bold">{row.action_words}</td>
      </tr>
      <tr className="md:hidden">
        <td />
        <td colSpan={2} className="px-2 pb-2 text-sm">
          <Figures row={row} columns={verdict.columns} />
        </td>
      </tr>
      {(explained || decided) && (
        <tr>
          <td />
          <td colSpan={verdict.columns.length + 2} className="px-2 pb-3 text-sm">
            {(explained || row.accepted !== "") && <Why row={row} alike={alike} />}
            <Suspense>{decided && <Accept job={job} row={row} />}</Suspense>
          </td>
        </tr>
      )}
    </>
  );
}

/** Where there is no room for columns: every sheet's figure, one after the other. */
function Figures({ row, columns }: { row: Row; columns: string[] }) {
  return (
    <span className="flex flex-wrap gap-x-4">
      {row.cells.map((cell, n) => (
        <span key={columns[n]}>
          <span className="text-soft">{columns[n]}</span> <b className="figure">{cell || "–"}</b>
        </span>
      ))}
    </span>
  );
}

function Hung({ row, scale, cell }: { row: Row; scale: Scale; cell: string }) {
  if (row.at === null) return <>{cell}</>;
  const settled = row.condition !== "not_settled" && row.condition !== "not_measured";
  return (
    <span className="relative block h-9 w-44">
      <PlumbRow
        small
        scale={scale}
        hanging={{ at: row.at, uncertainty: row.u_at, settled, tone: row.tone as Tone }}
      />
    </span>
  );
}

function Why({ row, alike }: { row: Row; alike: string[] }) {
  return (
    <>
      <p>
        {alike.length > 1 && <b>{alike.join(", ")} alike: </b>}
        {row.because[0]?.toUpperCase()}
        {row.because.slice(1)}.{" "}
        {row.evidence.length > 0 && (
          <span className="text-soft">Shown: {row.evidence.join("; ")}.</span>
        )}
      </p>
      {row.contradictions.map((c) => (
        <p key={c} className="border-l-4 border-high pl-2">
          Contradiction: {c}.
        </p>
      ))}
      {row.not_ruled_out.length > 0 && (
        <p className="text-soft">Not ruled out: {row.not_ruled_out.join(", ")}.</p>
      )}
      <p className="text-xs text-soft">Rows of the table that fit: {row.rows.join(" · ")}</p>
    </>
  );
}
