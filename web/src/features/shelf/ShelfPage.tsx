/** The shelf: gauges, windows, rules of the shop, layouts. Sheets copy what they take from it. */
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import api, { told, type GaugeView, type ShelfView } from "../../api/client";
import { Head } from "../../app";
import { gaugesQuery, shelfQuery } from "../../lib/store";
import { Dialog, Trouble } from "../../ui/parts";
import { EntryForm, GaugeForm } from "./forms";
import { KIND_NAMES } from "./kinds";

type Open =
  { what: "gauge"; gauge: GaugeView | null } | { what: "window" | "rule"; entry: ShelfView | null };

export default function ShelfPage() {
  const gauges = useQuery(gaugesQuery);
  const shelf = useQuery(shelfQuery);
  const [open, setOpen] = useState<Open | null>(null);
  const client = useQueryClient();
  const drop = useMutation({
    mutationFn: async (one: { gauge?: number; entry?: number }) => {
      // 204 has no body, so the answer itself is looked at.
      const answer = one.gauge
        ? await api.DELETE("/api/gauges/{gauge_id}", { params: { path: { gauge_id: one.gauge } } })
        : await api.DELETE("/api/shelf/{entry_id}", {
            params: { path: { entry_id: one.entry ?? 0 } },
          });
      if (!answer.response.ok) throw new Error("It is not there any more.");
    },
    onSettled: () => {
      void client.invalidateQueries({ queryKey: ["gauges"] });
      void client.invalidateQueries({ queryKey: ["shelf"] });
    },
  });
  const of = (what: string) => (shelf.data ?? []).filter((e) => e.what === what);
  return (
    <>
      <title>Shelf · Plumb</title>
      <Head title="Shelf" sub="gauges, windows, rules, layouts">
        <Link className="knob" to="/">
          Today
        </Link>
      </Head>
      <main className="mx-auto max-w-5xl p-4">
        <h1 className="mb-1 text-2xl font-bold">Shelf</h1>
        <p className="mb-4 text-soft">
          A sheet copies what it takes: changing an entry here never changes a sheet that used it.
          On a sheet, G, W or U and a digit take from here.
        </p>
        <Trouble text={gauges.isError ? told(gauges.error) : null} />
        <Trouble text={drop.isError ? told(drop.error) : null} />
        <Section title="Gauges" add={() => setOpen({ what: "gauge", gauge: null })}>
          {(gauges.data ?? []).map((g) => (
            <Line
              key={g.id}
              name={g.name}
              text={`reads to ${g.step} ${g.unit}${g.lead ? `, leads ${g.lead} ${g.unit}` : ""}${
                g.percent ? `, ±${g.percent} %` : ""
              }${g.counts ? ` + ${g.counts} counts` : ""}`}
              onEdit={() => setOpen({ what: "gauge", gauge: g })}
              onDrop={() => drop.mutate({ gauge: g.id })}
            />
          ))}
        </Section>
        <Section title="Windows" add={() => setOpen({ what: "window", entry: null })}>
          {of("window").map((e) => (
            <Line
              key={e.id}
              name={e.name}
              text={`${KIND_NAMES[e.kind] ?? e.kind}: ${told_(e)}`}
              onEdit={() => setOpen({ what: "window", entry: e })}
              onDrop={() => drop.mutate({ entry: e.id })}
            />
          ))}
        </Section>
        <Section title="Rules of the shop" add={() => setOpen({ what: "rule", entry: null })}>
          {of("rule").map((e) => (
            <Line
              key={e.id}
              name={e.name}
              text={told_(e)}
              onEdit={() => setOpen({ what: "rule", entry: e })}
              onDrop={() => drop.mutate({ entry: e.id })}
            />
          ))}
        </Section>
        <Section title="Layouts">
          {of("layout").map((e) => (
            <Line
              key={e.id}
              name={e.name}
              text={Object.entries(e.values)
                .map(([label, where]) => `${label}${where ? ` ${where}` : ""}`)
                .join("; ")}
              onDrop={() => drop.mutate({ entry: e.id })}
            />
          ))}
        </Section>
        <p className="text-sm text-soft">
          A layout is kept from a job: Banks and feeds, then Keep as a layout.
        </p>
      </main>
      <Editor open={open} onClose={() => setOpen(null)} />
    </>
  );
}

/** An entry's figures in one line. */
function told_(entry: ShelfView): string {
  const short = (key: string) => key.replace(/^windows?\./, "").replaceAll("_", " ");
  return Object.entries(entry.values)
    .map(([key, text]) => `${short(key)} ${text}`)
    .join(", ");
}

interface SectionProps {
  title: string;
  add?: () => void;
  children: React.ReactNode[];
}

function Section({ title, add, children }: SectionProps) {
  return (
    <section aria-label={title} className="mb-6">
      <div className="mb-1 flex items-center gap-3">
        <h2 className="text-lg font-bold">{title}</h2>
        {add && (
          <button className="knob" onClick={add}>
            Add
          </button>
        )}
      </div>
      {children.length === 0 ? (
        <p className="text-sm text-soft">None yet.</p>
      ) : (
        <ul className="rounded-lg border border-hair bg-sheet">{children}</ul>
      )}
    </section>
  );
}

interface LineProps {
  name: string;
  text: string;
  onEdit?: () => void;
  onDrop: () => void;
}

function Line({ name, text, onEdit, onDrop }: LineProps) {
  return (
    <li className="flex flex-wrap items-center gap-2 border-b border-hair px-3 py-1.5 last:border-0">
      <b>{name}</b>
      <span className="min-w-40 flex-1 text-sm text-soft">{text}</span>
      {onEdit && (
        <button className="knob" aria-label={`Change ${name}`} onClick={onEdit}>
          Change
        </button>
      )}
      <button className="knob" aria-label={`Take ${name} off the shelf`} onClick={onDrop}>
        Take off
      </button>
    </li>
  );
}

function Editor({ open, onClose }: { open: Open | null; onClose: () => void }) {
  const there = open && (open.what === "gauge" ? open.gauge : open.entry) !== null;
  const what = open?.what ?? "gauge";
  return (
    <Dialog
      title={`${there ? "Change the" : "A new"} ${what}`}
      open={open !== null}
      onOpenChange={(o) => !o && onClose()}
    >
      {open?.what === "gauge" && <GaugeForm gauge={open.gauge} done={onClose} />}
      {open && open.what !== "gauge" && (
        <EntryForm what={open.what} entry={open.entry} done={onClose} />
      )}
    </Dialog>
  );
}
