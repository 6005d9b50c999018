/** Line drawings of how things are connected, where a drawing says it faster. */
import type { ReactNode } from "react";

const LINE = {
  fill: "none",
  stroke: "var(--ink)",
  strokeWidth: 2,
  strokeLinecap: "round",
  strokeLinejoin: "round",
} as const;

function Word({ x, y, children }: { x: number; y: number; children: ReactNode }) {
  return (
    <text x={x} y={y} fontSize={12} fill="var(--ink)" textAnchor="middle">
      {children}
    </text>
  );
}

/** The rail with its injectors, the gauge on the test port, its valve over a container. */
function GaugeOnRail() {
  return (
    <>
      <path {...LINE} d="M20 70h220v14H20z" />
      {[50, 100, 150, 200].map((x) => (
        <path key={x} {...LINE} d={`M${x} 84v14l-5 6v16h10v-16l-5-6`} />
      ))}
      <path {...LINE} d="M225 70v-22" />
      <circle {...LINE} cx={225} cy={30} r={18} />
      <path {...LINE} d="M225 30l8-10M207 40l-40 14v10" strokeWidth={1.5} />
      <path {...LINE} d="M152 66h30v0M155 110h24" stroke="none" />
      <path {...LINE} d="M262 90h34l-5 36h-24z" />
      <path {...LINE} d="M240 40q36 10 36 50" strokeWidth={1.5} />
      <Word x={90} y={60}>
        rail
      </Word>
      <Word x={280} y={142}>
        container
      </Word>
      <Word x={225} y={10}>
        gauge
      </Word>
    </>
  );
}

/** A relay's socket: the link goes from 30 to 87, with a fuse; 85 and 86 are left alone. */
function RelayLink() {
  return (
    <>
      <rect {...LINE} x={90} y={20} width={120} height={110} rx={8} />
      <path {...LINE} d="M150 34v18M150 98v18M112 75h18M170 75h18" strokeWidth={6} />
      <Word x={128} y={48}>
        30
      </Word>
      <Word x={128} y={112}>
        87
      </Word>
      <Word x={106} y={92}>
        85
      </Word>
      <Word x={194} y={92}>
        86
      </Word>
      <path {...LINE} stroke="var(--chalk)" strokeWidth={3} d="M150 34h90v14M240 88v20h-90" />
      <rect {...LINE} stroke="var(--chalk)" x={232} y={48} width={16} height={40} rx={3} />
      <Word x={272} y={72}>
        fuse
      </Word>
      <path {...LINE} stroke="var(--high)" d="M96 64l16 22m0-22L96 86M176 64l16 22m0-22l-16 22" />
    </>
  );
}

/** The injector's plug pulled off, a lamp in it. */
function LampAtPlug() {
  return (
    <>
      <path {...LINE} d="M60 60h30v14l8 8v36h-8v22H60v-22h-8V82l8-8z" />
      <Word x={75} y={158}>
        injector
      </Word>
      <rect {...LINE} x={150} y={60} width={44} height={34} rx={4} />
      <path {...LINE} d="M194 70q40-10 60 10M194 84q40 0 60 14" />
      <Word x={272} y={92}>
        loom
      </Word>
      <path {...LINE} d="M162 60v-16M182 60v-16" />
      <circle {...LINE} cx={172} cy={30} r={14} />
      <path {...LINE} d="M163 21l18 18m0-18l-18 18" />
      <Word x={210} y={28}>
        lamp
      </Word>
    </>
  );
}

/** The nozzle on the hand pump, its tip in a closed jar. */
function HandPump() {
  return (
    <>
      <rect {...LINE} x={40} y={70} width={80} height={60} rx={6} />
      <path {...LINE} d="M120 84l60-40M172 36l16 16" strokeWidth={4} />
      <circle {...LINE} cx={80} cy={46} r={18} />
      <path {...LINE} d="M80 64v6M80 46l8-10" />
      <Word x={80} y={20}>
        gauge
      </Word>
      <path {...LINE} d="M120 110h70v-20h20" />
      <path {...LINE} d="M210 78h26v26l-8 14h-10l-8-14z" />
      <path {...LINE} d="M196 112h54v42h-54z" strokeDasharray="4 3" />
      <Word x={223} y={168}>
        closed jar
      </Word>
      <Word x={80} y={150}>
        hand pump
      </Word>
    </>
  );
}

const DRAWN: Record<string, () => ReactNode> = {
  gauge_on_rail: GaugeOnRail,
  relay_link: RelayLink,
  lamp_at_plug: LampAtPlug,
  hand_pump: HandPump,
};

export function Drawing({ code, words }: { code: string; words: string }) {
  const Drawn = DRAWN[code];
  if (!Drawn) return null;
  return (
    <figure className="rounded-lg border border-hair bg-field p-2">
      <svg viewBox="0 0 320 176" className="w-full max-w-sm" role="img" aria-label={words}>
        <Drawn />
      </svg>
      <figcaption className="text-sm text-soft">{words}</figcaption>
    </figure>
  );
}
