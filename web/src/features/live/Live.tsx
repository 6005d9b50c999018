/** What happens by itself on a job: others' readings appear, with their names, and instruments fill sheets in. */
import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import type { SheetView } from "../../api/client";
import { keepNewest, outbox } from "../../lib/store";
import { mine } from "../sheet/entry/mine";
import { CapturePanel } from "./CapturePanel";
import { useLine } from "./line";
import { useCapture } from "./useCapture";

const SHOWN_MS = 8000;

/** What somebody else has noted since the sheet was last seen here. */
export function notedByOthers(old: SheetView, now: SheetView, own: string[]): string[] {
  const before = new Set([...old.rows.flatMap((r) => r.readings.map((x) => x.id)), ...own]);
  return now.rows.flatMap((row) =>
    row.readings
      .filter((r) => !before.has(r.id))
      .map((r) => `${r.by || "Somebody else"} noted ${row.name || row.injector}: ${r.shown}`),
  );
}

/** Words that are shown for a while. */
function useForAWhile() {
  const [words, setWords] = useState<string[]>([]);
  useEffect(() => {
    if (words.length === 0) return;
    const off = setTimeout(() => setWords([]), SHOWN_MS);
    return () => clearTimeout(off);
  }, [words]);
  return [words, setWords] as const;
}

export default function Live({ sheet }: { sheet: SheetView }) {
  const client = useQueryClient();
  const [others, setOthers] = useForAWhile();
  const last = useRef(sheet);
  useEffect(() => {
    if (sheet.version >= last.current.version || sheet.id !== last.current.id) last.current = sheet;
  }, [sheet]);
  const later = useRef(0);
  const line = useLine(sheet.job_number, sheet.id, {
    sheet: (next) => {
      // What is on its way from here comes back with its own answer: earlier it would count twice.
      if (outbox.waiting().some((w) => w.sheetId === sheet.id && w.problems.length === 0)) return;
      const told = notedByOthers(last.current, next, mine(sheet.id));
      if (told.length > 0 && !of.capture?.running) setOthers(told);
      last.current = next;
      keepNewest(next);
      void client.invalidateQueries({ queryKey: ["trace", next.id] });
    },
    job: () => {
      window.clearTimeout(later.current);
      later.current = window.setTimeout(() => {
        void client.invalidateQueries({ queryKey: ["job", sheet.job_number] });
      }, 400);
    },
    capture: (capture) => of.take(capture),
    samples: (samples) => of.trail.add(samples),
  });
  const of = useCapture(sheet, line.send);
  return (
    <>
      <CapturePanel sheet={sheet} of={of} />
      <div aria-live="polite">
        {others.map((words) => (
          <p key={words} className="mb-2 border-l-4 border-chalk pl-3 text-sm">
            {words}
          </p>
        ))}
      </div>
    </>
  );
}
