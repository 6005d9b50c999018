/**
 * The plumb chart: a line that hangs true, a corridor of tolerance, a bob for each injector.
 * Rows are drawn one by one, so that a table can hold each beside its readings.
 */
import type { SVGProps } from "react";
import { longDay } from "../lib/clock";
import type { components } from "../api/schema";
import { KNOWN_TO, linear, reach, type Linear } from "../lib/scale";

export type Tone = "low" | "high" | "open" | "";

export interface Hanging {
  at: number;
  uncertainty: number | null;
  settled: boolean;
  tone: Tone;
  provisional?: boolean;
}

/** What a sheet's rows hang on, as the server says it. */
export type Ground = Omit<components["schemas"]["ScaleView"], "gives">;

export interface Scale {
  ground: Ground;
  x: Linear;
}

/** Figures of the scale to position in per cent of the width; the centre hangs in the middle. */
export function plumbScale(ground: Ground, least = 25): Scale {
  const { centre, low, high, relative, reach: wide } = ground;
  // A limit may lie on the other side of the centre: a whole set beyond what its maker allows.
  const half = Math.max(
    high === null ? 0 : Math.abs(high - centre),
    low === null ? 0 : Math.abs(centre - low),
  );
  const corridor = relative
    ? Math.max(least, Math.ceil((half * 1.6) / 5) * 5)
    : half > 0
      ? half * 2
      : Math.max(Math.abs(centre) * 0.25, 1);
  const reach = wide ?? corridor;
  const x = linear([centre - reach, centre + reach], [3, 97]);
  return { ground, x };
}

const COLOURS: Record<Tone, string> = {
  low: "var(--low)",
  high: "var(--high)",
  open: "var(--open)",
  "": "var(--ink)",
};

/** The outline of a bob, hanging with its neck at (0, -13) and its point at (0, 13). */
const BOB = "M-2.6-13h5.2v4.2l4 3.6-1.4 7.6L0 13-5.2 2.4-6.6-5.2l4-3.6z";

/** The bob itself; hollow where nothing is settled. */
export function BobShape({ tone, filled }: { tone: Tone; filled: boolean }) {
  const colour = COLOURS[tone];
  return (
    <path
      d={BOB}
      fill={filled ? colour : "var(--sheet)"}
      stroke={colour}
      strokeWidth={1.8}
      strokeLinejoin="round"
    />
  );
}

function signed(value: number, places = 1): string {
  return `${value > 0 ? "+" : value < 0 ? "−" : ""}${Math.abs(value).toFixed(places)}`;
}

/** What the row's drawing says, for those who hear it. */
export function spoken(hanging: Hanging | null, ground: Ground): string {
  if (!hanging) return "nothing drawn yet";
  const end = hanging.settled ? "" : ", not settled";
  if (!ground.relative) {
    const known =
      hanging.uncertainty === null
        ? ""
        : `, known to ±${reach(hanging.uncertainty).toFixed(ground.decimals + 1)} (${KNOWN_TO})`;
    return `${hanging.at.toFixed(ground.decimals + 1)} ${ground.unit}${known}${end}`;
  }
  const side = hanging.at < 0 ? "less" : "more";
  const known =
    hanging.uncertainty === null
      ? ""
      : `, known to ±${reach(hanging.uncertainty).toFixed(1)} % (${KNOWN_TO})`;
  return `${Math.abs(hanging.at).toFixed(1)} % ${side} than the reference${known}${end}`;
}

function Corridor({ scale }: { scale: Scale }) {
  const { low, high } = scale.ground;
  const left = low === null ? 3 : scale.x(low);
  const right = high === null ? 97 : scale.x(high);
  // A side without a limit has no edge.
  const edges = [...(low === null ? [] : [left]), ...(high === null ? [] : [right])];
  return (
    <>
      <rect x={`${left}%`} width={`${right - left}%`} y={0} height="100%" fill="var(--band)" />
      {edges.map((x) => (
        <line
          key={x}
          x1={`${x}%`}
          x2={`${x}%`}
          y1={0}
          y2="100%"
          stroke="var(--band-edge)"
          strokeDasharray="2 3"
        />
      ))}
      <line x1="50%" x2="50%" y1={0} y2="100%" stroke="var(--ink)" strokeWidth={1.4} />
    </>
  );
}

/** Where it hung before, and where it is planned to hang: only nozzles have these. */
export interface Path {
  trail: { at: number; shown: string; change: string }[];
  plan: { at: number; low: number; high: number } | null;
}

