/** What is seen of a nozzle on the hand pump: sound, spray, and the seat with its clock. */
import type { SheetView } from "../../../api/client";
import { nextOf } from "../entry/draft";
import { Knob } from "../EntryParts";
import type { Entry } from "../useEntry";
import { HOLD_S } from "./useSeat";

interface Props {
  sheet: SheetView;
  entry: Entry;
}

/** The word that stands now: what is being typed comes before what is kept. */
export function seenNow(entry: Entry, name: "sound" | "spray"): string {
  if (entry.draft.first.trim() !== "") return entry.draft[name];
  const mine = entry.waiting.filter((w) => w.reading.injector === entry.pump);
  const queued = mine.findLast((w) => w.reading[name])?.reading[name];
  if (queued) return queued;
  // Another stack of shims is looked at anew.
  const anew = mine.some((w) => w.reading.shim && w.reading.shim !== entry.pumpRow?.nozzle?.shim);
  return entry.draft[name] || (anew ? "" : (entry.pumpRow?.nozzle?.[name] ?? ""));
}

/** The touch twins of C, S and T. */
export function NozzleKnobs({ sheet, entry }: Props) {
  const sound = seenNow(entry, "sound");
  const spray = seenNow(entry, "spray");
  return (
    <>
      <Knob
        cap="C"
        words={sound || "sound"}
        pressed={sound !== ""}
        act={() => entry.look({ sound: nextOf(sheet.entry.sounds, sound) })}
      />
      <Knob
        cap="S"
        words={spray ? `spray ${spray}` : "spray"}
        pressed={spray !== ""}
        act={() => entry.look({ spray: nextOf(sheet.entry.sprays, spray) })}
      />
      <Knob cap="T" words="seat" pressed={entry.seat.held !== null} act={entry.seat.begin} />
    </>
  );
}

/** The clock of the hold, and the three answers. */
export function SeatClock({ entry }: { entry: Entry }) {
  const { held } = entry.seat;
  if (held === null) return null;
  const left = Math.ceil(HOLD_S - held);
  const at = entry.pumpRow?.nozzle?.seat_at ?? "";
  return (
    <section
      aria-label="Seat"
      className="mt-2 flex flex-wrap items-center gap-2 border-l-4 border-chalk pl-3"
    >
      <p className="grow">
        <b>
          Hold {entry.pump} at {at === "" ? "20 bar below opening" : at}, tip in sight.
        </b>{" "}
        <span role="timer" className="figure text-2xl font-bold">
          {left > 0 ? `${left} s` : "now"}
        </span>
      </p>
      <div className="flex gap-1">
        <Knob cap="D" words="dry" act={() => entry.seat.seen("dry")} />
        <Knob cap="M" words="damp" act={() => entry.seat.seen("damp")} />
        <Knob cap="W" words="wet" act={() => entry.seat.seen("wet")} />
        <Knob cap="Esc" words="stop" act={entry.seat.stop} />
      </div>
    </section>
  );
}
