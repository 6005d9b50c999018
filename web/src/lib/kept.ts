/** Whether what is on the screen came just now, or is what the server said before it went away. */
import { useSyncExternalStore } from "react";
import { ANSWERED } from "../api/client";

let since: string | null = null;
const listeners = new Set<() => void>();

window.addEventListener(ANSWERED, (event) => {
  const next = (event as CustomEvent<string | null>).detail;
  // The oldest that was told again counts, until something comes anew.
  const told = next === null || since === null || next < since ? next : since;
  if (told === since) return;
  since = told;
  for (const listener of listeners) listener();
});

/** When the server said what is shown; null where it answers. */
export function useKeptSince(): string | null {
  return useSyncExternalStore(
    (listener) => {
      listeners.add(listener);
      return () => listeners.delete(listener);
    },
    () => since,
  );
}
