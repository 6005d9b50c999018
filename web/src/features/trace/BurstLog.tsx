/** The log with its bursts drawn over it, and the marks of one that is moved by hand. */
import { useQuery } from "@tanstack/react-query";
import api, { got, type BurstView, type TraceView } from "../../api/client";
import { Handle, spokenTrace, TraceChart, type Marks, type Span } from "./TraceChart";
import type { Moving, Whose } from "./useBursts";

export interface LogProps {
  trace: TraceView;
  whose: Whose;
  moving: Moving | null;
  setMoving: (moving: Moving | null) => void;
}

/** The log with its bursts over it; closer where one is being moved. */
export function Log({ trace, whose, moving, setMoving }: LogProps) {
  const span = spanOf(trace, moving);
  const close = useCloser(trace, moving ? span : null);
  const channels = close
    ? trace.channels.map((c) => ({ ...c, low: close.low, high: close.high }))
    : trace.channels;
  const shown = close ? { from: close.from_s, to: close.to_s } : span;
  const nameOf = (b: BurstView) =>
    whose.taken(b) ? b.injector : whose.forWhom(b) || `${b.number + 1}?`;
  return (
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
              <Stretch key={b.number} {...{ marks, start, end, tone }}>
                {nameOf(b)}
              </Stretch>
            );
          })}
          {moving && <Handles marks={marks} span={shown} moving={moving} set={setMoving} />}
        </>
      )}
    </TraceChart>
  );
}

interface StretchProps {
  marks: Marks;
  start: number;
  end: number;
  tone: string;
  children: string;
}

/** The time of a burst, named for whom it is. */
function Stretch({ marks, start, end, tone, children }: StretchProps) {
  return (
    <g>
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
        {children}
      </text>
    </g>
  );
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
