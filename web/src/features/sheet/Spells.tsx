/** The time that volumes are gathered in: idling for so long, or cranking spells with rests. */
import { useState } from "react";
import type { SheetView } from "../../api/client";
import { useElapsed, useRing } from "../../lib/clock";
import { changeTold, useSheetChange } from "../../lib/store";
import { useKey } from "../../lib/keys";
import { Kbd, Trouble } from "../../ui/parts";

/** A starter is cranked no longer at once, and rests so long after it; common practice. */
const SPELL_S = 30;
const REST_S = 120;
/** How long an engine idles where nothing else is stated. */
const IDLE_S = 60;

interface Clock {
  phase: "spell" | "rest";
  at: number;
}

/** What a field of the conditions holds. */
function stated(sheet: SheetView, key: string): string {
  return sheet.knobs.flatMap((k) => k.fields).find((f) => f.key === key)?.value ?? "";
}

/** The spells so far; a time that was typed as a whole is the first of them. */
function before(sheet: SheetView): string {
  return stated(sheet, "spells_s") || stated(sheet, "duration_s");
}

/** The clock of a spell and of the rest after it; what it counted goes into the conditions. */
function useSpells(sheet: SheetView) {
  const [clock, setClock] = useState<Clock | null>(null);
  const change = useSheetChange(sheet);
  const cranking = stated(sheet, "state") === "cranking";
  const gone = Math.floor(useElapsed(clock?.at ?? null) ?? 0);
  const idle = Number(stated(sheet, "duration_s")) || IDLE_S;
  const due = clock?.phase === "rest" ? REST_S : cranking ? SPELL_S : idle;
  useRing(clock !== null && gone >= due);

  const begin = (phase: Clock["phase"]) => setClock({ phase, at: Date.now() });
  const end = () => {
    const seconds = clock ? Math.round((Date.now() - clock.at) / 1000) : 0;
    // Under a second nothing was cranked: a slip.
    if (seconds < 1) {
      setClock(null);
      return;
    }
    change.mutate((latest) => ({
      put: cranking
        ? { spells_s: `${before(latest)} ${seconds}`.trim(), duration_s: "" }
        : { spells_s: "", duration_s: String(seconds) },
    }));
    if (cranking) begin("rest");
    else setClock(null);
  };
  const press = clock?.phase === "spell" ? end : () => begin("spell");
  const leave = () => setClock(null);
  return { clock, cranking, gone, due, press, leave, trouble: changeTold(change) };
}

export default function Spells({ sheet }: { sheet: SheetView }) {
  const { clock, cranking, gone, due, press, leave, trouble } = useSpells(sheet);
  const spells = before(sheet).split(" ").filter(Boolean);
  useKey("k", press);
  return (
    <section
      aria-label="Spells"
      className="mb-2 flex flex-wrap items-center gap-x-3 gap-y-1 border-l-4 border-chalk pl-3"
    >
      <p className="min-w-60 flex-1 text-sm" aria-live="polite">
        {words(clock, cranking, gone >= due, spells)}
      </p>
      {clock && (
        <span role="timer" className="figure text-2xl font-bold">
          {clock.phase === "rest" || !cranking ? `${Math.max(0, due - gone)} s` : `${gone} s`}
        </span>
      )}
      <button className="slab-knob" onClick={press}>
        <Kbd>K</Kbd>{" "}
        {clock?.phase === "spell" ? "It stopped" : cranking ? "Cranking begins" : "Count the time"}
      </button>
      {clock && (
        <button className="knob min-h-11" onClick={leave}>
          {clock.phase === "rest" ? "Leave the rest out" : "Do not count it"}
        </button>
      )}
      <Trouble text={trouble} />
    </section>
  );
}

function words(clock: Clock | null, cranking: boolean, over: boolean, spells: string[]) {
  const total = Math.round(10 * spells.reduce((sum, s) => sum + Number(s), 0)) / 10;
  const sofar = `${spells.length} spell${spells.length === 1 ? "" : "s"}, ${total} s in all.`;
  if (!clock) {
    if (!cranking) return "Idle the engine for a fixed time; the clock rings and is noted.";
    return spells.length > 0 ? sofar : `Crank in spells of ${SPELL_S} s at most; they add up.`;
  }
  if (clock.phase === "rest") {
    const still = over ? "The starter has rested." : "Rest the starter: a hot one burns out.";
    return (
      <>
        <b>{still}</b> {sofar}
      </>
    );
  }
  if (!cranking) return <b>{over ? "Time is up: engine off, then read the tubes." : "Idling."}</b>;
  return <b>{over ? "Long enough for one spell: stop and rest the starter." : "Cranking."}</b>;
}
