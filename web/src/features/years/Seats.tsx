/** The parts in their places: what is known of each, and since when it sits there. */
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { longDay } from "../../lib/clock";
import api, { got, told } from "../../api/client";
import { queries } from "../../lib/store";
import { BusyButton, Dialog, Text, Trouble } from "../../ui/parts";
import { yearsQuery, type Years } from "./years";

type Seat = Years["seats"][number];
const FIELDS = [
  ["make", "Make"],
  ["number", "Part number"],
  ["serial", "Serial number"],
  ["code", "Adjustment code"],
  ["mark", "Mark on it"],
  ["note", "Note"],
] as const;

const wordsOf = ({ part }: Seat) =>
  [
    part.make,
    part.number,
    part.serial && `serial ${part.serial}`,
    part.code && `code ${part.code}`,
    part.mark,
    part.note,
  ]
    .filter(Boolean)
    .join(", ");

export function Seats({ years }: { years: Years }) {
  const [open, setOpen] = useState<Seat | null>(null);
  return (
    <section aria-label="Parts in their places" className="mb-5">
      <h2 className="mb-1 text-lg font-bold">Parts in their places</h2>
      <ul className="rounded-lg border border-hair bg-sheet">
        {years.seats.map((seat) => (
          <li
            key={seat.place}
            className="flex flex-wrap items-center gap-x-3 border-b border-hair px-3 py-1.5 last:border-0"
          >
            <b className="figure text-lg">{seat.place}</b>
            <span className="flex-1">
              {wordsOf(seat) || <span className="text-soft">nothing noted</span>}
              <span className="text-sm text-soft">
                {seat.since ? ` · since ${longDay(seat.since)}` : " · from the beginning"}
              </span>
            </span>
            <button
              className="knob min-h-11"
              aria-label={`Note the part in ${seat.place}`}
              onClick={() => setOpen(seat)}
            >
              Note
            </button>
          </li>
        ))}
      </ul>
      {open && <PartDialog id={years.vehicle.id} seat={open} close={() => setOpen(null)} />}
    </section>
  );
}

interface PartProps {
  id: number;
  seat: Seat;
  close: () => void;
}

function PartDialog({ id, seat, close }: PartProps) {
  const [part, setPart] = useState(seat.part);
  const keep = useMutation({
    mutationFn: () =>
      got(
        api.PUT("/api/vehicles/{vehicle_id}/parts/{label}", {
          params: { path: { vehicle_id: id, label: seat.place } },
          body: part,
        }),
      ),
    onSuccess: (made) => {
      queries.setQueryData(yearsQuery(id).queryKey, made);
      close();
    },
  });
  return (
    <Dialog title={`The part in ${seat.place}`} open onOpenChange={close}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          keep.mutate();
        }}
      >
        {FIELDS.map(([key, label]) => (
          <Text
            key={key}
            label={label}
            value={part[key]}
            onChange={(text) => setPart({ ...part, [key]: text })}
          />
        ))}
        <Trouble text={keep.isError ? told(keep.error) : null} />
        <BusyButton className="slab-knob" busy={keep.isPending}>
          Keep
        </BusyButton>
      </form>
    </Dialog>
  );
}
