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

/** Entries of the shelf with a digit each; pressing it takes the entry. */
export function ShelfList({ entries }: { entries: FromShelf[] }) {
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      const at = e.target instanceof HTMLElement ? e.target : null;
      const entry = entries[Number(e.key) - 1];
      if (!/^[1-9]$/.test(e.key) || !entry || at?.closest("input, select")) return;
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
            {/* The first has the focus, so that a digit is not typed into a field. */}
            <button className="knob w-full text-left" autoFocus={n === 0} onClick={e.take}>
              {n < 9 && <kbd className="figure text-xs">{n + 1}</kbd>} <b>{e.name}</b> {e.what}
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
