/** The route: a line with a knot for each procedure, in working order. */
import { useMutation } from "@tanstack/react-query";
import { lazy, Suspense, useEffect, useRef, useState } from "react";
import { Link, useNavigate } from "react-router";
import api, {
  Away,
  got,
  told,
  type JobView,
  type Kind,
  type KnotView,
  type NewSheet,
} from "../../api/client";
import { PRACTISING } from "../../lib/base";
import { holdsFigure, takesText } from "../../lib/keys";
import { isUnsent, newSheetId } from "../../lib/places";
import { beginHere } from "../../lib/offline";
import { keepNewest } from "../../lib/store";
import { BusyButton, againWords, Trouble } from "../../ui/parts";

const AsideDialog = lazy(() => import("./AsideDialog"));

interface Props {
  job: JobView;
  here: string | undefined;
}

/** A sheet to begin, and the row the cursor is to stand on. */
interface Wanted {
  kind: string;
  at?: string;
  /** What a repeat comes after. */
  when?: string;
  because?: string;
  /** The sheet that it is compared with after a repair. */
  after?: string;
  /** Whom it is for; none: all of them. */
  injectors?: string[];
}

/** Begin a sheet; without the server it waits in this browser. Its address. */
async function begun(number: string, sheet: NewSheet): Promise<string> {
  try {
    if (isUnsent(number)) throw new Away("The job itself waits.");
    const made = await got(
      api.POST("/api/jobs/{number}/sheets", { params: { path: { number } }, body: sheet }),
    );
    keepNewest(made);
    return `/jobs/${encodeURIComponent(number)}/${made.key}`;
  } catch (error) {
    if (!(error instanceof Away)) throw error;
    return beginHere({ kind: "sheet", number, sheetId: newSheetId(), sheet });
  }
}

/** Begin a sheet of a kind on a job, and go there. */
export function useBegin(job: JobView) {
  const navigate = useNavigate();
  const [requestId, setRequestId] = useState(() => crypto.randomUUID());
  return useMutation({
    mutationFn: ({ kind, when = "", because = "", after = "", injectors = [] }: Wanted) =>
      begun(job.number, {
        request_id: requestId,
        kind: kind as Kind,
        when: when as "",
        because: because.slice(0, 120),
        after,
        injectors,
      }),
    onSuccess: (address, { at }) => {
      setRequestId(crypto.randomUUID());
      void navigate(address + (at ? `?at=${encodeURIComponent(at)}` : ""));
    },
  });
}

/** The repeat that the verdict asks for, on the first injector that it is for. */
export function repeating(repeat: NonNullable<JobView["repeat"]>): Wanted {
  const { kind, when, reason, injectors, after } = repeat;
  return { kind, when, because: reason, injectors, after, at: injectors[0] ?? "" };
}

export function RouteLine({ job, here }: Props) {
  const begin = useBegin(job);
  const navigate = useNavigate();
  const [aside, setAside] = useState<KnotView | null>(null);
  const path = (key: string) => `/jobs/${encodeURIComponent(job.number)}/${key}`;
  const go = (knot: KnotView) =>
    knot.sheet_id ? void navigate(path(knot.key)) : begin.mutate({ kind: knot.kind });
  useKnotKeys(job, here, go, (key) => void navigate(path(key)));
  return (
    <nav aria-label="Route">
      <h2 className="mb-3 text-sm font-bold text-soft">Route</h2>
      <ol className="flex flex-wrap gap-x-5 xl:block">
        {job.route.map((knot) => (
          <Knot
            key={knot.key || knot.kind}
            knot={knot}
            here={knot.key !== "" && knot.key === here}
            to={path(knot.key)}
            busy={begin.isPending}
            onBegin={() => begin.mutate({ kind: knot.kind })}
            onAside={() => setAside(knot)}
          />
        ))}
        <VerdictKnot job={job} here={here === "verdict"} to={path("verdict")} />
        {!PRACTISING && <RepairKnot job={job} here={here === "repair"} to={path("repair")} />}
      </ol>
      {job.repeat && !PRACTISING && (
        <BusyButton
          className="knob"
          busy={begin.isPending}
          onClick={() => job.repeat && begin.mutate(repeating(job.repeat))}
        >
          {job.repeat.title}
        </BusyButton>
      )}
      {job.route.length === 0 && (
        <p className="text-sm text-soft">The sheets for this fuel system are not built yet.</p>
      )}
      <Trouble text={begin.isError ? told(begin.error) : null} />
      <Suspense>
        {aside && <AsideDialog job={job} knot={aside} onClose={() => setAside(null)} />}
      </Suspense>
    </nav>
  );
}

