/** What to do next and why: on this sheet first, else wherever the job asks for it. */
import { useEffect } from "react";
import { useNavigate } from "react-router";
import { told, type JobView, type SheetView } from "../../api/client";
import { holdsFigure } from "../../lib/keys";
import { BusyButton, Kbd, Trouble } from "../../ui/parts";
import { Advice } from "../../ui/said";
import { useBegin } from "./Route";

interface Props {
  job: JobView;
  sheet?: SheetView;
}

const pathOf = (job: JobView, key: string) => `/jobs/${encodeURIComponent(job.number)}/${key}`;

interface GoOnProps {
  words: string;
  busy?: boolean;
  go: () => void;
}

/** The way on, by its button or by Shift and Enter from anywhere on the screen. */
function GoOn({ words, busy = false, go }: GoOnProps) {
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      const at = e.target instanceof HTMLElement ? e.target : null;
      if (e.key !== "Enter" || !e.shiftKey || e.repeat || busy) return;
      if (at?.closest("[role=dialog], textarea") || holdsFigure(at)) return;
      e.preventDefault();
      go();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  });
  return (
    <BusyButton className="slab-knob mt-2" busy={busy} onClick={go}>
      {words} <Kbd>⇧ Enter</Kbd>
    </BusyButton>
  );
}

/** Nothing is left to measure: the way on is the verdict. */
function AtTheEnd({ job, here }: { job: JobView; here: boolean }) {
  const navigate = useNavigate();
  return (
    <div className="mb-3 border-l-4 border-ink pl-3">
      <p className="font-bold leading-snug">Nothing left to measure</p>
      <p className="text-sm leading-snug text-soft">
        Nothing that is left to do would change the verdict.
      </p>
      {!here && <GoOn words="To the verdict" go={() => void navigate(pathOf(job, "verdict"))} />}
    </div>
  );
}

interface InsteadProps {
  job: JobView;
  next: NonNullable<JobView["next"]>;
  begin: ReturnType<typeof useBegin>;
}

/** What could be done instead, with its minutes. */
function Instead({ job, next, begin }: InsteadProps) {
  const navigate = useNavigate();
  if (next.alternatives.length === 0) return null;
  return (
    <p className="mt-2 flex flex-wrap items-baseline gap-x-2 text-sm text-soft">
      Or:
      {next.alternatives.map((other) => {
        const there = job.route.filter((k) => k.kind === other.kind && k.sheet_id).at(-1);
        const go = () => {
          if (there) void navigate(pathOf(job, there.key));
          else begin.mutate({ kind: other.kind, at: other.injectors[0] ?? "" });
        };
        return (
          <BusyButton
            key={other.kind}
            className="min-h-11 underline md:min-h-0"
            title={other.text}
            busy={begin.isPending}
            onClick={go}
          >
            {other.title}, {other.minutes} min
          </BusyButton>
        );
      })}
    </p>
  );
}

/** The sheet that a step begins; one after a repair is for those that were worked on. */
function wantedOf({ kind, text, after, injectors }: NonNullable<JobView["next"]>) {
  const at = injectors[0] ?? "";
  return after
    ? { kind, at, after, injectors, because: "after the repair" }
    : { kind, at, because: text };
}

export function NextStep({ job, sheet }: Props) {
  const begin = useBegin(job);
  const navigate = useNavigate();
  const own = sheet?.next;
  if (own) return <Advice title={own.title} text={own.text} edge="border-chalk" />;
  const next = job.next;
  if (!next) {
    if (sheet?.measured === 0) return null;
    return <AtTheEnd job={job} here={sheet === undefined} />;
  }
  // The newest sheet of that kind, when the step is one on a sheet that is there.
  const there = job.route.filter((k) => k.kind === next.kind && k.sheet_id).at(-1);
  const again = next.anew;
  const here = there?.key === (sheet?.key ?? "");
  const at = next.injectors[0] ?? "";
  const go = () => {
    if (next.asks) void navigate(pathOf(job, "repair"));
    else if (!there || again) begin.mutate(wantedOf(next));
    else void navigate(`${pathOf(job, there.key)}${at && `?at=${encodeURIComponent(at)}`}`);
  };
  return (
    <div className="mb-3 border-l-4 border-chalk pl-3">
      <p className="font-bold leading-snug">Next: {next.title}</p>
      <p className="text-sm leading-snug text-soft">
        {next.text} {next.minutes > 0 && `About ${next.minutes} min.`}
      </p>
      {(!here || again) && (
        <GoOn
          words={next.repairs ? "Done: repeat the sheet" : "Go there"}
          busy={begin.isPending}
          go={go}
        />
      )}
      <Instead job={job} next={next} begin={begin} />
      <Trouble text={begin.isError ? told(begin.error) : null} />
    </div>
  );
}
