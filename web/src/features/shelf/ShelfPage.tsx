/** The shelf: gauges, windows, rules of the shop, layouts. Sheets copy what they take from it. */
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import api, { told, type GaugeView, type ShelfView } from "../../api/client";
import { catalogueQuery, gaugesQuery, shelfQuery } from "../../lib/store";
import { Head } from "../../ui/Head";
import { Dialog, Trouble } from "../../ui/parts";
import { EVERY_VEHICLE, PRICES } from "../finish/prices";
import { EntryForm, GaugeForm } from "./forms";
import { Learning } from "./Learning";
import { PeriodBook, ShopForm } from "./ShopForm";

type Open =
  { what: "gauge"; gauge: GaugeView | null } | { what: Editable; entry: ShelfView | null };
type Editable = "window" | "rule" | "price" | "box";

/** Take an entry off the shelf. */
function useDrop() {
  const client = useQueryClient();
  return useMutation({
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
}

/** The sheet that a window is for, and the rule that one of the shop's is a variant of. */
function useTitles() {
  const catalogue = useQuery(catalogueQuery).data;
  return {
    sheetOf: (e: ShelfView) => titleOf(catalogue?.kinds, e.kind),
    ruleOf: (e: ShelfView) => titleOf(catalogue?.rules, e.values.name ?? ""),
  };
}

export default function ShelfPage() {
  const gauges = useQuery(gaugesQuery);
  const shelf = useQuery(shelfQuery);
  const [open, setOpen] = useState<Open | null>(null);
  const drop = useDrop();
  return (
    <>
      <title>Shelf · Plumb</title>
      <Head title="Shelf" sub="gauges, windows, rules, prices, layouts">
        <ToToday />
      </Head>
      <main className="mx-auto max-w-5xl p-4">
        <h1 className="mb-1 text-2xl font-bold">Shelf</h1>
        <p className="mb-4 text-soft">
          A sheet copies what it takes: changing an entry here never changes a sheet that used it.
          On a sheet, G, W or U and a digit take from here.
        </p>
        <Trouble text={gauges.isError ? told(gauges.error) : null} />
        <Trouble text={drop.isError ? told(drop.error) : null} />
        <Gauges all={gauges.data ?? []} edit={setOpen} drop={drop.mutate} />
        <Lists all={shelf.data ?? []} edit={setOpen} drop={drop.mutate} />
        <Learning />
        <ShopForm />
        <PeriodBook />
        <p className="mb-4">
          <Link className="underline" to="/journal">
            Who changed what
          </Link>
        </p>
      </main>
      <Editor open={open} onClose={() => setOpen(null)} />
    </>
  );
}

/** Windows, rules, prices and layouts. */
function Lists(entries: Omit<EntriesProps, "title" | "what" | "text">) {
  const { sheetOf, ruleOf } = useTitles();
  return (
    <>
      <Entries
        {...entries}
        title="Windows"
        what="window"
        text={(e) => `${sheetOf(e)}: ${figuresTold(e)}`}
      />
      <Entries
        {...entries}
        title="Rules of the shop"
        what="rule"
        text={(e) => `${ruleOf(e)}: ${figuresTold(e)}`}
      />
      <p className="mb-4 text-sm">
        <Link className="underline" to="/rules">
          What each rule is worth
        </Link>
      </p>
      <Entries
        {...entries}
        title="Prices"
        what="price"
        text={(e) => PRICES.flatMap(([k, label]) => priceTold(e, k, label)).join(", ")}
      />
      <p className="mb-4 text-sm text-soft">
        A price list is named after a vehicle or a part number; “{EVERY_VEHICLE}” holds for all
        others.
      </p>
      <Entries {...entries} title="Burst boxes" what="box" text={boxTold} />
      <p className="mb-4 text-sm text-soft">
        A box on the network works the engine by itself: pump, rest, burst, one injector after the
        other.
      </p>
      <Entries {...entries} title="Layouts" what="layout" text={seatsTold} />
      <p className="mb-4 text-sm text-soft">
        A layout is kept from a job: Vehicle and engine, then Keep as a layout.
      </p>
    </>
  );
}

/** One price in words; nothing where it is not said. */
const priceTold = (entry: ShelfView, key: string, label: string) =>
  entry.values[key] ? [`${label.toLowerCase()} ${entry.values[key]}`] : [];

const ToToday = () => (
  <Link className="knob" to="/">
    Today
  </Link>
);

function gaugeTold(g: GaugeView): string {
  const lead = g.lead ? `, leads ${g.lead} ${g.unit}` : "";
  const percent = g.percent ? `, ±${g.percent} %` : "";
  const counts = g.counts ? ` + ${g.counts} counts` : "";
  const told = g.class_words ? `, ${g.class_words}` : "";
  const where = g.address ? `; asked at ${g.address}` : "";
  return `reads to ${g.step} ${g.unit}${lead}${percent}${counts}${told}${where}`;
}

/** A burst box in one line. */
function boxTold({ values }: ShelfView): string {
  const burst = values.pulses ? `${values.pulses} × ${values.on_ms ?? "10"} ms, ` : "";
  return `${burst}asked at ${values.address ?? ""}`;
}

/** A layout in one line: each injector with its bank and feed. */
function seatsTold(entry: ShelfView): string {
  return Object.entries(entry.values)
    .map(([label, where]) => `${label}${where ? ` ${where}` : ""}`)
    .join("; ");
}

/** What a code is called on the screen. */
function titleOf(of: { code: string; title: string }[] | undefined, code: string): string {
  return of?.find((one) => one.code === code)?.title ?? code;
}

/** An entry's figures in one line; a rule's name is told before them. */
function figuresTold(entry: ShelfView): string {
  const short = (key: string) => key.replace(/^windows?\./, "").replaceAll(/[_.]/g, " ");
  return Object.entries(entry.values)
    .filter(([key]) => key !== "name")
    .map(([key, text]) => `${short(key)} ${text}`)
    .join(", ");
}

interface GaugesProps {
  all: GaugeView[];
  edit: (open: Open) => void;
  drop: (one: { gauge: number }) => void;
}

function Gauges({ all, edit, drop }: GaugesProps) {
  return (
    <Section title="Gauges" add={() => edit({ what: "gauge", gauge: null })}>
      {all.map((g) => (
        <Line
          key={g.id}
          name={g.name}
          text={gaugeTold(g)}
          onEdit={() => edit({ what: "gauge", gauge: g })}
          onDrop={() => drop({ gauge: g.id })}
        />
      ))}
    </Section>
  );
}

interface EntriesProps {
  all: ShelfView[];
  title: string;
  what: Editable | "layout";
  text: (entry: ShelfView) => string;
  edit: (open: Open) => void;
  drop: (one: { entry: number }) => void;
}

/** The entries of one sort. A layout is made and changed on a job, so here it is only listed. */
function Entries({ all, title, what, text, edit, drop }: EntriesProps) {
  const change = (entry: ShelfView | null) =>
    what === "layout" ? undefined : () => edit({ what, entry });
  return (
    <Section title={title} add={change(null)}>
      {all
        .filter((e) => e.what === what)
        .map((e) => (
          <Line
            key={e.id}
            name={e.name}
            text={text(e)}
            onEdit={change(e)}
            onDrop={() => drop({ entry: e.id })}
          />
        ))}
    </Section>
  );
}

interface SectionProps {
  title: string;
  add?: (() => void) | undefined;
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
  onEdit?: (() => void) | undefined;
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
        <EntryForm key={open.what} what={open.what} entry={open.entry} done={onClose} />
      )}
    </Dialog>
  );
}
