/** What to do next and why: on this sheet first, else wherever the job asks for it. */
import { useNavigate } from "react-router";
import { told, type JobView, type SheetView } from "../../api/client";
import { Trouble } from "../../ui/parts";
import { Advice } from "../../ui/said";
import { useBegin } from "./Route";

interface Props {
  job: JobView;
  sheet?: SheetView;
}

export function NextStep({ job, sheet }: Props) {
  const begin = useBegin(job);
  const navigate = useNavigate();
  const own = sheet?.next;
  if (own) return <Advice title={own.title} text={own.text} edge="border-chalk" />;
  const next = job.next;
  if (!next) {
    if (sheet?.measured === 0) return null;
    return (
      <Advice
        title="Nothing left to measure"
        text="Nothing that is left to do would change the verdict."
        edge="border-ink"
      />
    );
  }
  // The newest sheet of that kind, when the step is one on a sheet that is there.
  const there = job.route.filter((k) => k.kind === next.kind && k.sheet_id).at(-1);
  const again = next.title.includes(" again");
  const here = there?.key === (sheet?.key ?? "");
  return (
    <div className="mb-3 border-l-4 border-chalk pl-3">
      <p className="font-bold leading-snug">Next: {next.title}</p>
      <p className="text-sm leading-snug text-soft">
        {next.text} About {next.minutes} min.
      </p>
      {!here && (
        <button
          className="slab-knob mt-2"
          disabled={begin.isPending}
          onClick={() =>
            there && !again
              ? void navigate(`/jobs/${encodeURIComponent(job.number)}/${there.key}`)
              : begin.mutate(next.kind)
          }
        >
          Go there
        </button>
      )}
      <Trouble text={begin.isError ? told(begin.error) : null} />
    </div>
  );
}
