/** What this browser prefers: light or dark, and the unit pressures are shown in. */
import { useSyncExternalStore } from "react";

export type Theme = "system" | "light" | "dark";
export const SHOWN_UNITS = ["as read", "psi", "kPa", "bar", "MPa", "kgf/cm2"] as const;
export type ShownUnit = (typeof SHOWN_UNITS)[number];

export interface Prefs {
  theme: Theme;
  unit: ShownUnit;
  /** Where a new job begins: outside, or straight with the sheet that compares injectors. */
  begin: "outside" | "straight";
  /** Who types here, as it goes with each reading; empty: nobody said. */
  me: string;
}

const KEY = "plumb.prefs";
const listeners = new Set<() => void>();

function read(): Prefs {
  const fallback: Prefs = { theme: "system", unit: "as read", begin: "outside", me: "" };
  try {
    return { ...fallback, ...(JSON.parse(localStorage.getItem(KEY) ?? "{}") as Partial<Prefs>) };
  } catch {
    return fallback;
  }
}

let current = read();
show(current);

function show(prefs: Prefs): void {
  document.documentElement.dataset.theme = prefs.theme;
}

export function setPrefs(change: Partial<Prefs>): void {
  current = { ...current, ...change };
  localStorage.setItem(KEY, JSON.stringify(current));
  show(current);
  for (const listener of listeners) listener();
}

/** What is preferred now, for code outside the screens. */
export function prefsNow(): Prefs {
  return current;
}

export function usePrefs(): Prefs {
  return useSyncExternalStore(
    (listener) => {
      listeners.add(listener);
      return () => listeners.delete(listener);
    },
    () => current,
  );
}
