/** Readings and plumb chart, sharing their rows; rows can be put into the order of reach. */
import {
  closestCenter,
  DndContext,
  KeyboardSensor,
  PointerSensor,
  useSensor,
  useSensors,
  type DragEndEvent,
} from "@dnd-kit/core";
import {
  arrayMove,
  SortableContext,
  sortableKeyboardCoordinates,
  useSortable,
  verticalListSortingStrategy,
} from "@dnd-kit/sortable";
import { CSS } from "@dnd-kit/utilities";
import { useEffect, useRef, type ReactNode } from "react";
import type { ReadingIn, RowView, SheetView } from "../../api/client";
import {
  PlumbFoot,
  PlumbHead,
  PlumbRow,
  plumbScale,
  type Hanging,
  type Scale,
  type Tone,
} from "../../ui/PlumbChart";
import { useLastTime } from "../../lib/store";
import { paired, provisional, type WaitingReading } from "./entry/draft";
import { hasInjectors, rowNoun } from "./asks";
import type { Entry } from "./useEntry";

/** Grid columns for so many figures: the injector, the figures, what it reads as, the chart. */
const GRID: Record<number, string> = {
  0: "grid grid-cols-[5.6rem_minmax(0,1fr)]",
  1: "grid grid-cols-[4.4rem_4.4rem_minmax(0,1fr)] sm:grid-cols-[5.6rem_5rem_minmax(0,1fr)] md:grid-cols-[6.2rem_5rem_9rem_minmax(0,1fr)]",
  2: "grid grid-cols-[4.4rem_4rem_4.4rem_minmax(0,1fr)] sm:grid-cols-[5.6rem_4.6rem_5rem_minmax(0,1fr)] md:grid-cols-[5.6rem_4.4rem_5rem_9rem_minmax(0,1fr)]",
  3: "grid grid-cols-[4.4rem_3.7rem_3.7rem_3.7rem_minmax(0,1fr)] sm:grid-cols-[5.6rem_4.4rem_4.4rem_4.4rem_minmax(0,1fr)] md:grid-cols-[5rem_3.9rem_3.9rem_3.9rem_7.8rem_minmax(0,1fr)] xl:grid-cols-[5.6rem_4.2rem_4.2rem_4.2rem_8.6rem_minmax(0,1fr)]",
};

/** Nozzles say more: what was seen, and the shims planned. */
const NOZZLES =
  "grid grid-cols-[4.2rem_4.6rem_4.4rem_minmax(0,1fr)] sm:grid-cols-[5.2rem_5rem_4rem_minmax(0,1fr)] md:grid-cols-[4.6rem_4.6rem_3.4rem_12rem_minmax(0,1fr)]";

interface Props {
  sheet: SheetView;
  entry: Entry;
  onOrder: (labels: string[]) => void;
  onPasses: (injector: string) => void;
}

/** What carries rows into another order, by pointer and by keyboard. */
function useCarry(labels: string[], onOrder: Props["onOrder"]) {
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 4 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  const onDragEnd = ({ active, over }: DragEndEvent) => {
    if (!over || active.id === over.id) return;
    const from = labels.indexOf(String(active.id));
    const to = labels.indexOf(String(over.id));
    onOrder(arrayMove(labels, from, to));
  };
  return { sensors, onDragEnd, collisionDetection: closestCenter };
}

export function SheetTable({ sheet, entry, onOrder, onPasses }: Props) {
  const scale = plumbScale(sheet.scale);
  const labels = sheet.rows.map((r) => r.injector);
  const carry = useCarry(labels, onOrder);
  const columns = sheet.entry.shape === "stroke" ? NOZZLES : (GRID[sheet.columns.length] ?? "");
  return (
    <div className="rounded-lg border border-hair bg-sheet">
      <DndContext {...carry}>
        <SortableContext items={labels} strategy={verticalListSortingStrategy}>
          <div role="table" aria-label="Readings and where they hang">
            <TableHead sheet={sheet} scale={scale} columns={columns} />
            <div role="rowgroup">
              {sheet.rows.map((row) => (
                <Row
                  key={row.injector}
                  row={row}
                  sheet={sheet}
                  entry={entry}
                  scale={scale}
                  columns={columns}
                  onPasses={onPasses}
                />
              ))}
            </div>
          </div>
        </SortableContext>
      </DndContext>
      {sheet.columns.length > 0 && <TableFoot sheet={sheet} columns={columns} />}
    </div>
  );
}

