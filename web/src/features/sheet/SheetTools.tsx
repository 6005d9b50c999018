/** What every sheet with readings has: CSV in and out, and the way to the help. */
import { useQuery } from "@tanstack/react-query";
import { lazy, Suspense } from "react";
import api, { got, type SheetView } from "../../api/client";
import { catalogueQuery } from "../../lib/store";
import { Dialog } from "../../ui/parts";
import { BASE } from "../../lib/base";

// What few need at once comes when it is opened.
const FileIntake = lazy(() => import("../../ui/FileIntake"));
const KeyList = lazy(() => import("./KeyList"));

interface CsvProps {
  sheet: SheetView;
  open: boolean;
  onOpen: (open: boolean) => void;
}

/** Readings from and to CSV. */
export function CsvTools({ sheet, open, onOpen }: CsvProps) {
  const quantities: Record<string, string> = {
    burst: "first or second",
    pair: "wanted or actual",
    point: "t_s or value",
    stroke: "value, shim_mm, seat, sound or spray",
  };
  const largest = useQuery(catalogueQuery).data?.largest;
  return (
    <>
      <p className="mt-3 flex flex-wrap gap-2">
        <button className="knob" onClick={() => onOpen(true)}>
          Bring in readings from CSV
        </button>
        <a className="knob" href={`${BASE}/api/sheets/${sheet.id}/csv`} download>
          Save the readings as CSV
        </a>
      </p>
      <Dialog title="Readings from CSV" open={open} onOpenChange={onOpen} wide>
        <Suspense>
          <FileIntake
            accept=".csv,text/csv"
            most={largest?.csv}
            hint={`One figure a row: injector, pass, quantity (${quantities[sheet.entry.shape] ?? "value"}), value. Comma or semicolon.`}
            send={(text, preview) =>
              got(
                api.POST("/api/sheets/{sheet_id}/csv", {
                  params: { path: { sheet_id: sheet.id }, query: { preview } },
                  body: text,
                  bodySerializer: (body: string) => body,
                  headers: { "Content-Type": "text/csv" },
                }),
              )
            }
            done={() => onOpen(false)}
          />
        </Suspense>
      </Dialog>
    </>
  );
}

interface KeysProps {
  sheet: SheetView;
  open: boolean;
  onOpenChange: (open: boolean) => void;
}

export function Keys({ sheet, open, onOpenChange }: KeysProps) {
  return (
    <Dialog title="Keys" open={open} onOpenChange={onOpenChange}>
      <Suspense>
        <KeyList sheet={sheet} />
      </Suspense>
    </Dialog>
  );
}
