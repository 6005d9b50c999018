/** Keys that work from anywhere on a sheet but from a field, a list or a window of their own. */
import { useEffect } from "react";
import { useNavigate } from "react-router";
import type { SheetView } from "../../api/client";
import { ENTRY } from "../../lib/keys";
import { beyondFigures, command } from "./entryKeys";
import type { Entry } from "./useEntry";

interface On {
  sheet: SheetView;
  entry: Entry;
  onHelp: () => void;
  onPasses: (injector: string) => void;
}

const OWN = "input, select, textarea, [role=dialog]";

/** A digit or a sign begins a figure. */
function begins(key: string, { entry }: On): boolean {
  return /^[\d+\u2212-]$/.test(key) && entry.firstField.current !== null;
}

function onSheet(e: KeyboardEvent, on: On): void {
  const { entry, sheet } = on;
  // A closed job takes nothing; its rows can still be looked at.
  if (sheet.closed && !e.key.startsWith("Arrow") && e.key !== "?") return;
  if (beyondFigures(e, entry)) return;
  if (begins(e.key, on)) {
    e.preventDefault();
    entry.setDraft({ ...entry.draft, first: entry.draft.first + e.key });
    entry.firstField.current?.focus();
  } else command(e, on);
}

export function useSheetKeys(on: On): void {
  const navigate = useNavigate();
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      const at = e.target instanceof HTMLElement ? e.target : null;
      if (e.defaultPrevented) return;
      const own = at?.closest(OWN);
      // A slash is no figure: it finds a job, from the entry line too.
      const find = !own || at?.closest(ENTRY);
      if (e.key === "/" && find && !e.ctrlKey && !e.metaKey && !e.altKey) {
        e.preventDefault();
        void navigate("/?find");
      } else if (!own) onSheet(e, on);
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  });
}
