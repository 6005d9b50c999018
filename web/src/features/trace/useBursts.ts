/** Whose reading each burst becomes, and what is done with it: taken, read again, added. */
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import api, { got, type BurstView, type SheetView, type TraceView } from "../../api/client";
import { keepNewest } from "../../lib/store";

/** Marks on their way: of a burst that is there, or of one that was not found. */
export interface Moving {
  number: number | null;
  start: number;
  end: number;
}

/** Whose reading each burst is, or could become. */
export function useWhose(trace: TraceView) {
  const [whose, setWhose] = useState<Record<number, string>>({});
  const taken = (b: BurstView) => b.reading_id !== "";
  const forWhom = (b: BurstView) => whose[b.number] ?? (b.reading_id ? "" : b.injector);
  return {
    taken,
    forWhom,
    ready: trace.bursts.filter((b) => !taken(b) && forWhom(b) !== ""),
    give: (b: BurstView, injector: string) => setWhose({ ...whose, [b.number]: injector }),
    clear: () => setWhose({}),
  };
}

export type Whose = ReturnType<typeof useWhose>;

/** Make readings of the bursts that have been given to injectors. */
export function useTake(sheet: SheetView, trace: TraceView, { ready, forWhom, clear }: Whose) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: () =>
      got(
        api.POST("/api/traces/{trace_id}/readings", {
          params: { path: { trace_id: trace.id } },
          body: { take: ready.map((b) => ({ number: b.number, injector: forWhom(b) })) },
        }),
      ),
    onSuccess: (view) => {
      keepNewest(view);
      clear();
      void client.invalidateQueries({ queryKey: ["trace", sheet.id] });
    },
  });
}

/** Read a burst anew between marks that were set by hand, or read one that was not found. */
export function useMove(sheet: SheetView, trace: TraceView, done: () => void) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: ({ number, start, end }: Moving) => {
      const body = { start_s: start, end_s: end };
      const trace_id = trace.id;
      return number === null
        ? got(api.POST("/api/traces/{trace_id}/bursts", { params: { path: { trace_id } }, body }))
        : got(
            api.PUT("/api/traces/{trace_id}/bursts/{number}", {
              params: { path: { trace_id, number } },
              body,
            }),
          );
    },
    onSuccess: () => {
      done();
      void client.invalidateQueries({ queryKey: ["trace", sheet.id] });
      void client.invalidateQueries({ queryKey: ["sheet", sheet.id] });
    },
  });
}

/** Where the marks of a new burst begin: half a second in the widest gap that no burst covers. */
export function between(trace: TraceView): Moving {
  const ends = [trace.from_s, ...trace.bursts.map((b) => b.end_s)].sort((a, b) => a - b);
  const gaps = ends.map((from) => {
    const next = trace.bursts.map((b) => b.start_s).filter((s) => s >= from);
    return { from, wide: Math.min(trace.to_s, ...next) - from };
  });
  const widest = gaps.reduce((a, b) => (b.wide > a.wide ? b : a));
  const half = Math.min(0.5, widest.wide / 2) / 2;
  const middle = widest.from + widest.wide / 2;
  return { number: null, start: middle - half, end: middle + half };
}
