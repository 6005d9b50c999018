/** Choosing a way: why, and for waiting the day or the distance at which it is looked at again. */
import { useState } from "react";
import { told, type JobView } from "../../api/client";
import { BusyButton, Dialog, Text, Trouble } from "../../ui/parts";
import { notes, useNote, type Way } from "./useFinish";

interface Props {
  job: JobView;
  way: Way;
  close: () => void;
}

/** Half a year from now, as a first proposal: as a day of the calendar. */
function inHalfAYear(): string {
  const day = new Date();
  day.setMonth(day.getMonth() + 6);
  return day.toISOString().slice(0, 10);
}

/** What is chosen, and the errand that keeps it. */
function useChoosing(job: JobView, way: Way, close: () => void) {
  const note = useNote(job);
  const [id] = useState(() => crypto.randomUUID());
  const [said, setSaid] = useState({
    reason: "",
    on: way.option === "wait" ? inHalfAYear() : "",
    at: "",
  });
  const choose = () =>
    note.mutate(
      [
        notes.choose(
          id,
          {
            option: way.option as "wait",
            injectors: way.injectors,
            reason: said.reason,
            look_on: said.on || null,
            look_at: said.at || null,
          },
          way.title,
        ),
      ],
      { onSuccess: close },
    );
  return {
    note,
    said,
    put: (change: Partial<typeof said>) => setSaid({ ...said, ...change }),
    choose,
  };
}

export default function ChooseDialog({ job, way, close }: Props) {
  const { note, said, put, choose } = useChoosing(job, way, close);
  return (
    <Dialog title={way.title} open onOpenChange={close} note={way.risk ? `But: ${way.risk}.` : ""}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          choose();
        }}
      >
        <Text
          label="Why this one (may stay empty)"
          value={said.reason}
          onChange={(reason) => put({ reason })}
        />
        {way.option === "wait" && (
          <>
            <label className="mb-2 block">
              <span className="label">Look again by</span>
              <input
                className="field"
                type="date"
                value={said.on}
                onChange={(e) => put({ on: e.target.value })}
              />
            </label>
            <Text
              label={`or at, in ${job.vehicle.distance_unit}`}
              value={said.at}
              onChange={(at) => put({ at })}
              numeric
            />
          </>
        )}
        <Trouble text={note.isError ? told(note.error) : null} />
        <BusyButton className="slab-knob" busy={note.isPending}>
          Choose it
        </BusyButton>
      </form>
    </Dialog>
  );
}
