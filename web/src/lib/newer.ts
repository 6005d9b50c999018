/** The service worker: registered once, and a newer Plumb taken when nobody is in the middle of anything. */
import { registerSW } from "virtual:pwa-register";
import { readAhead } from "./ahead";
import { outbox } from "./store";

const LOOKED_FOR_MS = 60_000;
const QUIET_MS = 15_000;
const TOUCHES = ["pointerdown", "keydown", "wheel"] as const;

let touched = Date.now();

/** No window is open, no field holds anything, nothing is on its way, and nobody touched it for a while. */
export function isQuiet(now: number): boolean {
  const typed = [...document.querySelectorAll<HTMLInputElement>("input, textarea")].some(
    (field) => field === document.activeElement && field.value !== "",
  );
  return (
    now - touched > QUIET_MS &&
    !typed &&
    document.querySelector("[role=dialog]") === null &&
    outbox.link !== "sending" &&
    outbox.waiting().every((w) => w.seq > 0)
  );
}

export function keepUpToDate(): void {
  readAhead();
  for (const name of TOUCHES) {
    window.addEventListener(name, () => (touched = Date.now()), { passive: true, capture: true });
  }
  const take = registerSW({
    onNeedRefresh: () => {
      const clock = setInterval(() => {
        if (!isQuiet(Date.now())) return;
        clearInterval(clock);
        void take(true);
      }, 1000);
    },
    onRegisteredSW: (_url, registration) => {
      if (registration) setInterval(() => void registration.update(), LOOKED_FOR_MS);
    },
  });
}
