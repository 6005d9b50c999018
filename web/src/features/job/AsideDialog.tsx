/** Why a procedure will not be done on this job; an empty sheet can be taken away. */
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import api, {
  answered,
  told,
  type JobChange,
  type JobView,
  type Kind,
  type KnotView,
} from "../../api/client";
import type { Note } from "../../lib/notes";
import { putNotes } from "../../lib/offline";
import { outbox, queries } from "../../lib/store";
import { BusyButton, Dialog, Text, Trouble } from "../../ui/parts";

interface AsideProps {
  job: JobView;
  knot: KnotView;
  onClose: () => void;
}

const asideNote = (knot: KnotView, reason: string): Note => ({
  method: "PATCH",
  path: "/api/jobs/{number}",
  params: {},
  body: { aside: { kind: knot.kind as Kind, reason } } satisfies Partial<JobChange>,
  words: `${knot.title} ${reason ? `set aside: ${reason}` : "taken up again"}`,
});

function useSetAside(job: JobView, knot: KnotView, done: () => void) {
  return useMutation({
    mutationFn: (reason: string) => putNotes(job.number, [asideNote(knot, reason)]),
    onSuccess: done,
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
  const path = { sheet_id: knot.sheet_id };
  const drop = useMutation({
    mutationFn: async () => {
      const waits = outbox.waiting().find((w) => w.kind === "sheet" && w.sheetId === knot.sheet_id);
      if (waits) await outbox.drop(waits.seq);
      else await answered(api.DELETE("/api/sheets/{sheet_id}", { params: { path } }));
    },
    onSuccess: () => {
      void queries.invalidateQueries({ queryKey: ["job", job.number] });
      void navigate(`/jobs/${encodeURIComponent(job.number)}`);
      done();
    },
  });
  return (
    <div className="mt-4 border-t border-hair pt-3">
      <p className="mb-2 text-sm text-soft">Nothing was noted on it: it can be taken away again.</p>
      <BusyButton className="knob min-h-11" busy={drop.isPending} onClick={() => drop.mutate()}>
        Take this empty sheet away
      </BusyButton>
      <Trouble text={drop.isError ? told(drop.error) : null} />
    </div>
  );
}
