/** Closing a job: who signs, why where something is left, and a finger's signature on a touch screen. */
import { useRef, useState, type PointerEvent } from "react";
import { told, type JobView } from "../../api/client";
import { usePrefs } from "../../lib/prefs";
import { BusyButton, Dialog, Text, Trouble } from "../../ui/parts";
import { ending, useSigning } from "./useFinish";

export default function SignDialog({ job, close }: { job: JobView; close: () => void }) {
  const note = useSigning();
  const { me } = usePrefs();
  const [by, setBy] = useState(me);
  const [reason, setReason] = useState("");
  const [hand, setHand] = useState("");
  const asked = job.finishing.reason_for;
  const ready = by.trim() !== "" && (asked === "" || reason.trim() !== "");
  const sign = () => {
    note.mutate(() => ending(job).close({ by, reason, hand }), { onSuccess: close });
  };
  return (
    <Dialog
      title={`Close job ${job.number}`}
      open
      onOpenChange={close}
      note="What was decided is kept as it is, under this name. The job leaves Today and takes no more figures, until somebody opens it again."
    >
      <form
        onSubmit={(e) => {
          e.preventDefault();
          if (ready) sign();
        }}
      >
        {asked && (
          <>
            <p className="mb-2 border-l-4 border-chalk pl-3">
              <b>Left open:</b> {asked}.
            </p>
            <Text label="Why it is closed all the same" value={reason} onChange={setReason} />
          </>
        )}
        <Text label="Signed by" value={by} onChange={setBy} />
        <Hand hand={hand} set={setHand} />
        <Trouble text={note.isError ? told(note.error) : null} />
        <BusyButton className="slab-knob" disabled={!ready} busy={note.isPending}>
          Close and sign
        </BusyButton>
      </form>
    </Dialog>
  );
}

const WIDE = 300;
const HIGH = 100;
const STROKE = {
  fill: "none",
  stroke: "var(--ink)",
  strokeWidth: 2.5,
  strokeLinecap: "round",
  strokeLinejoin: "round",
} as const;

/** Where a finger is, in the drawing's own measure. */
function spot(e: PointerEvent): string {
  const { left, top, width, height } = e.currentTarget.getBoundingClientRect();
  const x = Math.round(((e.clientX - left) / width) * WIDE);
  const y = Math.round(((e.clientY - top) / height) * HIGH);
  return `${Math.min(WIDE, Math.max(0, x))} ${Math.min(HIGH, Math.max(0, y))}`;
}

/** A field to sign in with a finger or a pen; the strokes are kept as a drawing. */
function Hand({ hand, set }: { hand: string; set: (hand: string) => void }) {
  const drawing = useRef(false);
  const down = (e: PointerEvent<SVGSVGElement>) => {
    drawing.current = true;
    e.currentTarget.setPointerCapture(e.pointerId);
    set(`${hand} M${spot(e)}`.trim());
  };
  const move = (e: PointerEvent<SVGSVGElement>) => {
    if (drawing.current && hand.length < 19_000) set(`${hand} L${spot(e)}`);
  };
  return (
    <div className="mb-3">
      <p className="label">With a finger or a pen (may stay empty)</p>
      <svg
        viewBox={`0 0 ${WIDE} ${HIGH}`}
        role="img"
        aria-label={hand ? "Signature" : "No signature yet"}
        className="h-24 w-full max-w-sm touch-none rounded-lg border border-edge bg-field"
        onPointerDown={down}
        onPointerMove={move}
        onPointerUp={() => (drawing.current = false)}
      >
        <path d={hand} {...STROKE} />
      </svg>
      {hand && (
        <button type="button" className="knob mt-1" onClick={() => set("")}>
          Wipe it off
        </button>
      )}
    </div>
  );
}
