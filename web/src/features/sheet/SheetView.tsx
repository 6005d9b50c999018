/** Any sheet with rows: conditions, readings beside their bobs, and the entry line. */
import { lazy, Suspense, useEffect, useState } from "react";
import { useNavigate } from "react-router";
import { told, type SheetView, type VehicleView } from "../../api/client";
import { useReachOrder } from "../../lib/store";
import { Trouble } from "../../ui/parts";
import { EngineMap } from "../job/EngineMap";
import { TraceSlot } from "../trace/TraceSlot";
import { EngineRun } from "./EngineRun";
import { command, EntryLine } from "./EntryLine";
import { PumpHeard } from "./Noted";
import { SheetTable } from "./SheetTable";
import { CsvTools, Keys } from "./SheetTools";
import { useEntry } from "./useEntry";

const Spells = lazy(() => import("./Spells"));

/** Sheets whose figures can come from a trace. */
const TRACED = new Set(["pressure_drop", "cranking_balance"]);

interface Props {
  sheet: SheetView;
  vehicle: VehicleView;
}

export function RowsSheet({ sheet, vehicle }: Props) {
  const entry = useEntry(sheet);
  const order = useReachOrder(vehicle.id);
  const [dialog, setDialog] = useState<"keys" | "csv" | null>(null);
  const navigate = useNavigate();
  const { firstField } = entry;

  useEffect(() => {
    firstField.current?.focus();
  }, [firstField, sheet.id]);

  // Keys work from anywhere on the sheet but from a field, a list or a window of their own.
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      const at = e.target instanceof HTMLElement ? e.target : null;
      // A slash is no figure: it finds a job, from the entry line too.
      if (e.key === "/" && !e.defaultPrevented && at?.closest("section[aria-label=Entry]")) {
        e.preventDefault();
        void navigate("/?find");
        return;
      }
      if (
        e.defaultPrevented ||
        at?.closest("input, select, textarea, [role=dialog], [role=alertdialog]")
      )
        return;
      if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === "z") {
        e.preventDefault();
        entry.undo();
      } else if (e.ctrlKey || e.metaKey || e.altKey) return;
      else if (e.key === "/") {
        e.preventDefault();
        void navigate("/?find");
      } else if (
        (/^\d$/.test(e.key) || (e.key === "-" && sheet.kind === "correction")) &&
        !entry.asking &&
        firstField.current
      ) {
        e.preventDefault();
        entry.setDraft({ ...entry.draft, first: entry.draft.first + e.key });
        firstField.current.focus();
      } else if (!at?.closest("button, a") || !e.key.startsWith("Arrow"))
        command(e, sheet, entry, () => setDialog("keys"));
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  });

  return (
    <>
      {sheet.kind === "supply_pressure" && <PumpHeard sheet={sheet} />}
      {sheet.kind === "return_volume" && (
        <Suspense>
          <Spells key={sheet.id} sheet={sheet} />
        </Suspense>
      )}
      <Trouble text={order.isError ? told(order.error) : null} />
      <SheetTable sheet={sheet} entry={entry} onOrder={(labels) => order.mutate(labels)} />
      <EntryLine sheet={sheet} entry={entry} onHelp={() => setDialog("keys")} />
      {sheet.kind === "pressure_drop" && <EngineRun sheet={sheet} />}
      {TRACED.has(sheet.kind) && <TraceSlot sheet={sheet} />}
      {sheet.kind !== "supply_pressure" && (
        <EngineMap sheet={sheet} vehicle={vehicle} entry={entry} />
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
