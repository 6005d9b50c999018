/** The service worker: registered once, and a newer Plumb taken when nobody is in the middle of anything. */
import { registerSW } from "virtual:pwa-register";
import { readAhead } from "./ahead";
import { holdsFigure } from "./keys";
import { outbox } from "./store";
import { untouchedFor } from "./touched";

const LOOKED_FOR_MS = 60_000;
const QUIET_MS = 15_000;

/** No window is open, no figure is half typed, nothing is on its way, and nobody touched it for a while. */
function isQuiet(): boolean {
  const typed = [...document.querySelectorAll<HTMLInputElement>("input, textarea")].some(
    // A figure that was begun is one wherever the focus went meanwhile.
    (field) => holdsFigure(field) || (field === document.activeElement && field.value !== ""),
  );
  return (
    untouchedFor() > QUIET_MS &&
    !typed &&
    document.querySelector("[role=dialog]") === null &&
    outbox.link !== "sending" &&
    outbox.waiting().every((w) => w.seq > 0)
  );
}

export function keepUpToDate(): void {
  readAhead();
  const take = registerSW({
    onNeedRefresh: () => {
      const clock = setInterval(() => {
        if (!isQuiet()) return;
        clearInterval(clock);
        void take(true);
      }, 1000);
    },
    onRegisteredSW: (_url, registration) => {
      if (registration) setInterval(() => void registration.update(), LOOKED_FOR_MS);
    },
  });
}
