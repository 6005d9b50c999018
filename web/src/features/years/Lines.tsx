/**
 * The chart of the years: a plumb line for each place or part, time runs down, a bob for each visit.
 * A double stroke is a repair; a dashed line is where it goes at its slope.
 */
import { longDay } from "../../lib/clock";
import { BobShape, type Tone } from "../../ui/PlumbChart";
import type { Years } from "./years";
import { KNOWN_TO, linear, reach } from "../../lib/scale";

type Quantity = Years["quantities"][number];
type Series = Quantity["places"][number];
type Point = Series["points"][number];

export interface By {
  part: boolean;
  distance: boolean;
}

const WIDE = 190;
const LEFT = 118;
const TOP = 44;
const STEP = 84;
const BELOW = 92;

/** The visits of all lines, one row each, in their order; points without a distance are left out. */
function rowsOf(
  series: Series[],
  by: By,
): { key: string; at: number; told: string; under: string }[] {
  const made = new Map<string, { key: string; at: number; told: string; under: string }>();
  for (const p of series.flatMap((s) => s.points)) {
    if (by.distance && p.distance === null) continue;
    const day = new Date(p.at);
    const under = p.distance === null ? "" : Math.round(p.distance).toLocaleString("en-GB");
    made.set(p.at.slice(0, 16), {
      key: p.at.slice(0, 16),
      at: by.distance ? (p.distance ?? 0) : day.getTime(),
      told: longDay(p.at),
      under,
    });
  }
  return [...made.values()].sort((a, b) => a.at - b.at);
}

/** Rows as far apart as their dates say, but never so near that figures overlap. */
function heights(rows: { at: number }[]): number[] {
  const first = rows[0]?.at ?? 0;
  const span = (rows.at(-1)?.at ?? 0) - first || 1;
  const whole = STEP * Math.max(1, rows.length - 1) * 1.2;
  const made: number[] = [];
  for (const row of rows) {
    const wanted = TOP + 20 + ((row.at - first) / span) * whole;
    made.push(Math.max(wanted, (made.at(-1) ?? TOP - STEP + 20) + 54));
  }
  return made;
}

/** What a line's width stands for: its window and all of its figures. */
function scaleOf(quantity: Quantity, series: Series) {
  const values = series.points.map((p) => p.value);
  const low = series.low ?? Math.min(...values);
  const high = series.high ?? Math.max(...values);
  const middle = quantity.share ? 0 : (low + high) / 2;
  // Shares of flow hang on one scale, so that the bands are as wide for all.
  const all = quantity.share
    ? quantity.places.flatMap((s) => s.points.map((p) => p.value))
    : values;
  const reach = Math.max(high - middle, middle - low, ...all.map((v) => Math.abs(v - middle))) || 1;
  const x = linear([middle - reach * 1.15, middle + reach * 1.15], [24, WIDE - 24]);
  return { x, middle, low: series.low, high: series.high };
}

export function Lines({ quantity, by, unit }: { quantity: Quantity; by: By; unit: string }) {
  const series = by.part ? quantity.parts : quantity.places;
  const rows = rowsOf(series, by);
  if (rows.length === 0) {
    return <p className="text-soft">No distance was noted with these figures.</p>;
  }
  return (
    <>
      <div
        className="overflow-x-auto rounded-lg border border-hair bg-sheet"
        tabIndex={0}
        role="region"
        aria-label="Lines"
      >
        <Chart quantity={quantity} series={series} rows={rows} by={by} unit={unit} />
      </div>
      <p className="mt-1 text-sm text-soft">
        {quantity.title} in {quantity.unit}; time runs down, a double stroke is a repair.
      </p>
      <Told series={series} by={by} />
    </>
  );
}

interface ChartProps {
  quantity: Quantity;
  series: Series[];
  rows: ReturnType<typeof rowsOf>;
  by: By;
  unit: string;
}

function Chart({ quantity, series, rows, by, unit }: ChartProps) {
  const ys = heights(rows);
  const height = (ys.at(-1) ?? 0) + BELOW;
  const wide = LEFT + WIDE * series.length;
  const y = (p: Point) => (ys[rows.findIndex((r) => r.key === p.at.slice(0, 16))] ?? 0) - 4;
  return (
    <svg
      width={wide}
      height={height}
      role="group"
      aria-label={`${quantity.title}, ${quantity.unit}`}
    >
      {rows.map((row, n) => (
        <Visit key={row.key} row={row} y={ys[n] ?? 0} wide={wide} unit={unit} />
      ))}
      {series.map((one, n) => (
        <g key={one.name} transform={`translate(${LEFT + n * WIDE} 0)`}>
          <Line
            quantity={quantity}
            series={one}
            by={by}
            height={height}
            y={y}
            between={(at) => between(at, rows, ys, by)}
          />
        </g>
      ))}
    </svg>
  );
}

interface VisitProps {
  row: ChartProps["rows"][number];
  y: number;
  wide: number;
  unit: string;
}

function Visit({ row, y, wide, unit }: VisitProps) {
  return (
    <g transform={`translate(0 ${y})`}>
      <text x={14} y={0} fontSize={13} fontWeight={700} fill="var(--ink)">
        {row.told}
      </text>
      <text x={14} y={16} fontSize={12} fill="var(--soft)" className="figure">
        {row.under && `${row.under} ${unit}`}
      </text>
      <line x1={LEFT} x2={wide} y1={-4} y2={-4} stroke="var(--hair)" />
    </g>
  );
}

/** Where a repair stands between the visits. */
function between(at: string, rows: { key: string; at: number }[], ys: number[], by: By): number {
  if (by.distance) return (ys.at(-1) ?? 0) + 26;
  const time = new Date(at).getTime();
  const next = rows.findIndex((r) => r.at > time);
  if (next < 0) return (ys.at(-1) ?? 0) + 26;
  return next === 0 ? (ys[0] ?? 0) - 26 : ((ys[next] ?? 0) + (ys[next - 1] ?? 0)) / 2 - 4;
}

