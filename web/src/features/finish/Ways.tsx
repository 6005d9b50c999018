/** Ways to put it right: what each can be expected to cost, drawn on one scale, and the choice. */
import { lazy, Suspense, useState } from "react";
import { longDay } from "../../lib/clock";
import type { JobView } from "../../api/client";
import { BobShape } from "../../ui/PlumbChart";
import type { Finishing, Way } from "./useFinish";
import { linear, type Linear } from "../../lib/scale";

const ChooseDialog = lazy(() => import("./ChooseDialog"));
const PricesDialog = lazy(() => import("./PricesDialog"));

/** What is compared: money where every way has its price, else hours. */
interface Measure {
  unit: string;
  of: (way: Way) => { at: number; low: number; high: number } | null;
  told: (value: number) => string;
}

function measureOf(finishing: Finishing): Measure {
  const priced = finishing.options.filter((w) => w.option !== "engine_first");
  if (priced.every((w) => w.cost !== null)) {
    return {
      unit: finishing.currency,
      of: (w) =>
        w.cost === null
          ? null
          : { at: w.cost, low: w.cost_low ?? w.cost, high: w.cost_high ?? w.cost },
      told: (v) => `${v.toFixed(v % 1 ? 2 : 0)} ${finishing.currency}`.trim(),
    };
  }
  return {
    unit: "hours",
    of: (w) => ({ at: w.hours, low: w.hours_low, high: w.hours_high }),
    told: (v) => `${v.toFixed(1)} h`,
  };
}

export function Ways({ job }: { job: JobView }) {
  const { finishing } = job;
  const [chosen, setChosen] = useState<Way | null>(null);
  const [pricing, setPricing] = useState(false);
  if (finishing.options.length === 0) return null;
  const measure = measureOf(finishing);
  const most = Math.max(...finishing.options.map((w) => measure.of(w)?.high ?? 0), 1);
  const x = linear([0, most], [2, 88], { nice: 4 });
  return (
    <section
      aria-label="Ways to put it right"
      className="mt-3 rounded-lg border border-hair bg-sheet p-3"
    >
      <div className="mb-1 flex flex-wrap items-baseline justify-between gap-2">
        <h2 className="text-sm font-bold text-soft">
          Ways to put it right{measure.unit && `, in ${measure.unit}`}
        </h2>
        <button className="knob" disabled={job.closed} onClick={() => setPricing(true)}>
          {finishing.missing.length > 0 ? "Say what it costs" : "Prices"}
        </button>
      </div>
      {finishing.missing.length > 0 && (
        <p className="mb-1 text-sm text-soft">Hours are compared: some prices are not said yet.</p>
      )}
      <Ticks x={x} />
      <ul>
        {finishing.options.map((way) => (
          <WayLine
            key={way.option}
            way={way}
            measure={measure}
            x={x}
            chosen={finishing.choices.at(-1)?.option === way.option}
            choose={job.closed ? undefined : () => setChosen(way)}
          />
        ))}
      </ul>
      <Choices choices={finishing.choices} unit={job.vehicle.distance_unit} />
      <Suspense>
        {chosen && <ChooseDialog job={job} way={chosen} close={() => setChosen(null)} />}
        {pricing && <PricesDialog job={job} close={() => setPricing(false)} />}
      </Suspense>
    </section>
  );
}

function Ticks({ x }: { x: Linear }) {
  return (
    <div aria-hidden className="grid md:grid-cols-[20rem_minmax(0,1fr)_5.5rem]">
      <span className="max-md:hidden" />
      <svg width="100%" height={18} className="overflow-visible">
        {x.ticks(4).map((tick) => (
          <text
            key={tick}
            x={`${x(tick)}%`}
            y={14}
            fontSize={12}
            fill="var(--soft)"
            className="figure"
          >
            {tick}
          </text>
        ))}
      </svg>
    </div>
  );
}

