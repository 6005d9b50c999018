/** A value that its readings leave open, taken as it is by a person who says why. */
import { useState } from "react";
import { told, type JobView, type VerdictView } from "../../api/client";
import { changed, type Note } from "../../lib/notes";
import { BusyButton, Text, Trouble } from "../../ui/parts";
import { useNote } from "../finish/useFinish";

type Row = VerdictView["rows"][number];

/** Why it is taken; without a reason that is taken back. */
const acceptNote = (injector: string, reason: string): Note =>
  changed(
    { accepted: { injector, reason } },
    reason ? `${injector} accepted: ${reason}` : `${injector} accepted no more`,
  );

export default function Accept({ job, row }: { job: JobView; row: Row }) {
  const [reason, setReason] = useState<string | null>(null);
  const note = useNote(job);
  const put = (text: string) => note.mutate([acceptNote(row.injector, text)]);
  if (job.closed) return null;
  const trouble = <Trouble text={note.isError ? told(note.error) : null} />;
  if (row.accepted !== "") {
    return (
      <p className="mt-1">
        <BusyButton type="button" className="knob" busy={note.isPending} onClick={() => put("")}>
          Take that back
        </BusyButton>
        {trouble}
      </p>
    );
  }
  if (reason === null) {
    return (
      <p className="mt-1">
        <button type="button" className="knob" onClick={() => setReason("")}>
          Accept {row.injector} as it is
        </button>
        {trouble}
      </p>
    );
  }
  return (
    <form
      aria-label={`Accept ${row.injector} as it is`}
      className="mt-1 max-w-xl"
      onSubmit={(e) => {
        e.preventDefault();
        if (!reason.trim()) return;
        put(reason.trim());
        setReason(null);
      }}
    >
      <Text label={`Why ${row.injector} is taken as it is`} value={reason} onChange={setReason} />
      <BusyButton className="slab-knob" disabled={!reason.trim()} busy={note.isPending}>
        Keep
      </BusyButton>
    </form>
  );
}
