/** What was found in a sheet's trace, and the window that brings one in. */
import { useQueryClient } from "@tanstack/react-query";
import type { SheetView, TraceView } from "../../api/client";
import { Dialog } from "../../ui/parts";
import { Bursts } from "./Bursts";
import { Folded } from "./Folded";
import { spokenTrace, TraceChart } from "./TraceChart";
import { TraceIntake } from "./TraceIntake";

interface Props {
  sheet: SheetView;
  trace: TraceView | null;
  /** Draw another of the sheet's logs; null: the newest. */
  choose: (id: number | null) => void;
  intake: { file: File | null } | null;
  setIntake: (intake: { file: File | null } | null) => void;
}

export default function TracePanel({ sheet, trace, choose, intake, setIntake }: Props) {
  const client = useQueryClient();
  return (
    <>
      {trace && trace.all.length > 1 && (
        <label className="mb-1 flex flex-wrap items-baseline gap-2">
          <span className="label">Logs on this sheet</span>
          <select
            className="field w-auto"
            value={trace.id}
            onChange={(e) => choose(Number(e.target.value))}
          >
            {trace.all.map((t, n) => (
              <option key={t.id} value={t.id}>
                {trace.all.length - n}: {t.name || "unnamed"}
              </option>
            ))}
          </select>
        </label>
      )}
      {trace && <Found key={trace.id} sheet={sheet} trace={trace} />}
      <Dialog
        title={sheet.traced?.words ?? "Trace"}
        open={intake !== null}
        onOpenChange={(open) => setIntake(open ? { file: null } : null)}
      >
        <TraceIntake
          sheet={sheet}
          given={intake?.file ?? null}
          done={() => {
            setIntake(null);
            choose(null);
            void client.invalidateQueries({ queryKey: ["trace", sheet.id] });
            void client.invalidateQueries({ queryKey: ["sheet", sheet.id] });
            void client.invalidateQueries({ queryKey: ["job", sheet.job_number] });
          }}
        />
      </Dialog>
    </>
  );
}

function Found({ sheet, trace }: { sheet: SheetView; trace: TraceView }) {
  const span = { from: trace.from_s, to: trace.to_s };
  return (
    <>
      <p className="mb-1 text-sm text-soft">
        <b className="text-ink">{trace.name || "Trace"}</b>
        {trace.samples > 0 && `, ${trace.samples.toLocaleString("en-GB")} samples`}
        {trace.rate_hz > 0 &&
          `, ${Number(trace.rate_hz.toPrecision(3)).toLocaleString("en-GB")} a second`}
        {trace.humps.length > 0 && (trace.synced ? ", with sync" : ", without sync")}
      </p>
      {trace.notes.map((n) => (
        <p key={n} className="text-sm">
          {n}
        </p>
      ))}
      {trace.log ? (
        <Bursts sheet={sheet} trace={trace} />
      ) : (
        trace.channels.length > 0 && (
          <TraceChart
            channels={trace.channels}
            span={span}
            label={spokenTrace(trace)}
            {...(trace.band === null ? {} : { band: trace.band })}
            {...(trace.hump_times[0] === undefined ? {} : { measure: trace.hump_times[0] - 0.2 })}
          >
            {(marks) =>
              trace.hump_times.map((t) => (
                <path
                  key={t}
                  d={`M${marks.x(t)} ${marks.top + 4}l-4 -6h8z`}
                  fill="var(--chalk)"
                  stroke="var(--ink)"
                  strokeWidth={0.6}
                />
              ))
            }
          </TraceChart>
        )
      )}
      {trace.humps.length > 0 && <Folded humps={trace.humps} synced={trace.synced} />}
    </>
  );
}
