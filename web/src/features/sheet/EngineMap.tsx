/** The engine from above: banks, front, feeds; a tap chooses an injector. */
import type { RowView, SheetView, VehicleView } from "../../api/client";
import type { Entry } from "./useEntry";

interface Props {
  sheet: SheetView;
  vehicle: VehicleView;
  entry: Entry;
}

/** One column a bank, cylinders from the front; those of one cylinder stand side by side. */
function columns(rows: RowView[]): [string, RowView[][]][] {
  const banks = [...new Set(rows.map((r) => r.bank))].sort();
  return banks.map((bank) => {
    const mine = rows.filter((r) => r.bank === bank).sort((a, b) => a.cylinder - b.cylinder);
    // Who feeds all cylinders has a place of its own.
    const places = [...new Set(mine.map((r) => r.cylinder || r.injector))];
    return [bank, places.map((p) => mine.filter((r) => (r.cylinder || r.injector) === p))];
  });
}

/** The injectors of each feed that is named. */
function fedTogether(rows: RowView[]): Map<string, string[]> {
  const feeds = new Map<string, string[]>();
  for (const row of rows) {
    if (row.feed) feeds.set(row.feed, [...(feeds.get(row.feed) ?? []), row.injector]);
  }
  return feeds;
}

const RING: Record<string, string> = {
  low: "border-low bg-low text-sheet",
  high: "border-high bg-high text-sheet",
  open: "border-open border-dashed",
  "": "border-ink",
};

/** A mark beside the colour, so that colour is never the only sign. */
const SIGN: Record<string, string> = { low: "◂", high: "▸", open: "?", "": "" };

function Seat({ row, entry }: { row: RowView; entry: Entry }) {
  return (
    <span className="flex items-center gap-1">
      <button
        type="button"
        onClick={() => entry.choose(row.injector)}
        aria-label={`Injector ${row.injector}${row.words ? `, ${row.words}` : ""}`}
        aria-pressed={entry.target.injector === row.injector}
        className={`figure h-9 w-9 rounded-full border-2 text-sm font-bold aria-pressed:outline-3 aria-pressed:outline-chalk ${RING[row.tone] ?? ""}`}
      >
        {row.injector}
      </button>
      <span aria-hidden className="w-3 text-sm">
        {SIGN[row.tone] ?? ""}
      </span>
    </span>
  );
}

/** The injectors of one cylinder, side by side. */
function Place({ side, entry }: { side: RowView[]; entry: Entry }) {
  return (
    <li className="flex">
      {side.map((r) => (
        <Seat key={r.injector} row={r} entry={entry} />
      ))}
    </li>
  );
}

function Because({ row }: { row: RowView }) {
  return (
    <p className="mt-1">
      <b>Injector {row.injector}</b> {row.because}.
    </p>
  );
}

export default function EngineMap({ sheet, vehicle, entry }: Props) {
  const feeds = fedTogether(sheet.rows);
  const row = entry.row;
  const partners = row?.feed
    ? sheet.rows.filter((r) => r.feed === row.feed && r.injector !== row.injector)
    : [];
  return (
    <section aria-label="Engine from above" className="mt-4 flex flex-wrap items-start gap-5">
      <div className="off-paper rounded-lg border border-hair bg-sheet px-4 pb-3 pt-1 text-center">
        <p className="text-xs text-soft">▲ front</p>
        <div className="flex gap-5">
          {columns(sheet.rows).map(([bank, rows], n) => (
            <ol
              key={bank}
              className={`grid gap-1.5 ${n % 2 ? "pt-3" : ""}`}
              aria-label={bank ? `bank ${bank}` : "one row"}
            >
              {rows.map((side) => (
                <Place key={side[0]?.injector} side={side} entry={entry} />
              ))}
            </ol>
          ))}
        </div>
      </div>
      <div className="min-w-60 flex-1 text-sm leading-relaxed">
        {feeds.size > 0 && (
          <p>
            <b>Fed together</b> {[...feeds.values()].map((f) => f.join("+")).join(", ")}.{" "}
            {partners.length > 0 &&
              row &&
              `Partner of ${row.injector}: ${partners.map((p) => `${p.injector}${p.words ? `, ${p.words}` : ""}`).join("; ")}.`}
          </p>
        )}
        <p className="text-soft">
          {[vehicle.name, vehicle.registration].filter(Boolean).join(" ")}. Order of reach:{" "}
          {sheet.rows.map((r) => r.injector).join(", ")}.
        </p>
        {row?.because && row.words && <Because row={row} />}
      </div>
    </section>
  );
}
