/** The names on a tablet, and a pad for the PIN; elsewhere name and password. */
import { useState } from "react";
import type { Here } from "../../api/client";
import { useOutbox } from "../../lib/store";
import { FirstForm, PasswordForm } from "./forms";
import { Pad } from "./Pad";

type Tile = Here["people"][number];
type Way = { to: "names" | "password" | "code" } | { to: "pin"; tile: Tile };

export default function Door({ here }: { here: Here }) {
  const tablet = here.device !== "";
  const [way, setWay] = useState<Way>({
    to: here.owner_wanted ? "code" : tablet ? "names" : "password",
  });
  return (
    <main className="mx-auto grid min-h-dvh max-w-3xl content-start gap-5 p-5">
      <title>Who is it? · Plumb</title>
      <header className="flex items-center gap-2 text-xl font-bold">
        <img src="/plumb.svg" alt="" className="h-8" /> Plumb
        {tablet && <span className="font-normal text-soft">{here.device}</span>}
      </header>
      <h1 className="text-3xl font-bold">{headingOf(way, here)}</h1>
      <Kept />
      <Body way={way} here={here} go={setWay} />
      <Ways way={way} tablet={tablet} go={setWay} />
    </main>
  );
}

function headingOf(way: Way, here: Here): string {
  if (way.to === "pin") return way.tile.name;
  if (way.to === "names") return "Who is it?";
  if (way.to === "password") return "Come in";
  return here.owner_wanted ? "This shop has no owner yet" : "The first time";
}

function Body({ way, here, go }: { way: Way; here: Here; go: (way: Way) => void }) {
  if (way.to === "pin" && way.tile.pin) return <Pad who={way.tile} />;
  if (way.to === "pin") return <FirstForm name={way.tile.name} pinOnly />;
  if (way.to === "password") return <PasswordForm />;
  if (way.to === "code") return <FirstForm owner={here.owner_wanted} />;
  return <Names people={here.people} pick={(tile) => go({ to: "pin", tile })} />;
}

function Names({ people, pick }: { people: Tile[]; pick: (tile: Tile) => void }) {
  if (people.length === 0) return <p>Nobody belongs to this shop yet. An owner adds people.</p>;
  return (
    <ul aria-label="Names" className="grid gap-3 sm:grid-cols-2">
      {people.map((p) => (
        <li key={p.id}>
          <button
            className="h-full w-full rounded-lg border border-soft bg-sheet px-5 py-6 text-left text-2xl font-bold"
            onClick={() => pick(p)}
          >
            {p.name}
            {!p.pin && <span className="block text-base font-normal text-soft">first time</span>}
          </button>
        </li>
      ))}
    </ul>
  );
}

/** What is still in this browser, and whose: nobody need fear that it is gone. */
function Kept() {
  const { waiting } = useOutbox();
  if (waiting.length === 0) return null;
  const whose = [...new Set(waiting.map((w) => w.by?.name ?? "this workshop"))].join(" and ");
  return (
    <p role="status" className="border-l-4 border-chalk pl-3">
      {waiting.length} {waiting.length === 1 ? "entry" : "entries"} of {whose} wait in this browser;
      they go up when {waiting.length === 1 ? "that person is" : "they are"} here again.
    </p>
  );
}

function Ways({ way, tablet, go }: { way: Way; tablet: boolean; go: (way: Way) => void }) {
  const others: [Way["to"], string][] = [
    ...(tablet ? ([["names", "All names"]] as [Way["to"], string][]) : []),
    ["password", "Name and password"],
    ["code", "I have a code"],
  ];
  return (
    <nav aria-label="Other ways in" className="flex flex-wrap gap-2">
      {others
        .filter(([to]) => to !== way.to)
        .map(([to, words]) => (
          <button key={to} className="knob min-h-12" onClick={() => go({ to } as Way)}>
            {words}
          </button>
        ))}
    </nav>
  );
}
