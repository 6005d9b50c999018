/** Clocks of the workshop: they count up from a moment, and ring once when something is due. */
import { useEffect, useState } from "react";

/** Seconds since a moment (ms), counted anew a few times a second; null: nothing runs. */
export function useElapsed(since: number | null, everyMs = 200): number | null {
  const [now, setNow] = useState(() => Date.now());
  useEffect(() => {
    if (since === null) return;
    const tick = setInterval(() => setNow(Date.now()), everyMs);
    return () => clearInterval(tick);
  }, [since, everyMs]);
  // What was counted last is older than a clock that has just begun.
  return since === null ? null : Math.max(0, (now - since) / 1000);
}

/** The day it is; a screen that stands open overnight goes on to the next. */
export function useToday(): Date {
  const [day, setDay] = useState(() => new Date());
  useEffect(() => {
    const look = setInterval(() => {
      const now = new Date();
      setDay((was) => (was.toDateString() === now.toDateString() ? was : now));
    }, 60_000);
    return () => clearInterval(look);
  }, []);
  return day;
}

/** A short tone, each time that something becomes due. */
export function useRing(due: boolean): void {
  useEffect(() => {
    if (due) ring();
  }, [due]);
}

/** A short tone, where the browser lets one sound. */
function ring(): void {
  try {
    const audio = new AudioContext();
    const tone = audio.createOscillator();
    tone.frequency.value = 880;
    tone.connect(audio.destination);
    tone.start();
    tone.stop(audio.currentTime + 0.6);
    tone.onended = () => void audio.close();
  } catch {
    // No sound on this machine: the words say it as well.
  }
}

/** A day with its year. */
export function longDay(moment: string): string {
  return new Date(moment).toLocaleDateString("en-GB", {
    day: "numeric",
    month: "short",
    year: "numeric",
  });
}
