/** A capture on the screen: what the instrument shows, who is next, what was taken, what is doubted. */
import { useState } from "react";
import { told, type CaptureView, type SheetView } from "../../api/client";
import { useKey } from "../../lib/keys";
import { BusyButton, Kbd, Trouble } from "../../ui/parts";
import { hasSerial, RATES } from "./serial";
import { Stream } from "./Stream";
import type { Capture } from "./useCapture";

function decimalsOf(step: string): number {
  return (step.split(".")[1] ?? "").length;
}

/** Nothing is captured: what could be, and with what. */
function Idle({ sheet, of }: { sheet: SheetView; of: Capture }) {
  const { offer, start } = of;
  const [baud, setBaud] = useState<number>(RATES[0]);
  const able = offer?.why_not === "" && !(offer.pushed && !hasSerial());
  const begin = (fires: boolean) => start.mutate({ fires, baud });
  useKey("i", () => able && begin(false));
  if (!offer || sheet.closed) return null;
  // Nothing on the shelf could do it: nothing is said of it either.
  if (offer.why_not !== "" && offer.gauge === "" && offer.others.length === 0) return null;
  return (
    <section aria-label="Capture" className="mb-2 flex flex-wrap items-center gap-2 text-sm">
      {able ? (
        <>
          <BusyButton className="slab-knob" busy={start.isPending} onClick={() => begin(false)}>
            <Kbd>I</Kbd> Let {offer.gauge} fill it in
          </BusyButton>
          {offer.box !== "" && <FireKnob box={offer.box} fire={() => begin(true)} />}
          {offer.pushed && (
            <label>
              Baud{" "}
              <select
                className="field w-auto"
                value={baud}
                onChange={(e) => setBaud(Number(e.target.value))}
              >
                {RATES.map((r) => (
                  <option key={r}>{r}</option>
                ))}
              </select>
            </label>
          )}
          <p className="text-soft">{offer.words}</p>
        </>
      ) : (
        <p className="text-soft">
          {offer.pushed ? "This browser has no serial port of its own." : offer.why_not}
        </p>
      )}
      <Trouble text={start.isError ? told(start.error) : null} />
    </section>
  );
}

/** The box switches the pump and pulses injectors: that is asked for twice. */
function FireKnob({ box, fire }: { box: string; fire: () => void }) {
  const [sure, setSure] = useState(false);
  if (!sure) {
    return (
      <button className="knob min-h-11" onClick={() => setSure(true)}>
        Let {box} work it
      </button>
    );
  }
  return (
    <span className="flex flex-wrap items-center gap-2 border-l-4 border-chalk pl-3">
      <span>
        {box} will run the pump and pulse each injector once. Hands, sparks and lamps away from the
        rail, gauge and hoses tight, extinguisher at hand.
      </span>
      <button className="slab-knob" onClick={fire}>
        Begin
      </button>
      <button className="knob min-h-11" onClick={() => setSure(false)}>
        Not now
      </button>
    </span>
  );
}

/** What was taken last, or what is asked for again. */
function Last({ capture, accept }: { capture: CaptureView; accept: () => void }) {
  const { last } = capture;
  if (!last) return null;
  if (last.kept) {
    return (
      <p>
        {last.row !== "" && <b>{last.row}: </b>}
        <span className="figure">{last.shown}</span> taken
        {last.confidence_percent < 99.5 && `, sure to ${last.confidence_percent} %`}
      </p>
    );
  }
  return (
    <p className="flex flex-wrap items-center gap-2">
      <span>
        <b>{last.row} once more:</b> {last.doubts.join(", ")}.{" "}
        <span className="figure text-soft">{last.shown}</span> was not taken.
      </span>
      {capture.running && (
        <button className="knob" onClick={accept}>
          Take it all the same
        </button>
      )}
    </p>
  );
}

/** Another row comes next than the one that stands there. */
function Aim({ sheet, capture, aim }: AimProps) {
  if (capture.row === "" || sheet.rows.length < 2) return null;
  return (
    <label className="flex items-center gap-1 text-sm">
      Next
      <select
        className="field w-auto"
        aria-label="Which comes next"
        value={capture.row}
        onChange={(e) => aim(e.target.value)}
      >
        {sheet.rows.map((r) => (
          <option key={r.injector} value={r.injector}>
            {r.name || r.injector}
          </option>
        ))}
      </select>
    </label>
  );
}

interface AimProps {
  sheet: SheetView;
  capture: CaptureView;
  aim: (row: string) => void;
}

function Running({ sheet, of, capture }: { sheet: SheetView; of: Capture; capture: CaptureView }) {
  const { trail, stop, say } = of;
  useKey("i", () => stop.mutate());
  return (
    <section
      aria-label="Capture"
      className="top-1 z-20 mb-3 rounded-lg border-2 border-chalk bg-sheet p-3 [@media(min-height:600px)]:sticky"
      data-state={capture.state}
    >
      <div className="flex flex-wrap items-baseline gap-x-4 gap-y-1">
        <p className="text-2xl font-bold">
          {capture.row === "" ? capture.gauge : `Next: ${capture.name}`}
        </p>
        <p role="status" className="flex-1">
          {capture.waits || capture.told}
        </p>
        {capture.kick !== "" && (
          <button className="slab-knob" onClick={() => say.mutate({ what: "kick" })}>
            {capture.kick}
          </button>
        )}
        <Aim sheet={sheet} capture={capture} aim={(row) => say.mutate({ what: "aim", row })} />
        <button className="knob min-h-12" onClick={() => stop.mutate()}>
          <Kbd>I</Kbd> Stop
        </button>
      </div>
      <Stream trail={trail} unit={capture.unit} decimals={decimalsOf(sheet.gauge.step)} />
      <div aria-live="polite" className="text-sm">
        <Last capture={capture} accept={() => say.mutate({ what: "accept" })} />
      </div>
      <Trouble text={capture.trouble || null} />
      {capture.unsaved > 0 && (
        <p>{capture.unsaved} taken, kept on the server until the database answers.</p>
      )}
    </section>
  );
}

/** A capture that has ended: what came of it, for a while. */
function Ended({ capture }: { capture: CaptureView }) {
  if (capture.taken === 0 && capture.trouble === "") return null;
  return (
    <div className="mb-2 border-l-4 border-hair pl-3 text-sm" role="status">
      {capture.taken > 0 && (
        <p>
          {capture.taken} taken by {capture.gauge}; what it showed is kept as a trace.
        </p>
      )}
      <Trouble text={capture.trouble || null} />
    </div>
  );
}

export function CapturePanel({ sheet, of }: { sheet: SheetView; of: Capture }) {
  const { capture } = of;
  const mine = capture?.sheet_id === sheet.id ? capture : null;
  if (mine?.running) return <Running sheet={sheet} of={of} capture={mine} />;
  return (
    <>
      {mine && <Ended capture={mine} />}
      <Idle sheet={sheet} of={of} />
    </>
  );
}
