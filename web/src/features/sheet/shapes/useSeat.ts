/** Holding a nozzle's seat below its opening pressure: a clock that asks what the tip did. */
import { useState } from "react";
import { useElapsed, useRing } from "../../../lib/clock";

/** About 20 bar below opening, for so long; common practice. */
export const HOLD_S = 10;

export interface Seat {
  /** Seconds since the hold began; null: nothing is held. */
  held: number | null;
  begin: () => void;
  seen: (word: string) => void;
  stop: () => void;
}

export function useSeat(
  injector: string,
  look: (seen: { seat: string; note?: string }) => void,
): Seat {
  const [begun, setBegun] = useState<{ at: number; injector: string } | null>(null);
  const held = useElapsed(begun?.injector === injector ? begun.at : null);
  useRing(held !== null && held >= HOLD_S);

  return {
    held,
    begin: () => {
      setBegun({ at: Date.now(), injector });
    },
    seen: (word) => {
      const after = Math.round(held ?? HOLD_S);
      setBegun(null);
      const early = word === "wet" && held !== null && after < HOLD_S;
      look(early ? { seat: word, note: `wets in ${after} s` } : { seat: word });
    },
    stop: () => setBegun(null),
  };
}
