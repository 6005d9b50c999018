/** Pressure against time: readings, limits as the ground that must not be entered, what is foretold. */
import type { HoldView } from "../api/client";
import { linear, type Linear } from "../lib/scale";

interface Props {
  hold: HoldView;
  unit: string;
  waiting: { t: number; p: number }[];
  now: number | null;
  /** The attempt before this one, laid under it. */
  before?: HoldView["points"];
}

const W = 640;
const RIGHT = 26;
const H = 300;
const LEFT = 46;
const BOTTOM = 34;

export function clock(seconds: number): string {
  const s = Math.max(0, Math.round(seconds));
  return `${Math.floor(s / 60)}:${String(s % 60).padStart(2, "0")}`;
}

function axis(seconds: number): string {
  return seconds >= 120 ? `${Math.round(seconds / 6) / 10} min` : `${seconds} s`;
}

/** Round moments along the axis, at most eight of them. */
function timeTicks(end: number): number[] {
  const steps = [5, 10, 15, 30, 60, 120, 300, 600, 1200, 3600];
  const step = steps.find((s) => end / s <= 8) ?? 3600;
  return Array.from({ length: Math.floor(end / step) + 1 }, (_, n) => n * step);
}

type Limit = HoldView["limits"][number];
type Point = HoldView["points"][number];

interface Axes {
  x: Linear;
  y: Linear;
}

/** Both axes, and the last moment drawn. */
function axesOf({ hold, waiting, now, before = [] }: Props): Axes & { end: number } {
  const { points, limits } = hold;
  const both = [...points, ...before];
  const end = Math.max(60, ...both.map((p) => p.t_s), ...limits.map((l) => l.at_s), now ?? 0);
  const top = Math.max(
    1,
    ...both.map((p) => p.value),
    ...limits.map((l) => l.high),
    ...waiting.map((w) => w.p),
  );
  const x = linear([0, end], [LEFT, W - RIGHT]);
  const y = linear([0, top * 1.12], [H - BOTTOM, 10], { nice: 10 });
  return { x, y, end };
}

export function TimeChart(props: Props) {
  const { hold, unit, waiting, now, before = [] } = props;
  const { x, y, end } = axesOf(props);
  const last = hold.points.at(-1);
  return (
    <svg
      viewBox={`0 0 ${W} ${H}`}
      className="block w-full"
      role="img"
      aria-label={spokenChart(hold, unit, before)}
    >
      <Ground x={x} y={y} end={end} />
      {hold.limits.map((l) => (
        <Forbidden key={l.name} limit={l} x={x} y={y} />
      ))}
      {last &&
        hold.limits
          .filter((l) => !l.read)
          .map((l) => <Foretold key={l.name} last={last} limit={l} unit={unit} x={x} y={y} />)}
      {before.length > 0 && <Before points={before} x={x} y={y} />}
      <Read points={hold.points} waiting={waiting} x={x} y={y} />
      {now !== null && now <= end && (
        <line x1={x(now)} x2={x(now)} y1={10} y2={y(0)} stroke="var(--chalk)" strokeWidth={1.5} />
      )}
    </svg>
  );
}

interface ReadProps extends Axes {
  points: Point[];
  waiting: Props["waiting"];
}

/** What was read, and what still waits in this browser. */
function Read({ points, waiting, x, y }: ReadProps) {
  return (
    <>
      <polyline
        points={points.map((p) => `${x(p.t_s)},${y(p.value)}`).join(" ")}
        fill="none"
        stroke="var(--ink)"
        strokeWidth={2}
      />
      {points.map((p) => (
        <circle key={p.id} cx={x(p.t_s)} cy={y(p.value)} r={5} fill="var(--ink)" />
      ))}
      {waiting.map((w) => (
        <circle
          key={`${w.t}`}
          cx={x(w.t)}
          cy={y(w.p)}
          r={5}
          fill="var(--sheet)"
          stroke="var(--ink)"
          strokeWidth={2}
        />
      ))}
    </>
  );
}

