/** What a rule is worth: every rule on the same simulated sets, and what it takes to be sure. */
import { useState } from "react";
import { Link, useSearchParams } from "react-router";
import { told, type RuleWorth, type ShareView, type WorthView } from "../../api/client";
import { Head } from "../../ui/Head";
import { Trouble } from "../../ui/parts";
import { Picture } from "./Picture";
import { Planner } from "./Planner";
import { Sliders } from "./Sliders";
import { useSetup, useWorth, type Setup } from "./worth";

export default function RulesPage() {
  const [asked] = useSearchParams();
  const sheet = Number(asked.get("sheet") ?? 0);
  const usual = useSetup(sheet);
  const [own, setOwn] = useState<Setup | null>(null);
  const setup = own ?? usual.data ?? null;
  const { worth, begin, stop } = useWorth(setup);
  return (
    <>
      <title>What a rule is worth · Plumb</title>
      <Head title="What a rule is worth" sub="the same simulated sets for all of them">
        <Link className="knob" to={asked.get("from") ?? "/"}>
          {asked.get("from") ? "Back to the sheet" : "Today"}
        </Link>
      </Head>
      <main className="mx-auto max-w-6xl p-4">
        <h1 className="mb-1 text-2xl font-bold">What a rule is worth</h1>
        <p className="mb-3 text-soft">
          Sets of injectors whose truth is known, read with this gauge on this rail: how many bad
          ones each rule catches, and how many good ones it throws away.
          {usual.data && own === null && ` Here: ${usual.data.told}.`}
        </p>
        <Trouble text={usual.isError ? told(usual.error) : null} />
        <Trouble text={begin.isError ? told(begin.error) : null} />
        <div className="grid gap-4 lg:grid-cols-[minmax(0,1fr)_20rem]">
          <section aria-label="Picture" className="rounded-lg border border-hair bg-sheet p-3">
            {worth ? <Picture rules={worth.rules} /> : <p>Simulating…</p>}
            {worth && <Progress worth={worth} stop={() => stop.mutate()} />}
          </section>
          {setup && <Sliders setup={setup} onChange={setOwn} />}
        </div>
        {worth && <Figures rules={worth.rules} />}
        {setup && <Planner setup={setup} />}
      </main>
    </>
  );
}

function Progress({ worth, stop }: { worth: WorthView; stop: () => void }) {
  return (
    <div className="mt-2 flex min-h-12 flex-wrap items-center gap-3 text-sm">
      <progress
        className="h-2 w-40 accent-ink"
        aria-label="Sets simulated"
        max={worth.of}
        value={worth.sets}
      />
      <p role="status">
        {worth.sets} of {worth.of} sets{!worth.running && worth.sets < worth.of && ", stopped"}
      </p>
      {worth.running && (
        <button className="knob min-h-11" onClick={stop}>
          Stop
        </button>
      )}
    </div>
  );
}

function shareTold({ percent, low, high }: ShareView): string {
  if (percent === null) return "–";
  return `${percent.toFixed(1)} (${low.toFixed(1)} to ${high.toFixed(1)})`;
}

function Figures({ rules }: { rules: RuleWorth[] }) {
  return (
    <section aria-label="Figures" className="mt-4 overflow-x-auto">
      <p className="label">In per cent, with 95 % intervals (Wilson)</p>
      <table className="w-full border-collapse text-sm">
        <thead>
          <tr className="border-b border-hair text-right">
            <th className="py-1 pr-3 text-left">Rule</th>
            <th className="px-3">bad ones caught</th>
            <th className="px-3">good ones condemned</th>
            <th className="px-3">healthy sets accused</th>
            <th className="px-3">bursts more, an injector</th>
          </tr>
        </thead>
        <tbody>
          {rules.map((r) => (
            <tr key={r.code} className="border-b border-hair text-right">
              <th scope="row" className={`py-1 pr-3 text-left ${r.chosen ? "" : "font-normal"}`}>
                {r.title}
                {r.shop && <span className="text-soft">, the shop’s own</span>}
                {r.chosen && <span className="text-soft">, chosen</span>}
              </th>
              <td className="figure px-3 whitespace-nowrap">{shareTold(r.caught)}</td>
              <td className="figure px-3 whitespace-nowrap">{shareTold(r.condemned)}</td>
              <td className="figure px-3 whitespace-nowrap">{shareTold(r.accused)}</td>
              <td className="figure px-3">{r.repeats.toFixed(2)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
