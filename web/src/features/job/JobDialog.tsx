/** What the visit is about: complaint, codes, distance; an empty job can be taken away. */
import { useMutation } from "@tanstack/react-query";
import { useState, type SubmitEvent } from "react";
import { useNavigate } from "react-router";
import api, { answered, told, type JobChange, type JobView } from "../../api/client";
import { changed, saidOn, type Note } from "../../lib/notes";
import { putNotes } from "../../lib/offline";
import { queries } from "../../lib/store";
import { dayOf, OtherDay, type Dated } from "../../ui/OtherDay";
import { BusyButton, Dialog, Text, Trouble } from "../../ui/parts";

interface Props {
  job: JobView;
  open: boolean;
  onOpenChange: (open: boolean) => void;
}

export default function JobDialog({ job, open, onOpenChange }: Props) {
  return (
    <Dialog title={`Job ${job.number}`} open={open} onOpenChange={onOpenChange}>
      <Form job={job} done={() => onOpenChange(false)} />
    </Dialog>
  );
}

const DISTANCE: Record<string, string> = {
  km: "Distance, km",
  mi: "Distance, miles",
  h: "Hours of the engine",
};

interface Typed {
  complaint: string;
  codes: string;
  distance: string;
  dated: Dated;
}

function saidNote(job: JobView, typed: Typed): Note {
  const codes = typed.codes
    .toUpperCase()
    .split(/[\s,;]+/)
    .filter(Boolean);
  const body = { complaint: typed.complaint.trim(), codes, distance: typed.distance.trim() };
  return {
    method: "PATCH",
    path: "/api/jobs/{number}",
    params: {},
    body: body satisfies Partial<JobChange>,
    words: ["complaint:", body.complaint, ...codes, body.distance].filter(Boolean).join(" "),
    was: saidOn(job),
  };
}

/** How a job's day stands. */
const datedOf = (job: JobView): Dated => ({
  day: dayOf(new Date(job.opened)),
  because: job.dated_because,
});

/** The visit was on another day, or for another reason noted later. */
function datedNote(job: JobView, { dated }: Typed): Note[] {
  const was = datedOf(job);
  if (dated.day === was.day && dated.because.trim() === was.because) return [];
  return [changed({ dated }, `the visit was on ${dated.day}`)];
}

function useSave(job: JobView, done: () => void) {
  return useMutation({
    mutationFn: (typed: Typed) =>
      putNotes(job.number, [saidNote(job, typed), ...datedNote(job, typed)]),
    onSuccess: done,
  });
}

function Form({ job, done }: { job: JobView; done: () => void }) {
  const [typed, setTyped] = useState({
    complaint: job.complaint,
    codes: job.codes.join(" "),
    distance: job.distance,
    dated: datedOf(job),
  });
  const save = useSave(job, done);
  const put = (change: Partial<typeof typed>) => setTyped({ ...typed, ...change });
  const go = (e: SubmitEvent) => {
    e.preventDefault();
    save.mutate(typed);
  };
  const unit = job.vehicle.distance_unit;
  return (
    <form onSubmit={go}>
      <Text
        label="Complaint"
        value={typed.complaint}
        onChange={(complaint) => put({ complaint })}
      />
      <Text
        label="Codes, with a space between"
        value={typed.codes}
        onChange={(codes) => put({ codes })}
      />
      <Text
        label={DISTANCE[unit] ?? "Distance"}
        numeric
        value={typed.distance}
        onChange={(distance) => put({ distance })}
      />
      <Day dated={typed.dated} put={(dated) => put({ dated })} />
      <Trouble text={save.isError ? told(save.error) : null} />
      <div className="flex flex-wrap gap-2">
        <BusyButton className="slab-knob" busy={save.isPending}>
          Keep
        </BusyButton>
        {job.route.every((k) => !k.sheet_id || k.empty) && <TakeAway job={job} />}
      </div>
    </form>
  );
}

/** The day of the visit, where it was not the one on which it was noted. */
function Day({ dated, put }: { dated: Dated; put: (dated: Dated) => void }) {
  const [moves, setMoves] = useState(dated.because !== "");
  if (moves) return <OtherDay dated={dated} put={put} />;
  return (
    <button type="button" className="knob mb-2" onClick={() => setMoves(true)}>
      The visit was on another day
    </button>
  );
}

/** A job on which nothing was noted, opened by mistake. */
function TakeAway({ job }: { job: JobView }) {
  const navigate = useNavigate();
  const drop = useMutation({
    mutationFn: () =>
      answered(api.DELETE("/api/jobs/{number}", { params: { path: { number: job.number } } })),
    onSuccess: () => {
      void queries.invalidateQueries({ queryKey: ["jobs"] });
      void navigate("/");
    },
  });
  return (
    <>
      <BusyButton
        type="button"
        className="knob min-h-11"
        busy={drop.isPending}
        onClick={() => drop.mutate()}
      >
        Take this empty job away
      </BusyButton>
      <Trouble text={drop.isError ? told(drop.error) : null} />
    </>
  );
}
