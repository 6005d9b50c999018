/** Humps folded over the engine's cycle: one place a cylinder, a dot a cycle, a bar at the median. */
import type { HumpView } from "../../api/client";

const W = 420;
const H = 200;
const LEFT = 44;
const BOTTOM = 42;
const LIMIT = 85;

export function Folded({ humps, synced }: { humps: HumpView[]; synced: boolean }) {
  const all = humps.flatMap((h) => h.cycles);
  const least = Math.min(60, ...all) - 5;
  const most = Math.max(115, ...all) + 5;
  const y = (v: number) => 10 + ((most - v) / (most - least)) * (H - BOTTOM - 10);
  const wide = (W - LEFT - 10) / humps.length;
  const said = humps.map((h) => `${name(h, synced)} ${h.percent} %, ${h.words}`).join("; ");
  return (
    <svg viewBox={`0 0 ${W} ${H}`} className="block w-full max-w-xl" role="img" aria-label={said}>
      <rect
        x={LEFT}
        width={W - LEFT - 10}
        y={y(most)}
        height={y(LIMIT) - y(most)}
        fill="var(--band)"
      />
      <line x1={LEFT} x2={W - 10} y1={y(100)} y2={y(100)} stroke="var(--ink)" />
      {[100, LIMIT].map((v) => (
        <text key={v} x={LEFT - 6} y={y(v) + 4} textAnchor="end" className="figure" {...small}>
          {v} %
        </text>
      ))}
      {humps.map((h, n) => (
        <Place
          key={h.place}
          hump={h}
          name={name(h, synced)}
          x={LEFT + wide * (n + 0.5)}
          wide={wide}
          y={y}
        />
      ))}
    </svg>
  );
}

interface PlaceProps {
  hump: HumpView;
  name: string;
  x: number;
  wide: number;
  y: (percent: number) => number;
}

const TONES: Record<string, string> = { low: "var(--low)", unsettled: "var(--open)" };

/** One place of the cycle: its cycles as dots, its median as a bar, its name below. */
function Place({ hump, name, x, wide, y }: PlaceProps) {
  const tone = TONES[hump.state] ?? "var(--ink)";
  const level = y(hump.percent);
  const step = (wide * 0.44) / Math.max(1, hump.cycles.length - 1);
  const middle = { x, textAnchor: "middle", fill: tone } as const;
  return (
    <g>
      {hump.cycles.map((v, k) => (
        <circle
          key={k}
          cx={x - wide * 0.22 + step * k}
          cy={y(v)}
          r={3}
          fill="var(--sheet)"
          stroke={tone}
        />
      ))}
      <line
        x1={x - wide * 0.34}
        x2={x + wide * 0.34}
        y1={level}
        y2={level}
        stroke={tone}
        strokeWidth={4}
      />
      <text {...middle} y={H - 24} fontSize={14} fontWeight={700} className="figure">
        {name}
      </text>
      <text {...middle} y={H - 8} fontSize={12}>
        {Math.round(hump.percent)} %{hump.state === "low" ? " ▾" : ""}
      </text>
    </g>
  );
}

function name(hump: HumpView, synced: boolean): string {
  return synced && hump.injector ? hump.injector : `place ${hump.place + 1}`;
}

const small = { fontSize: 12, fill: "var(--soft)" };
