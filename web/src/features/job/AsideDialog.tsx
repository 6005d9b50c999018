/** Why a procedure will not be done on this job; an empty sheet can be taken away. */
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import api, { answered, got, told, type JobView, type Kind, type KnotView } from "../../api/client";
import { queries } from "../../lib/store";
import { Dialog, Text, Trouble } from "../../ui/parts";

interface AsideProps {
  job: JobView;
  knot: KnotView;
  onClose: () => void;
}

function useSetAside(job: JobView, knot: KnotView, done: () => void) {
  return useMutation({
    mutationFn: (reason: string) =>
      got(
        api.PATCH("/api/jobs/{number}", {
          params: { path: { number: job.number } },
          body: { aside: { kind: knot.kind as Kind, reason } },
        }),
      ),
    onSuccess: (view) => {
      queries.setQueryData(["job", job.number], view);
      done();
    },
  });
}

/** Why a procedure will not be done on this job. */
export default function AsideDialog({ job, knot, onClose }: AsideProps) {
  const [reason, setReason] = useState("");
  const put = useSetAside(job, knot, () => {
    setReason("");
    onClose();
  });
  const was = knot.state === "aside" ? knot.sub : "";
  return (
    <Dialog
      title={`${knot.title}: set aside`}
      open
      onOpenChange={onClose}
      note="It stays on the route, crossed out, with the reason; it is not asked for any more."
    >
      <form
        onSubmit={(e) => {
          e.preventDefault();
          if (reason.trim()) put.mutate(reason);
        }}
      >
        <Text label="Why not" value={reason} onChange={setReason} />
        {was && <p className="mb-2 text-sm text-soft">Set aside now: {was}</p>}
        <div className="flex gap-2">
          <button type="submit" className="slab-knob" disabled={!reason.trim()}>
            Set aside
          </button>
          {was && (
            <button type="button" className="knob min-h-11" onClick={() => put.mutate("")}>
              Take it up again
            </button>
          )}
        </div>
        <Trouble text={put.isError ? told(put.error) : null} />
      </form>
      {knot.sheet_id !== 0 && knot.empty && <TakeAway job={job} knot={knot} done={onClose} />}
    </Dialog>
  );
}

/** A sheet on which nothing was noted, opened by mistake. */
function TakeAway({ job, knot, done }: { job: JobView; knot: KnotView; done: () => void }) {
  const navigate = useNavigate();
  const drop = useMutation({
    mutationFn: () =>
      answered(
        api.DELETE("/api/sheets/{sheet_id}", { params: { path: { sheet_id: knot.sheet_id } } }),
      ),
    onSuccess: () => {
      void queries.invalidateQueries({ queryKey: ["job", job.number] });
      void navigate(`/jobs/${encodeURIComponent(job.number)}`);
      done();
    },
  });
  return (
    <div className="mt-4 border-t border-hair pt-3">
      <p className="mb-2 text-sm text-soft">Nothing was noted on it: it can be taken away again.</p>
      <button className="knob min-h-11" disabled={drop.isPending} onClick={() => drop.mutate()}>
        Take this empty sheet away
      </button>
      <Trouble text={drop.isError ? told(drop.error) : null} />
    </div>
  );
}