interface RowProps {
  scale: Scale;
  hanging: Hanging | null;
  path?: Path | null;
  /** Where it hung on the vehicle's last visit, and when that was. */
  last?: { at: number; when: string } | undefined;
  /** A small chart: an arrow says "off the sheet", without the words. */
  small?: boolean;
}

/** One injector's row of the chart. */
export function PlumbRow({ scale, hanging, path = null, last, small = false }: RowProps) {
  return (
    <svg
      width="100%"
      height="100%"
      className="absolute inset-0 block overflow-hidden"
      role="img"
      aria-label={`${spoken(hanging, scale.ground)}${last ? `; last time ${figureAt(last.at, scale)}` : ""}`}
    >
      <Corridor scale={scale} />
      {last && <LastTime scale={scale} last={last} />}
      {path && hanging && <Moved scale={scale} hanging={hanging} path={path} />}
      {hanging && <Hung scale={scale} hanging={hanging} small={small} />}
    </svg>
  );
}

const figureAt = (at: number, { ground }: Scale) =>
  ground.relative ? signed(at) : at.toFixed(ground.decimals + 1);

/** Faint, behind everything else: where it hung last time. */
function LastTime({ scale, last }: { scale: Scale; last: { at: number; when: string } }) {
  const [least, most] = scale.x.domain();
  if (last.at < least || last.at > most) return null;
  return (
    <svg x={`${scale.x(last.at)}%`} y="52%" overflow="visible" opacity={0.45}>
      <title>{`Last time, ${longDay(last.when)}: ${figureAt(last.at, scale)}`}</title>
      <path d={BOB} fill="none" stroke="var(--soft)" strokeWidth={1.2} strokeDasharray="2 2" />
    </svg>
  );
}

/** Where a bob hangs across the chart; one off the sheet hangs at its edge, with an arrow. */
function placeOf(scale: Scale, hanging: Hanging): { x: number; off: boolean; left: boolean } {
  const [least, most] = scale.x.domain();
  const off = hanging.at < least || hanging.at > most;
  const left = hanging.at < scale.ground.centre;
  return { x: off ? (left ? 10 : 90) : scale.x(hanging.at), off, left };
}

/** The figure stands beside the bob, on the side where there is room. */
function anchorOf(place: ReturnType<typeof placeOf>, small: boolean): "start" | "end" {
  if (place.off) return place.left ? "start" : "end";
  if (place.left && place.x > (small ? 36 : 22)) return "end";
  return place.x > (small ? 62 : 80) ? "end" : "start";
}

/** The figure of a bob; a place on a scale without a unit has none. */
function figureOf(hanging: Hanging, ground: Ground): string {
  if (!ground.relative) return hanging.at.toFixed(ground.decimals + 1);
  return ground.unit === "%" ? signed(hanging.at) : "";
}

interface HungProps {
  scale: Scale;
  hanging: Hanging;
  small: boolean;
}

function Hung({ scale, hanging, small }: HungProps) {
  const place = placeOf(scale, hanging);
  const { x, off, left } = place;
  const colour = COLOURS[hanging.tone];
  const anchor = anchorOf(place, small);
  return (
    <>
      <Level x1={50} x2={x} y={62} stroke={colour} strokeWidth={1.2} opacity={0.55} />
      {!off && <Known scale={scale} hanging={hanging} />}
      <svg x={`${x}%`} y="52%" overflow="visible">
        <g className="bob" opacity={hanging.provisional ? 0.6 : 1}>
          <BobShape tone={hanging.tone} filled={hanging.settled} />
          {off && (
            <path
              d={left ? "M-13 3l-7 0m3.5-4-4 4 4 4" : "M13 3l7 0m-3.5-4 4 4-4 4"}
              stroke={colour}
              strokeWidth={2}
              fill="none"
            />
          )}
        </g>
        <text
          x={anchor === "start" ? 14 : -14}
          y={-5}
          textAnchor={anchor}
          fill={colour}
          className="figure"
          fontSize={13}
          fontWeight={700}
        >
          {[figureOf(hanging, scale.ground), off && !small && "off the sheet"]
            .filter(Boolean)
            .join(", ")}
        </text>
      </svg>
    </>
  );
}

interface LevelProps extends Omit<SVGProps<SVGLineElement>, "x1" | "x2" | "y"> {
  x1: number;
  x2: number;
  y: number;
}

/** A level line; its ends and its height in per cent of the row. */
function Level({ x1, x2, y, ...look }: LevelProps) {
  return <line x1={`${x1}%`} x2={`${x2}%`} y1={`${y}%`} y2={`${y}%`} {...look} />;
}