/** The attempt before: outlined and dashed, as a bob of before is. */
function Before({ points, x, y }: Axes & { points: Point[] }) {
  return (
    <g data-before>
      <polyline
        points={points.map((p) => `${x(p.t_s)},${y(p.value)}`).join(" ")}
        fill="none"
        stroke="var(--soft)"
        strokeWidth={1.5}
        strokeDasharray="5 4"
      />
      {points.map((p) => (
        <circle
          key={p.id}
          cx={x(p.t_s)}
          cy={y(p.value)}
          r={4}
          fill="var(--sheet)"
          stroke="var(--soft)"
          strokeWidth={1.5}
        />
      ))}
    </g>
  );
}

/** Lines and figures of both axes. */
function Ground({ x, y, end }: Axes & { end: number }) {
  return (
    <>
      {y.ticks(5).map((tick) => (
        <g key={tick}>
          <line x1={LEFT} x2={W - RIGHT} y1={y(tick)} y2={y(tick)} stroke="var(--hair)" />
          <text x={LEFT - 8} y={y(tick) + 4} textAnchor="end" className="figure" {...small}>
            {tick}
          </text>
        </g>
      ))}
      {timeTicks(end).map((tick) => (
        <text key={tick} x={x(tick)} y={H - 12} textAnchor="middle" className="figure" {...small}>
          {axis(tick)}
        </text>
      ))}
    </>
  );
}

/** The ground that the pressure must not enter before its time is over. */
function Forbidden({ limit, x, y }: Axes & { limit: Limit }) {
  const top = y(Math.max(0, limit.least_left));
  const right = x(limit.at_s);
  return (
    <g>
      <rect
        x={LEFT}
        y={top}
        width={Math.max(0, right - LEFT)}
        height={Math.max(0, y(0) - top)}
        fill="var(--band)"
        opacity={0.8}
      />
      <line
        x1={LEFT}
        x2={right}
        y1={top}
        y2={top}
        stroke="var(--band-edge)"
        strokeDasharray="4 3"
      />
      <text x={LEFT + 8} y={y(0) - 8} fill="var(--soft)" fontSize={13}>
        must not fall in here by {axis(limit.at_s)}
      </text>
    </g>
  );
}

/** Where the pressure will stand at a limit's moment, and how well that is known. */
function Foretold({ last, limit, unit, x, y }: Axes & { last: Point; limit: Limit; unit: string }) {
  const from = { x: x(last.t_s), y: y(last.value) };
  const at = x(limit.at_s);
  return (
    <g>
      <path
        d={`M${from.x} ${from.y}L${at} ${y(limit.high)}V${y(limit.low)}Z`}
        fill="var(--chalk)"
        opacity={0.28}
      />
      <line
        x1={from.x}
        y1={from.y}
        x2={at}
        y2={y(limit.value)}
        stroke="var(--chalk)"
        strokeWidth={2}
        strokeDasharray="6 4"
      />
      <text
        x={at - 6}
        y={y(limit.high) - 8}
        textAnchor="end"
        fontSize={13}
        fontWeight={700}
        fill="var(--ink)"
      >
        {limit.shown} {unit} foretold
      </text>
    </g>
  );
}

const small = { fontSize: 13, fill: "var(--soft)" };

function spokenChart(hold: HoldView, unit: string, before: Point[]): string {
  if (hold.points.length === 0) return "No reading yet";
  const read = hold.points.map((p) => `${p.shown} ${unit} at ${axis(p.t_s)}`).join(", ");
  const last = before.at(-1);
  const was = last ? [`before: ${last.shown} ${unit} at ${axis(last.t_s)}`] : [];
  const told = hold.limits
    .filter((l) => !l.read)
    .map((l) => `${l.shown} ${unit} foretold at ${axis(l.at_s)}`);
  return [read, ...told, ...was].join("; ");
}
