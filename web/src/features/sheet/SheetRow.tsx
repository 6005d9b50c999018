/** A row of readings: the injector, its figures, what it reads as, where it hangs. */
import { useEffect, useRef, type CSSProperties, type ReactNode } from "react";
import type { ReadingIn, RowView, SheetView } from "../../api/client";
import { useLastTime } from "../../lib/before";
import { PlumbRow, type Hanging, type Scale, type Tone } from "../../ui/PlumbChart";
import { hasInjectors } from "./asks";
import { paired, provisional, type WaitingReading } from "./entry/draft";
import type { Entry } from "./useEntry";

/** What carries a row into another order: its grip, and where it is while it moves. */
export interface Carry {
  setNodeRef: (element: HTMLElement | null) => void;
  style: CSSProperties;
  moves: boolean;
  grip: ReactNode;
}

export interface RowProps {
  row: RowView;
  sheet: SheetView;
  entry: Entry;
  scale: Scale;
  columns: string;
  onPasses: (injector: string) => void;
  /** What it gave on the earlier set that the sheet is held against. */
  gave: string | undefined;
  carry?: Carry;
}

function hangingOf(row: RowView, sheet: SheetView, waits: ReadingIn | undefined): Hanging | null {
  if (row.at !== null && !waits) {
    return {
      at: row.at,
      uncertainty: row.u_at,
      settled: row.settled,
      tone: row.tone as Tone,
    };
  }
  const guess = waits ? provisional(sheet, waits) : null;
  return guess === null
    ? null
    : { at: guess, uncertainty: null, settled: false, tone: "open", provisional: true };
}

/** The figures of a row: what the server says, or what waits to be saved. */
function cellsOf(row: RowView, sheet: SheetView, waits: ReadingIn | undefined): string[] {
  if (!waits) return row.cells.map((c) => c || "·");
  if (paired(sheet)) {
    const two = [waits.first ?? "–", waits.second ?? "–"];
    return sheet.columns.map((_, n) => two[n] ?? "…");
  }
  const shims = waits.shim ?? row.nozzle?.shim ?? "";
  return sheet.columns.map((_, n) =>
    n === 0 ? (waits.value ?? waits.mark ?? "–") : sheet.entry.shape === "stroke" ? shims : "…",
  );
}

/** A row's box is known to what carries it, and is brought into sight when its turn comes. */
function useBox(now: boolean, carried?: (element: HTMLElement | null) => void) {
  const box = useRef<HTMLDivElement | null>(null);
  useEffect(() => {
    // Jump, so that the row is never under the entry line on a small screen.
    if (now) box.current?.scrollIntoView({ block: "nearest" });
  }, [now]);
  return (element: HTMLDivElement | null) => {
    carried?.(element);
    box.current = element;
  };
}

/** One row. What carries it into another order comes later than the row itself. */
export function SheetRow({ row, sheet, entry, scale, columns, onPasses, gave, carry }: RowProps) {
  const now = entry.shown === row.injector;
  const ref = useBox(now, carry?.setNodeRef);
  const waiting = entry.waiting.findLast((w) => w.reading.injector === row.injector);
  const waits = waiting?.reading;
  const cells = cellsOf(row, sheet, waits);
  const high = cells.length > 0 ? "min-h-[3.6rem]" : "min-h-12";
  return (
    <div
      ref={ref}
      role="row"
      data-row={row.injector}
      aria-current={now ? "true" : undefined}
      style={carry?.style}
      className={`${columns} ${high} scroll-mb-96 scroll-mt-10 border-t border-hair sm:scroll-mb-40 ${
        now ? "bg-wash shadow-[inset_5px_0_0_var(--chalk)]" : ""
      } ${carry?.moves ? "relative z-10 bg-wash" : ""}`}
    >
      <span role="rowheader" className="flex items-center gap-1 pl-2">
        {carry?.grip ?? <NoGrip shown={hasInjectors(sheet)} />}
        <RowName row={row} choose={() => entry.choose(row.injector)} />
      </span>
      {cells.map((text, n) => (
        <Figure
          key={sheet.columns[n]}
          text={text}
          strong={n === (sheet.entry.shape === "stroke" ? 0 : cells.length - 1)}
          waits={Boolean(waits)}
        />
      ))}
      <span role="cell" className="grid items-center leading-tight">
        <ToPasses row={row} open={() => onPasses(row.injector)}>
          {waiting ? <Waits waiting={waiting} /> : <Reads row={row} gave={gave} />}
        </ToPasses>
      </span>
      {sheet.columns.length > 0 && <Hangs sheet={sheet} row={row} scale={scale} waits={waits} />}
    </div>
  );
}

