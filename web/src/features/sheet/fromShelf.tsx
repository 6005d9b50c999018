/** What is taken from the shelf onto a sheet, and the button that keeps a form. */
import { useEffect } from "react";
import type { SheetChange } from "../../api/client";

export type Change = Omit<SheetChange, "version">;
export type Save = (change: Change) => void;

export interface FromShelf {
  id: number;
  name: string;
  what: string;
  take: () => void;
}

/** Entries of the shelf, each taken with Alt and its digit: a digit alone is part of a figure. */
export function ShelfList({ entries }: { entries: FromShelf[] }) {
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      // By the place of the key: with Alt held some keyboards make another sign of it.
      const entry = entries[Number(/^(?:Digit|Numpad)([1-9])$/.exec(e.code)?.[1] ?? 0) - 1];
      if (!e.altKey || e.ctrlKey || e.metaKey || !entry) return;
      e.preventDefault();
      entry.take();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [entries]);
  if (entries.length === 0) return null;
  return (
    <>
      <p className="label">From the shelf</p>
      <ul className="mb-3 grid gap-1">
        {entries.map((e, n) => (
          <li key={e.id}>
            <button className="knob w-full text-left" onClick={e.take}>
              {n < 9 && <kbd className="figure text-xs">Alt {n + 1}</kbd>} <b>{e.name}</b> {e.what}
            </button>
          </li>
        ))}
      </ul>
    </>
  );
}

export function Keep({ words = "Keep" }: { words?: string }) {
  return (
    <button type="submit" className="slab-knob mt-1">
      {words}
    </button>
  );
}
