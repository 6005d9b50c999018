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
import { useEffect, useRef } from "react";
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
import { provisional } from "./entry";
import type { Entry } from "./useEntry";

const COLUMNS =
  "grid grid-cols-[4.4rem_3.7rem_3.7rem_3.7rem_minmax(0,1fr)] sm:grid-cols-[5.6rem_4.4rem_4.4rem_4.4rem_minmax(0,1fr)] lg:grid-cols-[5.6rem_4.2rem_4.2rem_4.2rem_8.6rem_minmax(0,1fr)]";

interface Props {
  sheet: SheetView;
  entry: Entry;
  onOrder: (labels: string[]) => void;
}

export function DropTable({ sheet, entry, onOrder }: Props) {
  const scale = plumbScale(sheet.corridor_percent);
  const labels = sheet.rows.map((r) => r.injector);
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 4 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  const moved = ({ active, over }: DragEndEvent) => {
    if (!over || active.id === over.id) return;
    const from = labels.indexOf(String(active.id));
    const to = labels.indexOf(String(over.id));
    onOrder(arrayMove(labels, from, to));
  };
  return (
    <div className="rounded-lg border border-hair bg-sheet">
      <DndContext sensors={sensors} collisionDetection={closestCenter} onDragEnd={moved}>
        <SortableContext items={labels} strategy={verticalListSortingStrategy}>
          <div role="table" aria-label="Readings and where they hang">
            <TableHead scale={scale} />
            <div role="rowgroup">
              {sheet.rows.map((row) => (
                <InjectorRow
                  key={row.injector}
                  row={row}
                  sheet={sheet}
                  entry={entry}
                  scale={scale}
                />
              ))}
            </div>
          </div>
        </SortableContext>
      </DndContext>
      <div className={`${COLUMNS} h-12 items-start border-t border-hair text-sm text-soft`}>
        <p className="col-span-5 self-center px-4">
          {sheet.agreeing_drop && !sheet.split && (
            <>
              Set agrees on{" "}
              <b className="figure text-ink">{`${sheet.agreeing_drop} ${sheet.unit}`}</b> (
              {sheet.agreeing.join(", ")})
            </>
          )}
        </p>
        <span className="relative hidden h-full lg:block">
          <PlumbFoot scale={scale} corridor={sheet.corridor_percent} />
        </span>
      </div>
    </div>
  );
}

function TableHead({ scale }: { scale: Scale }) {
  return (
    <div role="rowgroup">
      <div role="row" className={`${COLUMNS} h-9 items-center text-sm text-soft`}>
        <span role="columnheader" className="pl-4">
          Injector
        </span>
        {["first", "second", "drop"].map((name) => (
          <span key={name} role="columnheader" className="text-right">
            {name}
          </span>
        ))}
        <span role="columnheader" className="pl-3">
          reads as
        </span>
        <span role="columnheader" className="relative h-full max-lg:sr-only">
          <span className="sr-only">deviation from the reference, %</span>
          <PlumbHead scale={scale} />
        </span>
      </div>
    </div>
  );
}

interface RowProps {
  row: RowView;
  sheet: SheetView;
  entry: Entry;
  scale: Scale;
}

function hangingOf(row: RowView, sheet: SheetView, waits: ReadingIn | undefined): Hanging | null {
  if (row.deviation_percent !== null && !waits) {
    return {
      deviation: row.deviation_percent,
      uncertainty: row.uncertainty_percent,
      settled: row.settled,
      tone: row.tone as Tone,
    };
  }
  const guess = waits ? provisional(sheet, waits) : null;
  return guess === null
    ? null
    : { deviation: guess, uncertainty: null, settled: false, tone: "open", provisional: true };
}

function InjectorRow({ row, sheet, entry, scale }: RowProps) {
  const {
    setNodeRef,
    setActivatorNodeRef,
    attributes,
    listeners,
    transform,
    transition,
    isDragging,
  } = useSortable({ id: row.injector });
  const box = useRef<HTMLDivElement | null>(null);
  const waits = entry.waiting.findLast((w) => w.reading.injector === row.injector)?.reading;
  const now = entry.target.injector === row.injector;
  useEffect(() => {
    // Jump, so that the row is never under the entry line on a small screen.
    if (now) box.current?.scrollIntoView({ block: "nearest" });
  }, [now]);
  const hanging = hangingOf(row, sheet, waits);
  const first = waits ? (waits.first ?? "–") : row.first || "·";
  const second = waits ? (waits.second ?? "–") : row.second || "·";
  return (
    <div
      ref={(element) => {
        setNodeRef(element);
        box.current = element;
      }}
      role="row"
      aria-current={now ? "true" : undefined}
      style={{ transform: CSS.Translate.toString(transform), transition }}
      className={`${COLUMNS} min-h-[3.6rem] scroll-mb-96 scroll-mt-10 border-t sm:scroll-mb-40 border-hair ${now ? "bg-wash shadow-[inset_5px_0_0_var(--chalk)]" : ""} ${
        isDragging ? "relative z-10 bg-wash" : ""
      }`}
    >
      <span role="rowheader" className="flex items-center gap-1 pl-2">
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
        <button
          type="button"
          className="min-h-11 grow text-left"
          aria-label={`Enter injector ${row.injector}`}
          onClick={() => entry.choose(row.injector)}
        >
          <span className="figure block text-xl font-bold leading-none">{row.injector}</span>
          {row.bank && <span className="whitespace-nowrap text-xs text-soft">bank {row.bank}</span>}
        </button>
      </span>
      <Figure text={first} waits={Boolean(waits)} />
      <Figure text={second} waits={Boolean(waits)} />
      <Figure text={waits ? "…" : row.drop || "·"} strong waits={Boolean(waits)} />
      <span role="cell" className="self-center px-3 py-1 leading-tight">
        {waits ? <span className="text-sm font-bold">waits to be saved</span> : <Reads row={row} />}
      </span>
      <span role="cell" className="relative col-span-full h-14 lg:col-span-1 lg:h-auto">
        <PlumbRow scale={scale} corridor={sheet.corridor_percent} hanging={hanging} />
      </span>
    </div>
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
    r.note,
  ]);
  const extra = [...new Set(marks.filter(Boolean))].join(", ");
  const figures = row.readings.filter((r) => r.second_typed !== null).length;
  const several = figures > 1 ? `mean of ${figures}` : "";
  return (
    <>
      <span className={`block text-sm font-bold ${TONE_CLASS[row.tone] ?? ""}`}>{row.words}</span>
      <span className="block text-xs text-soft">
        {[row.under, several, extra].filter(Boolean).join(" · ")}
      </span>
    </>
  );
}