interface HeadProps {
  sheet: SheetView;
  scale: Scale;
  columns: string;
}

function TableHead({ sheet, scale, columns }: HeadProps) {
  return (
    <div role="rowgroup">
      <div role="row" className={`${columns} h-9 items-center text-sm text-soft`}>
        <span role="columnheader" className="pl-4">
          {rowNoun(sheet)}
        </span>
        {sheet.columns.map((name) => (
          <span key={name} role="columnheader" className="text-right">
            {name}
          </span>
        ))}
        <span role="columnheader" className="pl-3">
          reads as
        </span>
        {sheet.columns.length > 0 && (
          <span role="columnheader" className="relative h-full max-md:sr-only">
            <span className="sr-only">where it hangs, {sheet.scale.unit}</span>
            <PlumbHead scale={scale} />
          </span>
        )}
      </div>
    </div>
  );
}

/** What the set agrees on, and the foot of the chart. */
function TableFoot({ sheet, columns }: Omit<HeadProps, "scale">) {
  return (
    <div className={`${columns} h-12 items-start border-t border-hair text-sm text-soft`}>
      <p
        className="self-center px-4"
        style={{ gridColumn: `1 / span ${sheet.columns.length + 2}` }}
      >
        {sheet.agreeing_shown && (
          <>
            Set agrees on <b className="figure text-ink">{sheet.agreeing_shown}</b> (
            {sheet.agreeing.join(", ")})
          </>
        )}
      </p>
      <span className="relative hidden h-full md:block">
        <PlumbFoot gives={sheet.scale.gives} />
      </span>
    </div>
  );
}

interface RowProps {
  row: RowView;
  sheet: SheetView;
  entry: Entry;
  scale: Scale;
  columns: string;
  onPasses: (injector: string) => void;
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
function useBox(now: boolean, carried: (element: HTMLElement | null) => void) {
  const box = useRef<HTMLDivElement | null>(null);
  useEffect(() => {
    // Jump, so that the row is never under the entry line on a small screen.
    if (now) box.current?.scrollIntoView({ block: "nearest" });
  }, [now]);
  return (element: HTMLDivElement | null) => {
    carried(element);
    box.current = element;
  };
}

function Row({ row, sheet, entry, scale, columns, onPasses }: RowProps) {
  const fixed = !hasInjectors(sheet);
  const { setNodeRef, transform, transition, isDragging, ...grip } = useSortable({
    id: row.injector,
    disabled: fixed,
  });
  const now = entry.shown === row.injector;
  const ref = useBox(now, setNodeRef);
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
      style={{ transform: CSS.Translate.toString(transform), transition }}
      className={`${columns} ${high} scroll-mb-96 scroll-mt-10 border-t border-hair sm:scroll-mb-40 ${
        now ? "bg-wash shadow-[inset_5px_0_0_var(--chalk)]" : ""
      } ${isDragging ? "relative z-10 bg-wash" : ""}`}
    >
      <span role="rowheader" className="flex items-center gap-1 pl-2">
        {fixed ? <span className="w-1.5" /> : <Grip row={row} grip={grip} />}
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
          {waiting ? <Waits waiting={waiting} /> : <Reads row={row} />}
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

interface GripProps {
  row: RowView;
  grip: Pick<ReturnType<typeof useSortable>, "setActivatorNodeRef" | "attributes" | "listeners">;
}

function Grip({ row, grip: { setActivatorNodeRef, attributes, listeners } }: GripProps) {
  return (
    <button
      type="button"
      ref={setActivatorNodeRef}
      {...attributes}
      {...listeners}
      aria-label={`Move injector ${row.injector} in the order of reach`}
      className="h-11 w-6 touch-none text-soft"
    >
      ⠿
    </button>
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

function Reads({ row }: { row: RowView }) {
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
  return (
    <>
      <span className={`block text-sm font-bold ${TONE_CLASS[row.tone] ?? ""}`}>{row.words}</span>
      <span className="block text-xs text-soft">
        {[row.under, several, ...seen, extra, raw].filter(Boolean).join(" · ")}
      </span>
    </>
  );
}
