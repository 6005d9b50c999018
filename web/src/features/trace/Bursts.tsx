/** The bursts of a log: drawn over it, moved by hand, and made the readings of injectors. */
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import api, { got, told, type BurstView, type SheetView, type TraceView } from "../../api/client";
import { keepNewest } from "../../lib/store";
import { Trouble } from "../../ui/parts";
import { Handle, spokenTrace, TraceChart, type Marks, type Span } from "./TraceChart";

interface Props {
  sheet: SheetView;
  trace: TraceView;
}

/** Marks on their way: of a burst that is there, or of one that was not found. */
interface Moving {
  number: number | null;
  start: number;
  end: number;
}

export function Bursts({ sheet, trace }: Props) {
  const client = useQueryClient();
  const [whose, setWhose] = useState<Record<number, string>>({});
  const [moving, setMoving] = useState<Moving | null>(null);
  const live = new Set(sheet.rows.flatMap((r) => r.readings.map((x) => x.id)));
  const taken = (b: BurstView) => b.reading_id !== "" && live.has(b.reading_id);
  const forWhom = (b: BurstView) => whose[b.number] ?? (b.reading_id ? "" : b.injector);
  const ready = trace.bursts.filter((b) => !taken(b) && forWhom(b) !== "");
  const keyOf = ["trace", sheet.id];
  const take = useMutation({
    mutationFn: () =>
      got(
        api.POST("/api/traces/{trace_id}/readings", {
          params: { path: { trace_id: trace.id } },
          body: { take: ready.map((b) => ({ number: b.number, injector: forWhom(b) })) },
        }),
      ),
    onSuccess: (view) => {
      keepNewest(view);
      setWhose({});
      void client.invalidateQueries({ queryKey: keyOf });
    },
  });
  const move = useMutation({
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
      setMoving(null);
      void client.invalidateQueries({ queryKey: keyOf });
      void client.invalidateQueries({ queryKey: ["sheet", sheet.id] });
    },
  });
  const span = spanOf(trace, moving);
  const close = useCloser(trace, moving ? span : null);
  const channels = close
    ? trace.channels.map((c) => ({ ...c, low: close.low, high: close.high }))
    : trace.channels;
  const shown = close ? { from: close.from_s, to: close.to_s } : span;
  return (
    <>
      <TraceChart channels={channels} span={shown} label={spokenTrace(trace)}>
        {(marks) => (
          <>
            {trace.bursts.map((b) => {
              const here = moving?.number === b.number ? moving : null;
              const start = here?.start ?? b.start_s;
              const end = here?.end ?? b.end_s;
              if (end < shown.from || start > shown.to) return null;
              const tone = b.doubtful ? "var(--open)" : "var(--chalk)";
              return (
                <g key={b.number}>
                  <rect
                    x={marks.x(start)}
                    width={Math.max(2, marks.x(end) - marks.x(start))}
                    y={marks.top}
                    height={marks.bottom - marks.top}
                    fill={tone}
                    opacity={0.3}
                  />
                  <text
                    x={(marks.x(start) + marks.x(end)) / 2}
                    y={marks.top + 14}
                    textAnchor="middle"
                    fontSize={13}
                    fontWeight={700}
                    className="figure"
                    fill="var(--ink)"
                  >
                    {taken(b) ? b.injector : forWhom(b) || `${b.number + 1}?`}
                  </text>
                </g>
              );
            })}
            {moving && <Handles marks={marks} span={shown} moving={moving} set={setMoving} />}
          </>
        )}
      </TraceChart>
      {moving && (
        <Mover
          moving={moving}
          set={setMoving}
          keep={() => move.mutate(moving)}
          busy={move.isPending}
        />
      )}
      <Trouble text={move.isError ? told(move.error) : null} />
      <div className="overflow-x-auto">
        <table className="w-full text-sm">
          <thead className="text-soft">
            <tr className="text-left">
              <th className="p-1">Burst</th>
              <th className="p-1">from, to</th>
              <th className="p-1 text-right">first</th>
              <th className="p-1 text-right">second</th>
              <th className="p-1">how well known</th>
              <th className="p-1">reading of</th>
              <th className="p-1">
                <span className="sr-only">move</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {trace.bursts.map((b) => (
              <tr key={b.number} className="border-t border-hair">
                <td className="figure p-1 font-bold">{b.number + 1}</td>
                <td className="figure p-1">
                  {b.start_s.toFixed(2)}–{b.end_s.toFixed(2)} s
                </td>
                <td className="figure p-1 text-right font-bold">{b.first}</td>
                <td className="figure p-1 text-right font-bold">{b.second}</td>
                <td className="p-1">
                  {b.doubtful ? <b className="text-open">doubtful, </b> : null}
                  {b.confidence_percent > 99 ? "over 99" : Math.round(b.confidence_percent)} %
                  {b.doubts.length > 0 && `: ${b.doubts.join(", ")}`}
                  {b.moved && ", set by hand"}
                  <span className="block text-xs text-soft">drifts {b.drift}</span>
                </td>
                <td className="p-1">
                  {taken(b) ? (
                    <b>{b.injector}, taken</b>
                  ) : (
                    <select
                      className="field min-h-9"
                      aria-label={`Burst ${b.number + 1} is the reading of`}
                      value={forWhom(b)}
                      onChange={(e) => setWhose({ ...whose, [b.number]: e.target.value })}
                    >
                      <option value="">nobody</option>
                      {sheet.rows.map((r) => (
                        <option key={r.injector}>{r.injector}</option>
                      ))}
                    </select>
                  )}
                </td>
                <td className="p-1">
                  <button
                    type="button"
                    className="knob"
                    aria-label={`Move burst ${b.number + 1}`}
                    aria-pressed={moving?.number === b.number}
                    onClick={() =>
                      setMoving(
                        moving?.number === b.number
                          ? null
                          : { number: b.number, start: b.start_s, end: b.end_s },
                      )
                    }
                  >
                    Move
                  </button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <Trouble text={take.isError ? told(take.error) : null} />
      <p className="mt-2 flex flex-wrap gap-2">
        {ready.length > 0 && (
          <button
            type="button"
            className="slab-knob"
            disabled={take.isPending}
            onClick={() => take.mutate()}
          >
            Take {ready.length === 1 ? "this reading" : `these ${ready.length} readings`}
          </button>
        )}
        <button type="button" className="knob min-h-11" onClick={() => setMoving(between(trace))}>
          Add a burst that was not found
        </button>
      </p>
    </>
  );
}

/** Where the marks of a new burst begin: half a second in the widest gap that no burst covers. */
function between(trace: TraceView): Moving {
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

interface HandlesProps {
  marks: Marks;
  span: Span;
  moving: Moving;
  set: (moving: Moving) => void;
}

/** Both marks, to be taken by the pointer; neither passes the other. A new burst goes to a click. */
function Handles({ marks, span, moving, set }: HandlesProps) {
  const { start, end } = moving;
  const put = (at: number) => {
    const half = (end - start) / 2;
    const middle = Math.min(Math.max(at, span.from + half), span.to - half);
    set({ ...moving, start: middle - half, end: middle + half });
  };
  return (
    <>
      {moving.number === null && (
        <>
          <rect
            x={marks.x(span.from)}
            width={marks.x(span.to) - marks.x(span.from)}
            y={marks.top}
            height={marks.bottom - marks.top}
            fill="transparent"
            onPointerDown={(e) => put(marks.at(e))}
          />
          <rect
            x={marks.x(start)}
            width={marks.x(end) - marks.x(start)}
            y={marks.top}
            height={marks.bottom - marks.top}
            fill="var(--chalk)"
            opacity={0.3}
            pointerEvents="none"
          />
        </>
      )}
      <Handle
        marks={marks}
        at={start}
        onDrag={(s) => set({ ...moving, start: Math.min(s, end - 0.01) })}
      />
      <Handle
        marks={marks}
        at={end}
        onDrag={(s) => set({ ...moving, end: Math.max(s, start + 0.01) })}
      />
    </>
  );
}

/** What is drawn: the whole log, or two seconds around the burst that is being moved. */
function spanOf(trace: TraceView, moving: Moving | null): Span {
  const burst = trace.bursts.find((b) => b.number === moving?.number);
  if (!burst) return { from: trace.from_s, to: trace.to_s };
  return {
    from: Math.max(trace.from_s, burst.start_s - 2),
    to: Math.min(trace.to_s, burst.end_s + 2.5),
  };
}

/** The stretch around a burst, as finely as it was sampled. */
function useCloser(trace: TraceView, span: Span | null) {
  const part = useQuery({
    queryKey: ["trace-part", trace.id, span?.from, span?.to],
    enabled: span !== null && trace.id > 0,
    staleTime: Infinity,
    queryFn: () =>
      got(
        api.GET("/api/traces/{trace_id}/part", {
          params: {
            path: { trace_id: trace.id },
            query: { from_s: span?.from ?? 0, to_s: span?.to ?? 0 },
          },
        }),
      ),
  });
  return span === null ? undefined : part.data;
}

interface MoverProps {
  moving: Moving;
  set: (moving: Moving | null) => void;
  keep: () => void;
  busy: boolean;
}

/** Begin and end by keyboard; the arrows of a field move it by a hundredth of a second. */
function Mover({ moving, set, keep, busy }: MoverProps) {
  const one = (name: "start" | "end", label: string) => (
    <label className="block">
      <span className="label">{label}, s</span>
      <input
        className="field figure w-28"
        type="number"
        step={0.01}
        min={0}
        value={Number(moving[name].toFixed(3))}
        onChange={(e) => set({ ...moving, [name]: e.target.valueAsNumber || 0 })}
        onKeyDown={(e) => {
          if (e.key === "Enter") keep();
          if (e.key === "Escape") {
            e.stopPropagation();
            set(null);
          }
        }}
      />
    </label>
  );
  return (
    <div className="my-2 flex flex-wrap items-end gap-2">
      {one("start", "Begins")}
      {one("end", "Ends")}
      <button type="button" className="slab-knob" disabled={busy} onClick={keep}>
        {moving.number === null ? "Read it" : "Read it again"}
      </button>
      <button type="button" className="knob min-h-12" onClick={() => set(null)}>
        Leave it
      </button>
    </div>
  );
}
