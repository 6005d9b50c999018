/**
 * The plumb chart: a line that hangs true, a corridor of tolerance, a bob for each injector.
 * Rows are drawn one by one, so that a table can hold each beside its readings.
 */
import { scaleLinear, type ScaleLinear } from "d3-scale";

export type Tone = "low" | "high" | "open" | "";

export interface Hanging {
  deviation: number;
  uncertainty: number | null;
  settled: boolean;
  tone: Tone;
  provisional?: boolean;
}

export type Scale = ScaleLinear<number, number>;

/** Deviation in per cent to position in per cent of the width. */
export function plumbScale(corridor: number): Scale {
  const reach = Math.max(25, Math.ceil((corridor * 1.6) / 5) * 5);
  return scaleLinear().domain([-reach, reach]).range([3, 97]);
}

const COLOURS: Record<Tone, string> = {
  low: "var(--low)",
  high: "var(--high)",
  open: "var(--open)",
  "": "var(--ink)",
};

/** The bob itself, hanging with its neck at (0, -13) and its point at (0, 13). */
export function BobShape({ tone, filled }: { tone: Tone; filled: boolean }) {
  const colour = COLOURS[tone];
  return (
    <path
      d="M-2.6-13h5.2v4.2l4 3.6-1.4 7.6L0 13-5.2 2.4-6.6-5.2l4-3.6z"
      fill={filled ? colour : "var(--sheet)"}
      stroke={colour}
      strokeWidth={1.8}
      strokeLinejoin="round"
    />
  );
}

function signed(value: number): string {
  return `${value > 0 ? "+" : value < 0 ? "−" : ""}${Math.abs(value).toFixed(1)}`;
}

/** What the row's drawing says, for those who hear it. */
export function spoken(hanging: Hanging | null): string {
  if (!hanging) return "nothing drawn yet";
  const side = hanging.deviation < 0 ? "less" : "more";
  const known =
    hanging.uncertainty === null ? "" : `, known to ±${(2 * hanging.uncertainty).toFixed(1)} %`;
  return `${Math.abs(hanging.deviation).toFixed(1)} % ${side} than the reference${known}${
    hanging.settled ? "" : ", not settled"
  }`;
}

function Corridor({ scale, corridor }: { scale: Scale; corridor: number }) {
  const left = scale(-corridor);
  const right = scale(corridor);
  return (
    <>
      <rect x={`${left}%`} width={`${right - left}%`} y={0} height="100%" fill="var(--band)" />
      {[left, right].map((x) => (
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

interface RowProps {
  scale: Scale;
  corridor: number;
  hanging: Hanging | null;
}

/** One injector's row of the chart. */
export function PlumbRow({ scale, corridor, hanging }: RowProps) {
  return (
    <svg
      width="100%"
      height="100%"
      className="absolute inset-0 block overflow-hidden"
      role="img"
      aria-label={spoken(hanging)}
    >
      <Corridor scale={scale} corridor={corridor} />
      {hanging && <Hung scale={scale} hanging={hanging} />}
    </svg>
  );
}

function Hung({ scale, hanging }: { scale: Scale; hanging: Hanging }) {
  const [low = -25, high = 25] = scale.domain();
  const off = hanging.deviation < low || hanging.deviation > high;
  const left = hanging.deviation < 0;
  const x = off ? (left ? 10 : 90) : scale(hanging.deviation);
  const u = 2 * (hanging.uncertainty ?? 0);
  const clip = (v: number) => scale(Math.min(high, Math.max(low, v)));
  const colour = COLOURS[hanging.tone];
  const figure = signed(hanging.deviation) + (off ? ", off the sheet" : "");
  // The figure stands beside the bob, on the side where there is room.
  const anchor = off ? (left ? "start" : "end") : left && x > 22 ? "end" : x > 80 ? "end" : "start";
  const shift = anchor === "start" ? 14 : -14;
  return (
    <>
      <line
        x1="50%"
        x2={`${x}%`}
        y1="62%"
        y2="62%"
        stroke={colour}
        strokeWidth={1.2}
        opacity={0.55}
      />
      {!off && u > 0 && (
        <line
          x1={`${clip(hanging.deviation - u)}%`}
          x2={`${clip(hanging.deviation + u)}%`}
          y1="62%"
          y2="62%"
          stroke={colour}
          strokeWidth={5}
          strokeLinecap="round"
          opacity={0.35}
        />
      )}
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
          x={shift}
          y={-5}
          textAnchor={anchor}
          fill={colour}
          className="figure"
          fontSize={13}
          fontWeight={700}
        >
          {figure}
        </text>
      </svg>
    </>
  );
}

/** The head of the chart: ticks of the scale in per cent. */
export function PlumbHead({ scale }: { scale: Scale }) {
  const ticks = scale.ticks(5);
  return (
    <svg width="100%" height="100%" className="absolute inset-0 block" aria-hidden>
      {ticks.map((tick) => (
        <text
          key={tick}
          x={`${scale(tick)}%`}
          y="60%"
          textAnchor="middle"
          fontSize={13}
          fill="var(--soft)"
          className="figure"
        >
          {tick > 0 ? `+${tick}` : tick < 0 ? `−${-tick}` : "0 %"}
        </text>
      ))}
    </svg>
  );
}

/** The foot of the chart: the line's own bob, and which side is which. */
export function PlumbFoot({ scale, corridor }: { scale: Scale; corridor: number }) {
  return (
    <svg width="100%" height="100%" className="absolute inset-0 block" aria-hidden>
      <line x1="50%" x2="50%" y1={0} y2={12} stroke="var(--ink)" strokeWidth={1.4} />
      <svg x="50%" y={26} overflow="visible">
        <BobShape tone="" filled />
      </svg>
      <text
        x={`${Math.max(2, scale(-corridor) - 22)}%`}
        y={30}
        fontSize={13}
        fontWeight={700}
        fill="var(--low)"
      >
        ◂ gives less
      </text>
      <text
        x={`${Math.min(98, scale(corridor) + 22)}%`}
        y={30}
        fontSize={13}
        fontWeight={700}
        textAnchor="end"
        fill="var(--high)"
      >
        gives more ▸
      </text>
    </svg>
  );
}
