/** A vehicle over the years: its visits, the parts in their places, every quantity as lines that hang down. */
import { useQuery } from "@tanstack/react-query";
import { lazy, Suspense, useState } from "react";
import { Link, useParams } from "react-router";
import { longDay } from "../../lib/clock";
import { told } from "../../api/client";
import { Head } from "../../ui/Head";
import { Trouble } from "../../ui/parts";
import { Lines, type By } from "./Lines";
import { Seats } from "./Seats";
import { yearsQuery, type Years } from "./years";

const EngineDialog = lazy(() => import("../job/EngineDialog"));
const NewJobDialog = lazy(async () => ({
  default: (await import("../today/NewJobDialog")).NewJobDialog,
}));
const OldFigures = lazy(() => import("./OldFigures"));

export default function YearsPage() {
  const id = Number(useParams().id);
  const years = useQuery(yearsQuery(id));
  const name = years.data?.vehicle.name ?? "Vehicle";
  return (
    <>
      <title>{`${name} · Plumb`}</title>
      <Head title={name} sub={years.data ? about(years.data) : ""}>
        <Link className="knob" to="/">
          Today
        </Link>
      </Head>
      <main className="mx-auto max-w-7xl p-4">
        <h1 className="text-2xl font-bold">Through the years</h1>
        <Trouble text={years.isError ? told(years.error) : null} />
        {years.data && <Vehicle years={years.data} />}
      </main>
    </>
  );
}

function about({ vehicle, visits }: Years): string {
  const last = visits.find((v) => v.distance)?.distance;
  const far = last ? `${last} ${vehicle.distance_unit}` : "";
  const count = `${visits.length} visit${visits.length === 1 ? "" : "s"}`;
  return [vehicle.registration, count, far].filter(Boolean).join(" · ");
}

function Vehicle({ years }: { years: Years }) {
  const [open, setOpen] = useState<"engine" | "paper" | "visit" | null>(null);
  const close = () => setOpen(null);
  return (
    <>
      <p className="mb-3 flex flex-wrap gap-2">
        <button className="knob min-h-11" onClick={() => setOpen("engine")}>
          Vehicle and engine
        </button>
        <button className="knob min-h-11" onClick={() => setOpen("visit")}>
          A visit from paper
        </button>
        <button className="knob min-h-11" onClick={() => setOpen("paper")}>
          Old figures from paper
        </button>
      </p>
      <Quantities years={years} />
      <Visits years={years} />
      <Seats years={years} />
      <Suspense>
        {open === "engine" && <EngineDialog vehicle={years.vehicle} open onOpenChange={close} />}
        {open === "visit" && <NewJobDialog earlierOf={years.vehicle} open onOpenChange={close} />}
        {open === "paper" && <OldFigures vehicle={years.vehicle} close={close} />}
      </Suspense>
    </>
  );
}

/** One quantity at a time, by place or by part, against date or distance. */
function Quantities({ years }: { years: Years }) {
  const [title, setTitle] = useState("");
  const [by, setBy] = useState<By>({ part: false, distance: false });
  const all = years.quantities;
  const now = all.find((q) => q.title === title) ?? all[0];
  if (!now) return <p className="mb-4">No figures yet: they come with the first sheet.</p>;
  const flip = (change: Partial<By>) => setBy({ ...by, ...change });
  return (
    <section aria-label={now.title} className="mb-5">
      <div className="mb-2 flex flex-wrap gap-2">
        <span role="group" aria-label="Quantity" className="flex flex-wrap gap-2">
          {all.map((q) => (
            <Choice key={q.title} words={q.title} on={q === now} go={() => setTitle(q.title)} />
          ))}
        </span>
        <span role="group" aria-label="Lines" className="flex gap-2">
          <Choice words="by place" on={!by.part} go={() => flip({ part: false })} />
          <Choice words="by part" on={by.part} go={() => flip({ part: true })} />
        </span>
        <span role="group" aria-label="Against" className="flex gap-2">
          <Choice words="date" on={!by.distance} go={() => flip({ distance: false })} />
          <Choice
            words={years.vehicle.distance_unit}
            on={by.distance}
            go={() => flip({ distance: true })}
          />
        </span>
      </div>
      <Lines quantity={now} by={by} unit={years.vehicle.distance_unit} />
    </section>
  );
}

function Choice({ words, on, go }: { words: string; on: boolean; go: () => void }) {
  return (
    <button className="choice min-h-11" aria-pressed={on} onClick={go}>
      {words}
    </button>
  );
}

function Visits({ years }: { years: Years }) {
  return (
    <section aria-label="Visits" className="mb-5">
      <h2 className="mb-1 text-lg font-bold">Visits</h2>
      <ul className="rounded-lg border border-hair bg-sheet">
        {years.visits.map((v) => (
          <li
            key={v.number}
            className="flex flex-wrap items-baseline gap-x-3 border-b border-hair px-3 py-1.5 last:border-0"
          >
            <Link
              className="font-bold underline"
              to={`/jobs/${encodeURIComponent(v.number)}/verdict`}
            >
              Job {v.number}
            </Link>
            <span className="figure">{longDay(v.opened)}</span>
            {v.distance && (
              <span className="figure">
                {v.distance} {years.vehicle.distance_unit}
              </span>
            )}
            <span className="flex-1 text-soft">
              {[v.complaint, ...v.done].filter(Boolean).join(" · ")}
            </span>
            {v.closed && <span className="text-sm text-soft">closed</span>}
          </li>
        ))}
      </ul>
    </section>
  );
}
