/** Where a sheet's trace goes: a place to drop it; what draws it comes when there is one. */
import { useQuery } from "@tanstack/react-query";
import { lazy, Suspense, useState, type ReactNode } from "react";
import api, { got, told, type SheetView } from "../../api/client";
import { Trouble } from "../../ui/parts";
import { BASE } from "../../lib/base";

const TracePanel = lazy(() => import("./TracePanel"));

/** The trace of a sheet, or one of its logs by number; null: the newest. */
function useTrace(sheet: SheetView, which: number | null) {
  // The bursts of a log change with the trace alone; humps and rail with the sheet as well.
  const version = sheet.traced?.logs ? 0 : sheet.version;
  return useQuery({
    queryKey: ["trace", sheet.id, version, which],
    queryFn: () =>
      got(
        api.GET("/api/sheets/{sheet_id}/trace", {
          params: { path: { sheet_id: sheet.id }, query: which ? { trace_id: which } : {} },
        }),
      ),
    placeholderData: (old) => old,
  });
}

interface DropProps {
  empty: boolean;
  take: (file: File) => void;
  children: ReactNode;
}

/** A file can be dropped anywhere on it; with nothing in it it is no part of a printed page. */
function DropPlace({ empty, take, children }: DropProps) {
  const [over, setOver] = useState(false);
  return (
    <section
      aria-label="Trace"
      className={`mt-3 rounded-lg border border-hair bg-sheet p-3 ${empty ? "off-paper" : ""} ${over ? "outline-3 outline-chalk" : ""}`}
      onDragOver={(e) => {
        e.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(e) => {
        e.preventDefault();
        setOver(false);
        const file = e.dataTransfer.files[0];
        if (file) take(file);
      }}
    >
      {children}
    </section>
  );
}

export default function TraceSlot({ sheet }: { sheet: SheetView }) {
  const [intake, setIntake] = useState<{ file: File | null } | null>(null);
  const [which, setWhich] = useState<number | null>(null);
  const trace = useTrace(sheet, which);
  const words = sheet.traced?.words ?? "";
  return (
    <DropPlace empty={!trace.data} take={(file) => setIntake({ file })}>
      {!trace.data && (
        <p className="text-soft">
          {words}, or drop its CSV here: any names of columns, units in the first line.
        </p>
      )}
      {(trace.data ?? intake) && (
        <Suspense fallback={<p>Opening…</p>}>
          <TracePanel
            sheet={sheet}
            trace={trace.data ?? null}
            choose={setWhich}
            intake={intake}
            setIntake={setIntake}
          />
        </Suspense>
      )}
      <Trouble text={trace.isError ? told(trace.error) : null} />
      <p className="mt-2 flex flex-wrap gap-2">
        <button type="button" className="knob" onClick={() => setIntake({ file: null })}>
          {trace.data ? "Bring in another trace" : words}
        </button>
        {trace.data && trace.data.id > 0 && (
          <a className="knob" href={`${BASE}/api/traces/${trace.data.id}/csv`} download>
            Save the trace as it came
          </a>
        )}
      </p>
    </DropPlace>
  );
}
