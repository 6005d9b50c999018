/** Key cycles and engine runs: a burst leaves raw fuel; the engine burns it before the next one. */
import { useCallback, useEffect, useState } from "react";
import type { RowView, SheetView } from "../../api/client";
import { useKey } from "../../lib/keys";
import { noteRun } from "../../lib/store";
import { Kbd } from "../../ui/parts";

const RUN_S = 15;

/** Count the seconds of a run; at nought, or when told, the run is noted. */
function useRun(sheet: SheetView) {
  const [left, setLeft] = useState<number | null>(null);
  const done = useCallback(() => {
    setLeft(null);
    noteRun(sheet);
  }, [sheet]);
  useEffect(() => {
    if (left === null) return;
    const tick = setTimeout(() => {
      if (left > 1) setLeft(left - 1);
      else done();
    }, 1000);
    return () => clearTimeout(tick);
  }, [left, done]);

  return { left, setLeft, done };
}

/** Which cylinders hold raw fuel, and what that asks for. */
function RawFuel({ raw, starts }: { raw: RowView[]; starts: boolean }) {
  return (
    <>
      Raw fuel in cylinder{raw.length === 1 ? "" : "s"}{" "}
      <b>{raw.map((r) => r.injector).join(", ")}</b>, one burst used in this key cycle.{" "}
      {raw.some((r) => r.raw > 1) && <b>Two bursts in a row can lock a cylinder. </b>}
      {starts
        ? "Run the engine before the next burst there."
        : "This engine does not burn it: fuel and ignition off, plugs out, crank it clear before the next burst there."}
    </>
  );
}

export default function EngineRun({ sheet }: { sheet: SheetView }) {
  const { left, setLeft, done } = useRun(sheet);
  const raw = sheet.rows.filter((r) => r.raw > 0);
  useKey("e", () => {
    if (sheet.starts) setLeft((now) => (now === null ? RUN_S : null));
    else if (raw.length > 0) done();
  });
  if (raw.length === 0 && left === null) return null;
  return (
    <section
      aria-label="Raw fuel"
      className="mt-3 flex flex-wrap items-center gap-3 border-l-4 border-chalk pl-3"
    >
      <p className="min-w-60 flex-1 text-sm" aria-live="polite">
        {left !== null ? (
          <b>Engine running, {left} s to go. Then key off, and the next burst.</b>
        ) : (
          <RawFuel raw={raw} starts={sheet.starts} />
        )}
      </p>
      {!sheet.starts ? (
        <button className="slab-knob" onClick={done}>
          <Kbd>E</Kbd> They were cleared
        </button>
      ) : left === null ? (
        <button className="slab-knob" onClick={() => setLeft(RUN_S)}>
          <Kbd>E</Kbd> Count {RUN_S} s of engine
        </button>
      ) : (
        <>
          <button className="slab-knob" onClick={done}>
            It ran long enough
          </button>
          <button className="knob min-h-11" onClick={() => setLeft(null)}>
            Stop
          </button>
        </>
      )}
    </section>
  );
}
