/** A job's bobs on one line: who hangs true and who leans, at a glance. */
import type { JobLine } from "../../api/client";
import { BobShape, plumbScale, type Tone } from "../../ui/PlumbChart";

const TONES: Record<string, Tone> = { low: "low", high: "high", unsettled: "open", split: "open" };

export function MiniChart({ bobs, corridor }: { bobs: JobLine["bobs"]; corridor: number }) {
  if (!bobs || bobs.length === 0) return null;
  const ground = {
    relative: true,
    unit: "%",
    centre: 0,
    low: -corridor,
    high: corridor,
    decimals: 0,
  };
  const { x: scale } = plumbScale(ground);
  const [low, high] = scale.domain();
  const words = bobs.map((b) => `${b.injector} ${b.said}`).join(", ");
  return (
    <svg width="100%" height="40" className="block" role="img" aria-label={`Deviations: ${words}`}>
      <rect
        x={`${scale(-corridor)}%`}
        width={`${scale(corridor) - scale(-corridor)}%`}
        y={4}
        height={32}
        fill="var(--band)"
      />
      <line x1="50%" x2="50%" y1={0} y2={40} stroke="var(--ink)" strokeWidth={1.2} />
      {bobs.map((bob) => {
        const settled = bob.state === "in_plumb" || bob.state === "low" || bob.state === "high";
        const x = scale(Math.min(high, Math.max(low, bob.deviation_percent)));
        return (
          <svg key={bob.injector} x={`${x}%`} y={20} overflow="visible">
            <g transform="scale(0.8)">
              <BobShape tone={TONES[bob.state] ?? ""} filled={settled} />
            </g>
          </svg>
        );
      })}
    </svg>
  );
}
