/** The planner: how sure one wants to be, and what would make it so. */
import { useState } from "react";
import { told } from "../../api/client";
import { Trouble } from "../../ui/parts";
import { Slider } from "./Slider";
import { usePlan, type Setup } from "./worth";

interface Row {
  step: string;
  second: string;
  longer: number;
  bursts: number;
  minutes: number;
  certainty_percent: number;
  words: string;
}

function Ways({ plans, unit }: { plans: Row[]; unit: string }) {
  if (plans.length === 0) return null;
  const heads = ["gauge step", "a good burst ends at", "bursts", "minutes", "of 100"];
  return (
    <div className="overflow-x-auto">
      <table className="w-full border-collapse text-sm">
        <thead>
          <tr className="border-b border-hair text-right">
            <th className="py-1 pr-3 text-left">This does it</th>
            {heads.map((h) => (
              <th key={h} className="px-3">
                {h}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {plans.map((p) => (
            <tr key={`${p.step} ${p.longer}`} className="border-b border-hair text-right">
              <th scope="row" className="py-1 pr-3 text-left font-normal">
                {p.words}
              </th>
              {[`${p.step} ${unit}`, `${p.second} ${unit}`, p.bursts, p.minutes].map((cell, n) => (
                <td key={n} className="figure px-3">
                  {cell}
                </td>
              ))}
              <td className="figure px-3">{p.certainty_percent}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

export function Planner({ setup }: { setup: Setup }) {
  const [wanted, setWanted] = useState({ off: 15, sure: 95 });
  const least = setup.tolerance_percent + 1;
  const off = Math.max(wanted.off, least);
  const plan = usePlan(setup, off, wanted.sure);
  return (
    <section aria-label="Planner" className="mt-6 rounded-lg border border-hair bg-sheet p-3">
      <h2 className="text-lg font-bold">What would it take?</h2>
      <div className="grid gap-x-6 sm:grid-cols-2">
        <Slider
          label="An injector that is off by"
          told={`${off} %`}
          value={off}
          from={least}
          to={40}
          step={1}
          onChange={(next) => setWanted({ ...wanted, off: next })}
        />
        <Slider
          label="is to be called out in"
          told={`${wanted.sure} of 100 sets`}
          value={wanted.sure}
          from={50}
          to={99}
          step={1}
          onChange={(sure) => setWanted({ ...wanted, sure })}
        />
      </div>
      <Trouble text={plan.isError ? told(plan.error) : null} />
      {plan.data && (
        <p className="mb-2" role="status">
          One pass as it is now does it in <b>{plan.data.now_percent} of 100</b>. {plan.data.told}
        </p>
      )}
      <Ways plans={plan.data?.plans ?? []} unit={setup.unit} />
    </section>
  );
}