interface LineProps {
  way: Way;
  measure: Measure;
  x: Linear;
  chosen: boolean;
  choose: (() => void) | undefined;
}

function WayLine({ way, measure, x, chosen, choose }: LineProps) {
  return (
    <li className="grid items-center gap-x-3 border-t border-hair py-1.5 md:grid-cols-[20rem_minmax(0,1fr)_5.5rem]">
      <div className="leading-snug">
        <b>{way.title}</b>
        {chosen && <span className="ml-2 text-sm font-bold">✓ chosen</span>}
        <p className="text-sm text-soft">
          {way.chance ? `${way.chance[0]?.toUpperCase() ?? ""}${way.chance.slice(1)}. ` : ""}
          {way.because[0]?.toUpperCase()}
          {way.because.slice(1)}.{way.risk && <span className="block">But: {way.risk}.</span>}
        </p>
      </div>
      <Drawn way={way} measure={measure} x={x} />
      {choose && (
        <button
          className="knob min-h-11 justify-center"
          aria-label={`Choose: ${way.title}`}
          onClick={choose}
        >
          Choose
        </button>
      )}
    </li>
  );
}

/** The bob at what is expected, a bar from the cheapest to the dearest outcome. */
function Drawn({ way, measure, x }: Omit<LineProps, "chosen" | "choose">) {
  const value = measure.of(way);
  const second = way.second_visit > 0 ? `, second visit ${way.second_visit.toFixed(0)} %` : "";
  const under = `${way.hours.toFixed(1)} h${second}`;
  if (!value) return <p className="figure text-sm text-soft">{under}, to measure again</p>;
  const wide = value.high > value.low;
  const range = wide ? `, from ${measure.told(value.low)} to ${measure.told(value.high)}` : "";
  return (
    <div>
      <svg
        width="100%"
        height={36}
        role="img"
        className="block overflow-visible"
        aria-label={`${measure.told(value.at)} expected${range}`}
      >
        {x.ticks(4).map((t) => (
          <line key={t} x1={`${x(t)}%`} x2={`${x(t)}%`} y1={0} y2={36} stroke="var(--hair)" />
        ))}
        {wide && <Range from={x(value.low)} to={x(value.high)} />}
        <svg x={`${x(value.at)}%`} y={17} overflow="visible">
          <BobShape tone="" filled={way.option !== "wait"} />
          <Figure words={measure.told(value.at)} left={x(value.at) > 66} />
        </svg>
      </svg>
      <p className="figure text-sm text-soft">{under}</p>
    </div>
  );
}

function Range({ from, to }: { from: number; to: number }) {
  const look = { fill: "var(--band-edge)", opacity: 0.7 };
  return <rect x={`${from}%`} width={`${to - from}%`} y={27} height={7} {...look} />;
}

/** The figure beside its bob; to the left where there is no room on its right. */
function Figure({ words, left }: { words: string; left: boolean }) {
  return (
    <text
      x={left ? -13 : 13}
      y={0}
      textAnchor={left ? "end" : "start"}
      fontSize={15}
      fontWeight={700}
      fill="var(--ink)"
      className="figure"
    >
      {words}
    </text>
  );
}

/** What was chosen, each with who and why; earlier ones stay in the record. */
function Choices({ choices, unit }: { choices: Finishing["choices"]; unit: string }) {
  if (choices.length === 0) return null;
  return (
    <ul aria-label="Chosen" className="border-t border-hair pt-1 text-sm">
      {choices.map((c) => (
        <li key={c.at}>
          <b>Chosen: {c.title}</b>
          <span className="text-soft">
            {[c.by, longDay(c.at), c.reason].filter(Boolean).map((t) => ` · ${t}`)}
            {c.look_on && ` · look again by ${longDay(c.look_on)}`}
            {c.look_at && ` · or at ${c.look_at} ${unit}`}
          </span>
        </li>
      ))}
    </ul>
  );
}