interface HangsProps {
  sheet: SheetView;
  row: RowView;
  scale: Scale;
  waits: ReadingIn | undefined;
}

function Hangs({ sheet, row, scale, waits }: HangsProps) {
  return (
    <span
      role="cell"
      className="relative col-span-full h-14 md:col-span-1 md:h-auto short:max-md:hidden"
    >
      <PlumbRow
        scale={scale}
        hanging={hangingOf(row, sheet, waits)}
        path={row.nozzle}
        last={useLastTime(sheet.id).get(row.injector)}
      />
    </span>
  );
}

interface ToPassesProps {
  row: RowView;
  open: () => void;
  children: ReactNode;
}

/** What a row reads as, which opens to its passes once there are any. */
function ToPasses({ row, open, children }: ToPassesProps) {
  if (row.count === 0) return <span className="px-3 py-1">{children}</span>;
  return (
    <button
      type="button"
      data-paper
      aria-label={`Passes of ${row.name || `injector ${row.injector}`}: ${row.words}`}
      className="group flex h-full min-h-12 w-full items-center gap-1 px-3 py-1 text-left"
      onClick={open}
    >
      <span className="grow">{children}</span>
      <span aria-hidden className="off-paper text-soft group-hover:text-ink">
        ›
      </span>
    </button>
  );
}

/** Until it can be carried a row looks as it will; one that is no injector never can. */
function NoGrip({ shown }: { shown: boolean }) {
  return (
    <span aria-hidden className={shown ? "w-6 text-center text-soft" : "w-1.5"}>
      {shown && "⠿"}
    </span>
  );
}

function Waits({ waiting: { reading, problems, seq } }: { waiting: WaitingReading }) {
  const word = reading.word ? `${reading.word}, ` : "";
  // Until it has its place in the browser's own database it is not said to wait safely.
  const kept = seq > 0 ? "waits to be saved" : "…";
  return (
    <span className="text-sm font-bold">
      {word}
      {problems.length > 0 ? "is asked about below" : kept}
    </span>
  );
}

function RowName({ row, choose }: { row: RowView; choose: () => void }) {
  return (
    <button
      type="button"
      data-paper
      className="min-h-11 grow text-left"
      aria-label={`Enter ${row.name || `injector ${row.injector}`}`}
      onClick={choose}
    >
      <span className={row.name ? "font-bold" : "figure block text-xl font-bold leading-none"}>
        {row.name || row.injector}
      </span>
      {row.bank && <span className="whitespace-nowrap text-xs text-soft">bank {row.bank}</span>}
    </button>
  );
}

function Figure({ text, strong, waits }: { text: string; strong?: boolean; waits: boolean }) {
  return (
    <span
      role="cell"
      className={`figure self-center text-right text-lg ${strong ? "font-bold" : ""} ${waits ? "italic" : ""}`}
    >
      {text}
    </span>
  );
}

const TONE_CLASS: Record<string, string> = {
  low: "text-low",
  high: "text-high",
  open: "text-open",
  "": "",
};

function Reads({ row, gave }: { row: RowView; gave: string | undefined }) {
  const marks = row.readings.flatMap((r) => [
    r.mark === "read_late" ? "late" : "",
    r.sound === "buzzes" ? "buzz heard" : "",
    r.fires_at ? `fires at ${r.fires_at}` : "",
    r.spray && !row.nozzle ? `spray ${r.spray}` : "",
    r.note,
  ]);
  const seen = row.nozzle
    ? [
        row.nozzle.seat && `seat ${row.nozzle.seat}`,
        row.nozzle.sound,
        row.nozzle.spray && `spray ${row.nozzle.spray}`,
      ].filter(Boolean)
    : [];
  const extra = [...new Set(marks.filter(Boolean))].join(", ");
  const counts = row.nozzle?.strokes ?? row.figures;
  const several = counts > 1 ? `mean of ${counts}` : "";
  const raw = row.raw > 1 ? `${row.raw} bursts unburnt` : "";
  const before = gave ? `then ${gave}` : "";
  return (
    <>
      <span className={`block text-sm font-bold ${TONE_CLASS[row.tone] ?? ""}`}>{row.words}</span>
      <span className="block text-xs text-soft">
        {[row.under, several, before, ...seen, extra, raw].filter(Boolean).join(" · ")}
      </span>
    </>
  );
}
