/** The gauge, the burst, the starts, the set, the tolerance, the passes: what is simulated. */
import { KPA_PER } from "../../lib/slips";
import { Slider } from "./Slider";
import type { Setup } from "./worth";

/** Steps that gauges have, in psi; a slider walks along them. */
const STEPS = [0.05, 0.1, 0.2, 0.25, 0.5, 1, 2, 4];
/** How many psi one of a unit is. */
function psiPer(unit: string): number {
  return (KPA_PER[unit] ?? 1) / (KPA_PER.psi ?? 1);
}

function stepsIn(unit: string, now: number): number[] {
  const own = STEPS.map((s) => Number((s / psiPer(unit)).toPrecision(2)));
  return [...new Set([...own, now])].sort((a, b) => a - b);
}

/** What of the first pressure a burst takes. */
function depth({ first, second }: Setup): number {
  return Math.round((100 * (first - second)) / first);
}

interface Props {
  setup: Setup;
  onChange: (setup: Setup) => void;
}

interface Line {
  label: string;
  told: string;
  value: number;
  range: [from: number, to: number, step: number];
  change: (value: number) => Partial<Setup>;
}

/** The gauge and the burst, in the rail's own unit. */
function ofTheRail(setup: Setup): Line[] {
  const { unit } = setup;
  const per = psiPer(unit);
  const steps = stepsIn(unit, setup.step);
  return [
    {
      label: "Gauge step",
      told: `${setup.step} ${unit}`,
      value: steps.indexOf(setup.step),
      range: [0, steps.length - 1, 1],
      change: (n) => ({ step: steps[n] ?? setup.step }),
    },
    {
      label: "The burst takes",
      told: `${depth(setup)} % of ${setup.first} ${unit}`,
      value: depth(setup),
      range: [10, 85, 1],
      change: (share) => ({ second: Number((setup.first * (1 - share / 100)).toPrecision(4)) }),
    },
    {
      label: "Starts wander by",
      told: `${setup.scatter} ${unit}`,
      value: Math.round(setup.scatter * per * 10) / 10,
      range: [0, 4, 0.1],
      change: (psi) => ({ scatter: Number((psi / per).toPrecision(2)) }),
    },
  ];
}

function ofTheSet(setup: Setup): Line[] {
  return [
    {
      label: "Injectors in the set",
      told: String(setup.size),
      value: setup.size,
      range: [3, 16, 1],
      change: (size) => ({ size }),
    },
    {
      label: "Tolerance",
      told: `±${setup.tolerance_percent} %`,
      value: setup.tolerance_percent,
      range: [3, 30, 1],
      change: (tolerance_percent) => ({ tolerance_percent }),
    },
    {
      label: "Passes of everyone",
      told: String(setup.passes),
      value: setup.passes,
      range: [1, 5, 1],
      change: (passes) => ({ passes }),
    },
  ];
}

export function Sliders({ setup, onChange }: Props) {
  const put = (change: Partial<Setup>) => onChange({ ...setup, ...change, told: "" });
  return (
    <section aria-label="What is simulated" className="grid content-start">
      {[...ofTheRail(setup), ...ofTheSet(setup)].map(({ range: [from, to, step], ...line }) => (
        <Slider
          key={line.label}
          {...line}
          from={from}
          to={to}
          step={step}
          onChange={(value) => put(line.change(value))}
        />
      ))}
      <label className="flex min-h-11 items-center gap-2 text-sm">
        <input
          type="checkbox"
          checked={!setup.ideal}
          onChange={(e) => put({ ideal: !e.target.checked })}
        />
        A rail that bends, seeps and creeps
      </label>
    </section>
  );
}
