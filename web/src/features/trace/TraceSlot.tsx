/** Where a sheet's trace goes: a place to drop it; what draws it comes when there is one. */
import { useQuery } from "@tanstack/react-query";
import { lazy, Suspense, useState } from "react";
import api, { got, told, type SheetView } from "../../api/client";
import { Trouble } from "../../ui/parts";
import { WORDS } from "./words";

const TracePanel = lazy(() => import("./TracePanel"));

export function TraceSlot({ sheet }: { sheet: SheetView }) {
  const [intake, setIntake] = useState<{ file: File | null } | null>(null);
  const [over, setOver] = useState(false);
  // Which of several logs is drawn; null: the newest.
  const [which, setWhich] = useState<number | null>(null);
  // The bursts of a log change with the trace alone; humps and rail with the sheet as well.
  const version = sheet.kind === "pressure_drop" ? 0 : sheet.version;
  const trace = useQuery({
    queryKey: ["trace", sheet.id, version, which],
    queryFn: () =>
      got(
        api.GET("/api/sheets/{sheet_id}/trace", {
          params: { path: { sheet_id: sheet.id }, query: which ? { trace_id: which } : {} },
        }),
      ),
    placeholderData: (old) => old,
  });
  return (
    <section
      aria-label="Trace"
      className={`mt-3 rounded-lg border border-hair bg-sheet p-3 ${over ? "outline-3 outline-chalk" : ""}`}
      onDragOver={(e) => {
        e.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(e) => {
        e.preventDefault();
        setOver(false);
        const file = e.dataTransfer.files[0];
        if (file) setIntake({ file });
      }}
    >
      {!trace.data && (
        <p className="text-soft">
          {WORDS[sheet.kind]}, or drop its CSV here: any names of columns, units in the first line.
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
          {trace.data ? "Bring in another trace" : WORDS[sheet.kind]}
        </button>
        {trace.data && trace.data.id > 0 && (
          <a className="knob" href={`/api/traces/${trace.data.id}/csv`} download>
            Save the trace as it came
          </a>
        )}
      </p>
    </section>
  );
}
