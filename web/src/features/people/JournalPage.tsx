/** Who changed what: searched, handed on, and looked over whether an entry was touched. */
import { useInfiniteQuery } from "@tanstack/react-query";
import { useDeferredValue, useState } from "react";
import { Link, useSearchParams } from "react-router";
import { told } from "../../api/client";
import { useHere } from "../../lib/here";
import { Head } from "../../ui/Head";
import { BusyButton, Text, Trouble } from "../../ui/parts";
import { journalQuery, mayDo, useCheck, WORKSHOP, type Change, type Wanted } from "./people";

export default function JournalPage() {
  const [params] = useSearchParams();
  const [wanted, setWanted] = useState<Wanted>({
    job: params.get("job") ?? "",
    by: "",
    what: "",
    find: "",
  });
  const pages = useInfiniteQuery(journalQuery(useDeferredValue(wanted)));
  const first = pages.data?.pages[0];
  const all = pages.data?.pages.flatMap((p) => p.changes) ?? [];
  return (
    <>
      <title>Who changed what · Plumb</title>
      <Head title="Who changed what" sub="every change, as it was and as it became">
        <Link className="knob" to="/">
          Today
        </Link>
      </Head>
      <main className="mx-auto max-w-5xl p-4">
        <h1 className="mb-3 text-2xl font-bold">Who changed what</h1>
        <Narrow
          wanted={wanted}
          set={(change) => setWanted({ ...wanted, ...change })}
          names={first?.names ?? []}
          things={first?.things ?? []}
        />
        <Seals />
        <Trouble text={pages.isError ? told(pages.error) : null} />
        {pages.isSuccess && <Entries all={all} />}
        {pages.hasNextPage && (
          <BusyButton
            className="knob mt-3 min-h-12"
            busy={pages.isFetchingNextPage}
            onClick={() => void pages.fetchNextPage()}
          >
            Older ones
          </BusyButton>
        )}
      </main>
    </>
  );
}

interface NarrowProps {
  wanted: Wanted;
  set: (change: Partial<Wanted>) => void;
  names: string[];
  things: string[];
}

function Narrow({ wanted, set, names, things }: NarrowProps) {
  return (
    <form
      role="search"
      aria-label="Changes"
      className="mb-3 grid gap-x-3 sm:grid-cols-2 lg:grid-cols-4"
      onSubmit={(e) => e.preventDefault()}
    >
      <Text label="Job" value={wanted.job} onChange={(job) => set({ job: job.trim() })} />
      <Text label="A word or figure" value={wanted.find} onChange={(find) => set({ find })} />
      <Pick
        label="By"
        value={wanted.by}
        of={names.map((n) => n || WORKSHOP)}
        pick={(by) => set({ by })}
      />
      <Pick label="What" value={wanted.what} of={things} pick={(what) => set({ what })} />
    </form>
  );
}

interface PickProps {
  label: string;
  value: string;
  of: string[];
  pick: (value: string) => void;
}

function Pick({ label, value, of, pick }: PickProps) {
  return (
    <label className="mb-2">
      <span className="label">{label}</span>
      <select className="field" value={value} onChange={(e) => pick(e.target.value)}>
        <option value="">anything</option>
        {of.map((o) => (
          <option key={o} value={o}>
            {o.replaceAll("_", " ")}
          </option>
        ))}
      </select>
    </label>
  );
}

/** Whether every entry is what it was. */
function Seals() {
  const here = useHere();
  const check = useCheck();
  const found = check.data;
  return (
    <div className="mb-4 flex flex-wrap items-center gap-3">
      <BusyButton className="knob min-h-11" busy={check.isPending} onClick={() => check.mutate()}>
        {check.isPending ? "Looking…" : "Look over every entry"}
      </BusyButton>
      {mayDo(here, "owner") && (
        <a className="knob min-h-11" href="/api/journal/entries" download>
          Hand it on
        </a>
      )}
      <Trouble text={check.isError ? told(check.error) : null} />
      {found && (
        <p role="status" className={found.wrong ? "border-l-4 border-high pl-3 font-bold" : ""}>
          {found.wrong
            ? `Not as it was: ${found.wrong}.`
            : `${found.entries} entries, none changed, none missing.`}
        </p>
      )}
    </div>
  );
}

function Entries({ all }: { all: Change[] }) {
  if (all.length === 0) return <p>Nothing like that was changed.</p>;
  return (
    <ol aria-label="Changes">
      {all.map((c) => (
        <Entry key={c.id} change={c} />
      ))}
    </ol>
  );
}

function Entry({ change }: { change: Change }) {
  const at = new Date(change.at).toLocaleString("en-GB", {
    dateStyle: "medium",
    timeStyle: "medium",
  });
  return (
    <li className="border-b border-hair py-2">
      <p>
        <b>{change.by || WORKSHOP}</b>
        {change.device && ` at ${change.device}`}: {change.what.replaceAll("_", " ")} {change.doing}
        {change.job && (
          <>
            {" · "}
            <Link className="underline" to={`/jobs/${encodeURIComponent(change.job)}`}>
              job {change.job}
            </Link>
          </>
        )}
        {change.where && ` · ${change.where}`}
        <span className="text-sm text-soft"> {at}</span>
      </p>
      <dl className="figure flex flex-wrap gap-x-4 text-sm">
        {change.fields.map((f) => (
          <div key={f.field} className="flex min-w-0 flex-wrap gap-x-1.5">
            <dt className="text-soft">{f.field}</dt>
            <dd className="min-w-0 wrap-anywhere">
              {f.was && <s className="text-soft">{f.was}</s>} {f.became}
            </dd>
          </div>
        ))}
      </dl>
    </li>
  );
}