/** The end of the line. */
function VerdictKnot({ job, here, to }: { job: JobView; here: boolean; to: string }) {
  return (
    <li className="relative pb-5 pl-7 xl:border-l-2 xl:border-transparent">
      <Bead here={here} state={job.next || PRACTISING || isUnsent(job.number) ? "open" : "done"} />
      <Link to={to} aria-current={here ? "step" : undefined} className="block leading-tight">
        <b>Verdict</b>
        <span className="block text-sm text-soft">
          {PRACTISING
            ? "yours: hand it in"
            : job.verdict.rows.length > 0
              ? job.verdict.sub
              : "nothing measured yet"}
        </span>
      </Link>
    </li>
  );
}

/** What was done about it, and whether it helped; it is offered once there is something to repair. */
function RepairKnot({ job, here, to }: { job: JobView; here: boolean; to: string }) {
  const { repairs, over, signatures } = job.finishing;
  if (job.verdict.rows.length === 0 && repairs.length === 0) return null;
  const sub = job.closed
    ? `signed by ${signatures.at(-1)?.by ?? "nobody"}`
    : over
      ? "put right, to be signed"
      : repairs.at(-1)?.words;
  return (
    <li className="relative pb-5 pl-7 xl:border-l-2 xl:border-transparent">
      <Bead here={here} state={over || job.closed ? "done" : "open"} />
      <Link to={to} aria-current={here ? "step" : undefined} className="block leading-tight">
        <b>Repair</b>
        <span className="block text-sm text-soft">{sub ?? "nothing was done yet"}</span>
      </Link>
    </li>
  );
}

const BEADS: Record<string, string> = {
  done: "bg-ink",
  now: "bg-paper border-4",
  next: "bg-chalk",
  open: "bg-paper",
  aside: "bg-paper border-dashed",
};

function Bead({ here, state }: { here: boolean; state: string }) {
  return (
    <span
      aria-hidden
      className={`absolute left-0 top-1 h-4 w-4 rounded-full border-2 border-ink xl:-left-[9px] ${BEADS[state] ?? ""} ${
        here ? "ring-4 ring-chalk" : ""
      }`}
    />
  );
}

const SAID: Record<string, string> = { done: ", done", aside: ", set aside", now: ", open" };

interface KnotProps {
  knot: KnotView;
  here: boolean;
  to: string;
  busy: boolean;
  onBegin: () => void;
  onAside: () => void;
}

function Knot({ knot, here, to, busy, onBegin, onAside }: KnotProps) {
  const words = (
    <>
      <b className={knot.state === "aside" ? "line-through" : ""}>
        {knot.title}
        {knot.again && `, ${knot.again.words}`}
      </b>
      <span className="block text-sm text-soft">
        {knot.again && `${againWords(knot.again)} · `}
        {knot.sub}
        <span className="sr-only">{SAID[knot.state] ?? ""}</span>
      </span>
    </>
  );
  return (
    <li className="group relative pb-4 pl-7 xl:border-l-2 xl:border-ink">
      <Bead here={here} state={knot.state} />
      {knot.sheet_id && !knot.empty && knot.state === "done" ? (
        <Link to={to} aria-current={here ? "step" : undefined} className="block leading-tight">
          {words}
        </Link>
      ) : (
        <span className="flex items-start justify-between gap-1">
          {knot.sheet_id ? (
            <Link to={to} aria-current={here ? "step" : undefined} className="block leading-tight">
              {words}
            </Link>
          ) : (
            <BusyButton className="block text-left leading-tight" busy={busy} onClick={onBegin}>
              {words}
            </BusyButton>
          )}
          <button
            className="min-h-6 min-w-6 rounded border border-hair px-1 text-xs text-soft"
            aria-label={`Set ${knot.title} aside`}
            title="Set aside, with a reason"
            onClick={onAside}
          >
            ⋯
          </button>
        </span>
      )}
    </li>
  );
}

/** `[` and `]` walk along the route, behind the last sheet to verdict and repair; so do `V` and `J`. */
function useKnotKeys(
  job: JobView,
  here: string | undefined,
  go: (knot: KnotView) => void,
  to: (key: string) => void,
): void {
  const latest = useRef({ job, here, go, to });
  useEffect(() => {
    latest.current = { job, here, go, to };
  });
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      const at = e.target instanceof HTMLElement ? e.target : null;
      const key = e.key.toLowerCase();
      if (e.ctrlKey || e.metaKey || e.altKey || !["[", "]", "v", "j"].includes(key)) return;
      if (at?.closest("[role=dialog], select, textarea") || holdsFigure(at)) return;
      if (takesText(at)) return;
      e.preventDefault();
      const now = latest.current;
      if (key === "v" || key === "j") {
        now.to(key === "v" ? "verdict" : "repair");
        return;
      }
      const knots = now.job.route.filter((k) => k.state !== "aside" || k.sheet_id);
      const behind = ["verdict", "repair"].indexOf(now.here ?? "");
      const place =
        behind >= 0 ? knots.length + behind : knots.findIndex((k) => k.key === now.here);
      const next = place + (key === "]" ? 1 : -1);
      const knot = knots[next];
      if (knot) now.go(knot);
      else if (next >= knots.length) now.to(next > knots.length ? "repair" : "verdict");
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, []);
}
