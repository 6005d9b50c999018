/** The drop sheet: conditions, readings beside their bobs, and the entry line. */
import { useEffect, useState } from "react";
import { useNavigate } from "react-router";
import api, { got, told, type SheetView, type VehicleView } from "../../api/client";
import { useReachOrder } from "../../lib/store";
import { FileIntake } from "../../ui/FileIntake";
import { Dialog, Kbd, Trouble } from "../../ui/parts";
import { EngineMap } from "../job/EngineMap";
import { Conditions } from "./Conditions";
import { DropTable } from "./DropTable";
import { command, EntryLine } from "./EntryLine";
import { useEntry } from "./useEntry";

interface Props {
  sheet: SheetView;
  vehicle: VehicleView;
}

export function DropSheet({ sheet, vehicle }: Props) {
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
      } else if (/^\d$/.test(e.key) && !entry.asking) {
        e.preventDefault();
        entry.setDraft({ ...entry.draft, first: entry.draft.first + e.key });
        firstField.current?.focus();
      } else if (!at?.closest("button, a") || !e.key.startsWith("Arrow"))
        command(e, entry, () => setDialog("keys"));
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  });

  return (
    <>
      <div className="mb-2 flex flex-wrap items-baseline gap-x-3">
        <h1 className="text-2xl font-bold">Drop per injector</h1>
        <p className="text-soft max-sm:hidden">
          key on, engine off · pump off · one burst per key cycle
        </p>
      </div>
      <Conditions sheet={sheet} />
      <Trouble text={order.isError ? told(order.error) : null} />
      <DropTable sheet={sheet} entry={entry} onOrder={(labels) => order.mutate(labels)} />
      <EntryLine sheet={sheet} entry={entry} onHelp={() => setDialog("keys")} />
      <EngineMap sheet={sheet} vehicle={vehicle} entry={entry} />
      <p className="mt-3 flex flex-wrap gap-2">
        <button className="knob" onClick={() => setDialog("csv")}>
          Bring in readings from CSV
        </button>
        <a className="knob" href={`/api/sheets/${sheet.id}/csv`} download>
          Save the readings as CSV
        </a>
      </p>
      <Keys open={dialog === "keys"} onOpenChange={(o) => setDialog(o ? "keys" : null)} />
      <Dialog
        title="Readings from CSV"
        open={dialog === "csv"}
        onOpenChange={(o) => setDialog(o ? "csv" : null)}
        wide
      >
        <FileIntake
          accept=".csv,text/csv"
          hint="One figure a row: injector, pass, quantity (first or second), value. Comma or semicolon."
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
          done={() => setDialog(null)}
        />
      </Dialog>
    </>
  );
}

const KEYS: [string, string][] = [
  ["50 26 Enter", "first and second pressure, kept at once"],
  ["R", "repeat: one more pass of this injector"],
  ["X", "no response: no drop, no click"],
  ["L", "the second pressure was read late"],
  ["B", "a buzz was heard, but no clean click"],
  ["N", "a note for this burst"],
  ["↑ ↓", "choose an injector"],
  ["Ctrl Z", "take back the last thing typed here"],
  ["Space, then arrows", "on a row's handle: move it in the order of reach"],
  ["/", "find a job"],
  ["?", "this sheet"],
];

function Keys({ open, onOpenChange }: { open: boolean; onOpenChange: (open: boolean) => void }) {
  return (
    <Dialog title="Keys" open={open} onOpenChange={onOpenChange}>
      <dl className="grid grid-cols-[auto_1fr] gap-x-4 gap-y-2">
        {KEYS.map(([key, what]) => (
          <div key={key} className="contents">
            <dt>
              <Kbd>{key}</Kbd>
            </dt>
            <dd>{what}</dd>
          </div>
        ))}
      </dl>
    </Dialog>
  );
}
