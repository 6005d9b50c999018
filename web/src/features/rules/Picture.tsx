/** Caught against falsely condemned: one mark a rule with its 95 % interval both ways. */
import type { RuleWorth } from "../../api/client";
import { linear, type Linear } from "../../lib/scale";

const W = 700;
const H = 420;
const LEFT = 56;
const FOOT = 44;
/** Names stand to the right of the field. */
const NAMES = 206;

/** Where names stand so that none lies over another: the same side, pushed apart downwards. */
function namesAt(at: { code: string; x: number; y: number }[]): Map<string, number> {
  const made = new Map<string, number>();
  let last = -Infinity;
  for (const one of [...at].sort((a, b) => a.y - b.y || b.x - a.x)) {
    const y = Math.max(one.y, last + 15);
    made.set(one.code, y);
    last = y;
  }
  return made;
}

function least(rules: RuleWorth[]): number {
  const low = Math.min(...rules.map((r) => r.caught.low), 90);
  return Math.max(0, Math.floor(low / 10) * 10);
}

function most(rules: RuleWorth[]): number {
  const high = Math.max(...rules.map((r) => (r.condemned.of > 0 ? r.condemned.high : 0)), 5);
  return Math.min(100, Math.ceil(high / 5) * 5);
}

interface Axes {
  x: Linear;
  y: Linear;
}

const AT = { className: "figure", fontSize: 13, fill: "var(--soft)" } as const;

function Grid({ x, y }: Axes) {
  return (
    <>
      {x.ticks(6).map((t) => (
        <g key={`x${t}`}>
          <line x1={x(t)} x2={x(t)} y1={16} y2={H - FOOT} stroke="var(--hair)" />
          <text x={x(t)} y={H - FOOT + 18} textAnchor="middle" {...AT}>
            {t}
          </text>
        </g>
      ))}
      {y.ticks(6).map((t) => (
        <g key={`y${t}`}>
          <line x1={LEFT} x2={W - NAMES} y1={y(t)} y2={y(t)} stroke="var(--hair)" />
          <text x={LEFT - 8} y={y(t) + 4} textAnchor="end" {...AT}>
            {t}
          </text>
        </g>
      ))}
      <text x={LEFT} y={H - 6} fontSize={13} fill="var(--soft)">
        good ones falsely condemned, %
      </text>
      <text
        x={14}
        y={H - FOOT}
        fontSize={13}
        fill="var(--soft)"
        transform={`rotate(-90 14 ${H - FOOT})`}
      >
        bad ones caught, %
      </text>
    </>
  );
}

export function Picture({ rules }: { rules: RuleWorth[] }) {
  const told = rules.filter((r) => r.caught.percent !== null && r.condemned.percent !== null);
  const x = linear([0, most(told)], [LEFT, W - NAMES]);
  const y = linear([least(told), 100], [H - FOOT, 16]);
  const names = namesAt(
    told.map((r) => ({ code: r.code, x: r.condemned.percent ?? 0, y: y(r.caught.percent ?? 0) })),
  );
  return (
    <svg viewBox={`0 0 ${W} ${H}`} className="block w-full" role="img" aria-label={spoken(told)}>
      <Grid x={x} y={y} />
      {told.map((r) => (
        <Mark key={r.code} rule={r} x={x} y={y} nameAt={names.get(r.code) ?? 0} />
      ))}
    </svg>
  );
}

interface MarkProps {
  rule: RuleWorth;
  x: Axes["x"];
  y: Axes["y"];
  nameAt: number;
}

/** A bob: filled for the rule that is chosen, outlined for the others. */
function Mark({ rule, x, y, nameAt }: MarkProps) {
  const [cx, cy] = [x(rule.condemned.percent ?? 0), y(rule.caught.percent ?? 0)];
  const ink = rule.chosen ? "var(--ink)" : "var(--soft)";
  return (
    <g>
      <line
        x1={x(rule.condemned.low)}
        x2={x(rule.condemned.high)}
        y1={cy}
        y2={cy}
        stroke={ink}
        strokeWidth={1.5}
      />
      <line
        x1={cx}
        x2={cx}
        y1={y(rule.caught.low)}
        y2={y(rule.caught.high)}
        stroke={ink}
        strokeWidth={1.5}
      />
      <circle
        cx={cx}
        cy={cy}
        r={rule.chosen ? 7 : 5}
        fill={rule.chosen ? "var(--ink)" : "var(--sheet)"}
        stroke={ink}
        strokeWidth={2}
      />
      <path d={`M${cx + 7} ${cy}L${W - 194} ${nameAt}`} stroke="var(--hair)" fill="none" />
      <text
        x={W - 190}
        y={nameAt + 4}
        fontSize={13}
        fill="var(--ink)"
        fontWeight={rule.chosen ? 700 : 400}
      >
        {rule.title}
      </text>
    </g>
  );
}

function spoken(rules: RuleWorth[]): string {
  return rules
    .map((r) => {
      const [caught, condemned] = [r.caught.percent ?? 0, r.condemned.percent ?? 0];
      return `${r.title}: ${caught.toFixed(1)} % caught, ${condemned.toFixed(1)} % falsely condemned`;
    })
    .join("; ");
}
