/** Holding a nozzle's seat below its opening pressure: a clock that asks what the tip did. */
import { useEffect, useRef, useState } from "react";
import { ring } from "../../lib/ring";

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
  const [now, setNow] = useState(0);
  const rang = useRef(false);
  const running = begun !== null && begun.injector === injector;
  const held = running ? Math.max(0, (now - begun.at) / 1000) : null;

  useEffect(() => {
    if (!running) return;
    const tick = setInterval(() => setNow(Date.now()), 200);
    return () => clearInterval(tick);
  }, [running]);

  useEffect(() => {
    if (held !== null && held >= HOLD_S && !rang.current) {
      rang.current = true;
      ring();
    }
  }, [held]);

  return {
    held,
    begin: () => {
      rang.current = false;
      setNow(Date.now());
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
