/** Any sheet with rows: conditions, readings beside their bobs, and the entry line. */
import { lazy, Suspense, useEffect, useState, type ComponentProps, type ReactNode } from "react";
import { told, type SheetView, type VehicleView } from "../../api/client";
import { outbox, useReachOrder } from "../../lib/store";
import { Trouble } from "../../ui/parts";
import { EntryLine } from "./EntryLine";
import { SheetTable } from "./SheetTable";
import { CsvTools, Keys } from "./SheetTools";
import { hasInjectors, hasSpells } from "./asks";
import { useEntry, type Entry } from "./useEntry";
import { useSheetKeys } from "./useSheetKeys";

const ClosedNote = lazy(() => import("../job/ClosedNote"));
const EngineMap = lazy(() => import("./EngineMap"));
const PumpHeard = lazy(() => import("./Noted").then((m) => ({ default: m.PumpHeard })));
const Looked = lazy(() => import("./Noted").then((m) => ({ default: m.Looked })));
const EngineRun = lazy(() => import("./EngineRun"));
const TraceSlot = lazy(() => import("../trace/TraceSlot"));
const Spells = lazy(() => import("./Spells"));
const Passes = lazy(() => import("./Passes"));

interface Props {
  sheet: SheetView;
  vehicle: VehicleView;
  /** What stands right under the entry line. */
  beneath: ReactNode;
}

export function RowsSheet({ sheet, vehicle, beneath }: Props) {
  const entry = useEntry(sheet);
  useBegunAt(entry, sheet);
  const order = useReachOrder(vehicle.id);
  const [dialog, setDialog] = useState<"keys" | "csv" | null>(null);
  const [opened, setOpened] = useState<string | null>(null);
  const keys = { sheet, entry, onHelp: () => setDialog("keys"), onPasses: setOpened };
  useSheetKeys(keys);

  return (
    <>
      <Suspense>
        {sheet.form &&
          (sheet.form.looked === null ? <PumpHeard sheet={sheet} /> : <Looked sheet={sheet} />)}
      </Suspense>
      {hasSpells(sheet) && (
        <Suspense>
          <Spells key={sheet.id} sheet={sheet} />
        </Suspense>
      )}
      <Trouble text={order.isError ? told(order.error) : null} />
      <SheetTable {...keys} onOrder={(labels) => order.mutate(labels)} />
      <Entered {...keys} />
      {beneath}
      <Opened sheet={sheet} row={opened} close={() => setOpened(null)} entry={entry} />
      <Suspense>
        {sheet.entry.shape === "burst" && <EngineRun sheet={sheet} />}
        {sheet.traced && <TraceSlot sheet={sheet} />}
      </Suspense>
      {hasInjectors(sheet) && (
        <Suspense>
          <EngineMap sheet={sheet} vehicle={vehicle} entry={entry} />
        </Suspense>
      )}
      <CsvTools sheet={sheet} open={dialog === "csv"} onOpen={(o) => setDialog(o ? "csv" : null)} />
      <Keys
        sheet={sheet}
        open={dialog === "keys"}
        onOpenChange={(o) => setDialog(o ? "keys" : null)}
      />
    </>
  );
}

/** A sheet that is opened is ready to be typed into; one that gets its real name stays as it is. */
function useBegunAt({ firstField }: Entry, sheet: SheetView): void {
  const born = outbox.originOf(sheet.id);
  useEffect(() => {
    firstField.current?.focus();
  }, [firstField, born]);
}

/** The entry line; on a closed job what stands in its place. */
function Entered(props: ComponentProps<typeof EntryLine>) {
  if (!props.sheet.closed) return <EntryLine {...props} />;
  return (
    <Suspense>
      <ClosedNote number={props.sheet.job_number} />
    </Suspense>
  );
}

interface OpenedProps {
  sheet: SheetView;
  row: string | null;
  close: () => void;
  entry: Entry;
}

/** The row that was opened to its passes. */
function Opened({ sheet, row, close, entry }: OpenedProps) {
  if (row === null) return null;
  return (
    <Suspense>
      <Passes
        sheet={sheet}
        row={row}
        close={close}
        correct={(reading) => entry.correct(row, reading)}
      />
    </Suspense>
  );
}
