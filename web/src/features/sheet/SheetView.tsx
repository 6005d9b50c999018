/** Any sheet with rows: conditions, readings beside their bobs, and the entry line. */
import { lazy, Suspense, useEffect, useState } from "react";
import { told, type SheetView, type VehicleView } from "../../api/client";
import { useReachOrder } from "../../lib/store";
import { Trouble } from "../../ui/parts";
import { TraceSlot } from "../trace/TraceSlot";
import { EngineRun } from "./EngineRun";
import { EngineMap } from "./EngineMap";
import { EntryLine } from "./EntryLine";
import { PumpHeard } from "./Noted";
import { SheetTable } from "./SheetTable";
import { CsvTools, Keys } from "./SheetTools";
import { hasInjectors, hasSpells } from "./asks";
import { useEntry } from "./useEntry";
import { useSheetKeys } from "./useSheetKeys";

const Spells = lazy(() => import("./Spells"));

interface Props {
  sheet: SheetView;
  vehicle: VehicleView;
}

export function RowsSheet({ sheet, vehicle }: Props) {
  const entry = useEntry(sheet);
  const order = useReachOrder(vehicle.id);
  const [dialog, setDialog] = useState<"keys" | "csv" | null>(null);
  const { firstField } = entry;

  useEffect(() => {
    firstField.current?.focus();
  }, [firstField, sheet.id]);

  useSheetKeys({ sheet, entry, onHelp: () => setDialog("keys") });

  return (
    <>
      {sheet.form && <PumpHeard sheet={sheet} />}
      {hasSpells(sheet) && (
        <Suspense>
          <Spells key={sheet.id} sheet={sheet} />
        </Suspense>
      )}
      <Trouble text={order.isError ? told(order.error) : null} />
      <SheetTable sheet={sheet} entry={entry} onOrder={(labels) => order.mutate(labels)} />
      <EntryLine sheet={sheet} entry={entry} onHelp={() => setDialog("keys")} />
      {sheet.entry.shape === "burst" && <EngineRun sheet={sheet} />}
      {sheet.traced && <TraceSlot sheet={sheet} />}
      {hasInjectors(sheet) && <EngineMap sheet={sheet} vehicle={vehicle} entry={entry} />}
      <CsvTools sheet={sheet} open={dialog === "csv"} onOpen={(o) => setDialog(o ? "csv" : null)} />
      <Keys
        sheet={sheet}
        open={dialog === "keys"}
        onOpenChange={(o) => setDialog(o ? "keys" : null)}
      />
    </>
  );
}