/** How well a bob's place is known: two standard uncertainties to either side. */
function Known({ scale, hanging }: { scale: Scale; hanging: Hanging }) {
  const [least, most] = scale.x.domain();
  const clip = (v: number) => scale.x(Math.min(most, Math.max(least, v)));
  const u = reach(hanging.uncertainty ?? 0);
  if (u <= 0) return null;
  return (
    <Level
      x1={clip(hanging.at - u)}
      x2={clip(hanging.at + u)}
      y={62}
      stroke={COLOURS[hanging.tone]}
      strokeWidth={5}
      strokeLinecap="round"
      opacity={0.35}
    />
  );
}

/** The way of a nozzle: each earlier stack of shims as an empty bob, the plan as a ghost. */
function Moved({ scale, hanging, path }: { scale: Scale; hanging: Hanging; path: Path }) {
  const { x } = scale;
  return (
    <>
      {path.trail.map((stop, n) => (
        <Stop key={n} stop={stop} x={x(stop.at)} next={x(path.trail[n + 1]?.at ?? hanging.at)} />
      ))}
      {path.plan && <Plan x={x} from={hanging.at} plan={path.plan} />}
    </>
  );
}

interface StopProps {
  stop: Path["trail"][number];
  x: number;
  next: number;
}

function Stop({ stop, x, next }: StopProps) {
  const figure = { fontSize: 12, fill: "var(--soft)", className: "figure" };
  return (
    <g>
      <Level x1={x} x2={next} y={58} stroke="var(--chalk)" strokeWidth={2} />
      <svg x={`${(x + next) / 2}%`} y="58%" overflow="visible">
        <text y={17} textAnchor="middle" {...figure}>
          {stop.change}
        </text>
      </svg>
      <svg x={`${x}%`} y="52%" overflow="visible">
        <BobShape tone="open" filled={false} />
        <text x={-14} y={5} textAnchor="end" {...figure}>
          {stop.shown}
        </text>
      </svg>
    </g>
  );
}

interface PlanProps {
  x: Scale["x"];
  from: number;
  plan: NonNullable<Path["plan"]>;
}

/** Where the shims planned should bring it, and how far that may be off. */
function Plan({ x, from, plan }: PlanProps) {
  const chalk = { y: 58, stroke: "var(--chalk)" };
  return (
    <>
      <Level {...chalk} x1={x(from)} x2={x(plan.at)} strokeWidth={2} strokeDasharray="5 4" />
      <Level
        {...chalk}
        x1={x(plan.low)}
        x2={x(plan.high)}
        strokeWidth={6}
        strokeLinecap="round"
        opacity={0.7}
      />
      <svg x={`${x(plan.at)}%`} y="52%" overflow="visible">
        <path
          d={BOB}
          fill="var(--sheet)"
          stroke="var(--chalk)"
          strokeWidth={2}
          strokeLinejoin="round"
        />
      </svg>
    </>
  );
}

/** The head of the chart: ticks of the scale. */
export function PlumbHead({ scale }: { scale: Scale }) {
  const { ground, x } = scale;
  const text = (tick: number) => {
    if (!ground.relative) return `${tick}${tick === x.ticks(5)[0] ? ` ${ground.unit}` : ""}`;
    if (tick === 0) return ground.unit === "%" ? "0 %" : "middle";
    return tick > 0 ? `+${tick}` : `−${-tick}`;
  };
  return (
    <svg width="100%" height="100%" className="absolute inset-0 block" aria-hidden>
      {x.ticks(5).map((tick) => (
        <text
          key={tick}
          x={`${x(tick)}%`}
          y="60%"
          textAnchor="middle"
          fontSize={13}
          fill="var(--soft)"
          className="figure"
        >
          {ground.unit === "%" || !ground.relative || tick === 0 ? text(tick) : ""}
        </text>
      ))}
    </svg>
  );
}

/** The foot of the chart: the line's own bob, and which side is which. */
export function PlumbFoot({ gives }: { gives: boolean }) {
  return (
    <svg width="100%" height="100%" className="absolute inset-0 block" aria-hidden>
      <line x1="50%" x2="50%" y1={0} y2={12} stroke="var(--ink)" strokeWidth={1.4} />
      <svg x="50%" y={26} overflow="visible">
        <BobShape tone="" filled />
      </svg>
      <text x="3%" y={30} fontSize={13} fontWeight={700} fill="var(--low)">
        {gives ? "◂ gives less" : "◂ lower"}
      </text>
      <text x="97%" y={30} fontSize={13} fontWeight={700} textAnchor="end" fill="var(--high)">
        {gives ? "gives more ▸" : "higher ▸"}
      </text>
    </svg>
  );
}