interface LineProps {
  quantity: Quantity;
  series: Series;
  by: By;
  height: number;
  y: (point: Point) => number;
  between: (at: string) => number;
}

const shown = (value: number, share: boolean) =>
  share
    ? `${value > 0 ? "+" : value < 0 ? "−" : ""}${Math.abs(value).toFixed(1)}`
    : value.toPrecision(4);

function Line({ quantity, series, by, height, y, between: place }: LineProps) {
  const { x, middle, low, high } = scaleOf(quantity, series);
  const points = by.distance ? series.points.filter((p) => p.distance !== null) : series.points;
  const last = points.at(-1);
  const tone: Tone = series.sliding && last ? (last.value < middle ? "low" : "high") : "";
  const colour = tone ? `var(--${tone})` : "var(--soft)";
  const way = points.map((p) => `${x(p.value)},${y(p)}`).join(" ");
  return (
    <>
      <Ground
        band={low === null || high === null ? null : [x(low), x(high)]}
        at={x(middle)}
        height={height}
      />
      <Name name={series.name} at={x(middle)} />
      <polyline points={way} fill="none" stroke={colour} strokeWidth={2} />
      {points.map((p) => (
        <Bob
          key={`${p.at} ${p.job}`}
          point={p}
          x={x}
          y={y(p)}
          tone={tone}
          share={quantity.share}
          middle={middle}
        />
      ))}
      {series.repairs.map((r) => (
        <Knot key={r.at} at={x(last?.value ?? middle)} y={place(r.at)} words={r.words} />
      ))}
      {tone && (
        <text x={x(middle) + 8} y={height - 30} fontSize={13} fontWeight={700} fill={colour}>
          sliding
        </text>
      )}
    </>
  );
}

interface GroundProps {
  band: [number, number] | null;
  at: number;
  height: number;
}

/** The line that hangs true, and the band around it. */
function Ground({ band, at, height }: GroundProps) {
  return (
    <>
      {band && (
        <rect
          x={band[0]}
          width={band[1] - band[0]}
          y={TOP}
          height={height - TOP}
          fill="var(--band)"
          opacity={0.7}
        />
      )}
      <line x1={at} x2={at} y1={TOP - 8} y2={height} stroke="var(--ink)" strokeWidth={1.4} />
    </>
  );
}

function Name({ name, at }: { name: string; at: number }) {
  const short = name.length <= 4;
  return (
    <text
      x={short ? at : WIDE / 2}
      y={TOP - 16}
      textAnchor="middle"
      fontSize={short ? 18 : 12}
      fontWeight={700}
      fill="var(--ink)"
    >
      {name.length > 26 ? `${name.slice(0, 25)}…` : name}
    </text>
  );
}

interface BobProps {
  point: Point;
  x: (value: number) => number;
  y: number;
  tone: Tone;
  share: boolean;
  middle: number;
}

function Bob({ point, x, y, tone, share, middle }: BobProps) {
  const left = point.value < middle;
  const u = reach(point.u);
  return (
    <g>
      <line
        x1={x(point.value - u)}
        x2={x(point.value + u)}
        y1={y + 16}
        y2={y + 16}
        stroke="var(--band-edge)"
        strokeWidth={4}
        opacity={0.7}
      />
      <svg x={x(point.value)} y={y} overflow="visible">
        <BobShape tone={tone} filled={point.job !== ""} />
        <text
          x={left ? -12 : 12}
          y={-4}
          textAnchor={left ? "end" : "start"}
          fontSize={13}
          fill="var(--ink)"
          className="figure"
        >
          {shown(point.value, share)}
        </text>
      </svg>
    </g>
  );
}

/** A repair: a double stroke across the line, with what was done. */
function Knot({ at, y, words }: { at: number; y: number; words: string }) {
  return (
    <g>
      {[0, 5].map((d) => (
        <line
          key={d}
          x1={at - 9}
          x2={at + 9}
          y1={y + d}
          y2={y + d}
          stroke="var(--ink)"
          strokeWidth={2}
        />
      ))}
      <text x={at + 14} y={y + 7} fontSize={11} fill="var(--soft)">
        {words.length > 22 ? `${words.slice(0, 21)}…` : words}
      </text>
    </g>
  );
}

/** Whether the last change is beyond what is told of it, though the line as a whole slides nowhere. */
const hasChanged = (s: Series) => Math.abs(s.change ?? 0) > reach(s.change_u ?? 0);

/** What the lines say, in words: who slides, since when, and when it leaves its band. */
function Told({ series, by }: { series: Series[]; by: By }) {
  const told = series.filter((s) => s.change !== null);
  if (told.length === 0) return null;
  return (
    <ul className="mt-2 rounded-lg border border-hair bg-sheet" aria-label="What the lines say">
      {told.map((s) => (
        <li key={s.name} className="border-b border-hair px-3 py-1 last:border-0">
          <b>{s.name}</b>{" "}
          <span className={s.sliding ? "font-bold" : "text-soft"}>
            {s.sliding ? "sliding" : hasChanged(s) ? "changed" : "steady"}
          </span>
          <span className="text-soft">
            : last change {shown(s.change ?? 0, true)}, known to ±
            {reach(s.change_u ?? 0).toFixed(1)} ({KNOWN_TO})
            {slopeOf(s, by) && `; ${slopeOf(s, by)}`}
          </span>
        </li>
      ))}
    </ul>
  );
}

const slopeOf = (s: Series, by: By) => (by.distance ? s.by_distance : s.by_date)?.leaves ?? "";
