/** A trace against time: envelopes of its channels, and marks that can be moved. */
import { useRef, type PointerEvent, type ReactNode } from "react";
import type { TraceView } from "../../api/client";
import { linear, type Linear } from "../../lib/scale";

const W = 760;
const H = 230;
const LEFT = 46;
const RIGHT = 14;
const BOTTOM = 26;
const TOP = 16;
const INKS = ["var(--ink)", "var(--low)"];

export interface Channel {
  name: string;
  unit: string;
  low: number[];
  high: number[];
}

export interface Span {
  from: number;
  to: number;
}

export interface Marks {
  x: (seconds: number) => number;
  /** The moment that a pointer is at. */
  at: (pointer: PointerEvent<SVGElement>) => number;
  top: number;
  bottom: number;
}

interface Props {
  channels: Channel[];
  span: Span;
  label: string;
  /** So much of the first channel to either side is drawn as the corridor. */
  band?: number;
  /** From here on the height is measured: an inrush before it would flatten everything. */
  measure?: number;
  children?: (marks: Marks) => ReactNode;
}

/** The envelope of a channel as one outline, forward along its tops and back along its feet. */
function outline(c: Channel, x: (k: number) => number, y: (v: number) => number): string {
  const up = c.high.map((v, k) => `${x(k).toFixed(1)},${y(v).toFixed(1)}`);
  const down = c.low.map((v, k) => `${x(k).toFixed(1)},${y(v).toFixed(1)}`).reverse();
  return [...up, ...down].join(" ");
}

/** The least and the most that is drawn, from the moment that heights are measured from. */
function heights({ channels, span, band, measure }: Props): [number, number] {
  const after = (c: Channel) =>
    measure === undefined
      ? 0
      : Math.floor((c.low.length * (measure - span.from)) / Math.max(1e-9, span.to - span.from));
  const wide = (n: number) => (n === 0 ? (band ?? 0) : 0);
  const lows = channels.flatMap((c, n) => c.low.slice(after(c)).map((v) => v * (1 - wide(n))));
  const highs = channels.flatMap((c, n) => c.high.slice(after(c)).map((v) => v * (1 + wide(n))));
  const least = lows.reduce((a, b) => Math.min(a, b), Infinity);
  const most = highs.reduce((a, b) => Math.max(a, b), -Infinity);
  return [least, most === least ? least + 1 : most];
}

export function TraceChart(props: Props) {
  const { channels, span, label, band, measure, children } = props;
  const x = linear([span.from, span.to], [LEFT, W - RIGHT]);
  const y = linear(heights(props), [H - BOTTOM, TOP], { nice: 10, clamp: measure !== undefined });
  const [goal] = channels;
  return (
    <svg viewBox={`0 0 ${W} ${H}`} className="block w-full" role="img" aria-label={label}>
      <Ground x={x} y={y} />
      {band !== undefined && goal && <Band goal={goal} band={band} span={span} x={x} y={y} />}
      {channels.map((c, n) => (
        <Drawn
          key={c.name}
          channel={c}
          n={n}
          goal={n === 0 && channels.length > 1}
          span={span}
          x={x}
          y={y}
        />
      ))}
      {children?.({
        x: (s) => x(s),
        at: (pointer) => {
          const box = pointer.currentTarget.ownerSVGElement?.getBoundingClientRect();
          return box ? x.invert(((pointer.clientX - box.left) / box.width) * W) : span.from;
        },
        top: TOP,
        bottom: H - BOTTOM,
      })}
    </svg>
  );
}

/** Lines and figures of both axes. */
function Ground({ x, y }: { x: Linear; y: Linear }) {
  return (
    <>
      {y.ticks(4).map((tick) => (
        <g key={tick}>
          <line x1={LEFT} x2={W - RIGHT} y1={y(tick)} y2={y(tick)} stroke="var(--hair)" />
          <text x={LEFT - 6} y={y(tick) + 4} textAnchor="end" className="figure" {...small}>
            {tick}
          </text>
        </g>
      ))}
      {x.ticks(8).map((tick) => (
        <text key={tick} x={x(tick)} y={H - 8} textAnchor="middle" className="figure" {...small}>
          {Math.round(tick * 100) / 100} s
        </text>
      ))}
    </>
  );
}

interface DrawnProps {
  channel: Channel;
  n: number;
  /** Drawn as a dashed outline: what the second channel is held against. */
  goal: boolean;
  span: Span;
  x: Linear;
  y: Linear;
}

function Drawn({ channel, n, goal, span, x, y }: DrawnProps) {
  const count = Math.max(1, channel.low.length - 1);
  const at = (k: number) => x(span.from + ((span.to - span.from) * k) / count);
  const ink = INKS[n % INKS.length];
  return (
    <g>
      <polygon
        points={outline(channel, at, y)}
        fill={goal ? "none" : ink}
        stroke={ink}
        strokeWidth={goal ? 2 : 1}
        strokeDasharray={goal ? "6 4" : "none"}
        strokeLinejoin="round"
      />
      <text x={LEFT + 6 + n * 180} y={TOP - 3} fontSize={13} fontWeight={700} fill={ink}>
        {channel.name}
        {channel.unit ? `, ${channel.unit}` : ""}
      </text>
    </g>
  );
}

interface BandProps {
  goal: Channel;
  band: number;
  span: Span;
  x: (seconds: number) => number;
  y: (value: number) => number;
}

/** The corridor around the first channel. */
function Band({ goal, band, span, x, y }: BandProps) {
  const count = Math.max(1, goal.low.length - 1);
  const wide = {
    ...goal,
    low: goal.low.map((v) => v * (1 - band)),
    high: goal.high.map((v) => v * (1 + band)),
  };
  const at = (k: number) => x(span.from + ((span.to - span.from) * k) / count);
  return <polygon points={outline(wide, at, y)} fill="var(--band)" />;
}

const small = { fontSize: 12, fill: "var(--soft)" };

/** A mark that a pointer can drag along time. */
export function Handle(props: { marks: Marks; at: number; onDrag: (seconds: number) => void }) {
  const { marks, at, onDrag } = props;
  const held = useRef(false);
  const grab = (e: PointerEvent<SVGGElement>) => {
    held.current = true;
    e.currentTarget.setPointerCapture(e.pointerId);
    e.preventDefault();
  };
  return (
    <g
      className="cursor-ew-resize touch-none"
      onPointerDown={grab}
      onPointerMove={(e) => {
        if (held.current) onDrag(marks.at(e));
      }}
      onPointerUp={() => {
        held.current = false;
      }}
    >
      <rect
        x={marks.x(at) - 9}
        y={marks.top}
        width={18}
        height={marks.bottom - marks.top}
        fill="transparent"
      />
      <line
        x1={marks.x(at)}
        x2={marks.x(at)}
        y1={marks.top}
        y2={marks.bottom}
        stroke="var(--chalk)"
        strokeWidth={2.5}
      />
    </g>
  );
}

/** What is drawn, for those who hear it. */
export function spokenTrace(trace: TraceView): string {
  const names = trace.channels.map((c) => c.name).join(" and ");
  const what =
    trace.bursts.length > 0
      ? `, ${trace.bursts.length} bursts`
      : trace.hump_times.length > 0
        ? `, ${trace.hump_times.length} humps`
        : "";
  return `${names} from ${trace.from_s} to ${trace.to_s} seconds${what}`;
}
