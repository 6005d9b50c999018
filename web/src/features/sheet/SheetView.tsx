/** Any sheet with rows: conditions, readings beside their bobs, and the entry line. */
import { useEffect, useState } from "react";
import { useNavigate } from "react-router";
import api, { got, told, type SheetView, type VehicleView } from "../../api/client";
import { useReachOrder } from "../../lib/store";
import { FileIntake } from "../../ui/FileIntake";
import { Dialog, Kbd, Trouble } from "../../ui/parts";
import { EngineMap } from "../job/EngineMap";
import { EngineRun } from "./EngineRun";
import { hasMark, hasPasses } from "./entry";
import { command, EntryLine } from "./EntryLine";
import { PumpHeard } from "./Noted";
import { SheetTable } from "./SheetTable";
import { useEntry } from "./useEntry";

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
      <Trouble text={order.isError ? told(order.error) : null} />
      <SheetTable sheet={sheet} entry={entry} onOrder={(labels) => order.mutate(labels)} />
      <EntryLine sheet={sheet} entry={entry} onHelp={() => setDialog("keys")} />
      {sheet.kind === "pressure_drop" && <EngineRun sheet={sheet} />}
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

interface CsvProps {
  sheet: SheetView;
  open: boolean;
  onOpen: (open: boolean) => void;
}

/** Readings from and to CSV. */
export function CsvTools({ sheet, open, onOpen }: CsvProps) {
  const quantities: Record<string, string> = { burst: "first or second", point: "t_s or value" };
  return (
    <>
      <p className="mt-3 flex flex-wrap gap-2">
        <button className="knob" onClick={() => onOpen(true)}>
          Bring in readings from CSV
        </button>
        <a className="knob" href={`/api/sheets/${sheet.id}/csv`} download>
          Save the readings as CSV
        </a>
      </p>
      <Dialog title="Readings from CSV" open={open} onOpenChange={onOpen} wide>
        <FileIntake
          accept=".csv,text/csv"
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
      </Dialog>
    </>
  );
}

const ALWAYS: [string, string][] = [
  ["N", "a note for this reading"],
  ["↑ ↓", "choose a row"],
  ["Ctrl Z", "take back the last thing typed here"],
  ["Space, then arrows", "on a row's handle: move it in the order of reach"],
  ["[ ]", "the sheet before, the sheet after"],
  ["V", "the verdict"],
  ["G, then a digit", "a gauge from the shelf"],
  ["W, then a digit", "a window from the shelf"],
  ["U, then a digit", "a rule of the shop"],
  ["/", "find a job"],
  ["?", "this sheet"],
];

function keysOf(sheet: SheetView): [string, string][] {
  const { shape, over, sprays, words } = sheet.entry;
  if (shape === "words") {
    const letters = words.map((w): [string, string] => [w.key.toUpperCase(), w.label]);
    return [...letters, ...ALWAYS.filter(([key]) => key !== "N")];
  }
  const made: [string, string][] =
    shape === "burst"
      ? [
          ["50 26 Enter", "first and second pressure, kept at once"],
          ["R", "repeat: one more pass of this injector"],
          ["X", "no response: no drop, no click"],
          ["L", "the second pressure was read late"],
          ["B", "a buzz was heard, but no clean click"],
          ["F", "it opened only once the rail had bled down: at which pressure"],
          ["E", "the engine ran: raw fuel is burnt, the key was turned"],
        ]
      : [["12.4 Enter", "the figure, kept at once"]];
  if (shape === "value" && hasPasses(sheet)) {
    made.push(["R", "repeat: one more pass of this injector"]);
  }
  if (shape === "value" && hasMark(sheet)) {
    made.push(over ? ["O", "over: no current passes"] : ["X", "no response"]);
  }
  if (sprays.length > 0) made.push(["S", "the spray: even, streaky, stream, none"]);
  return [...made, ...ALWAYS];
}

interface KeysProps {
  sheet: SheetView;
  open: boolean;
  onOpenChange: (open: boolean) => void;
}

export function Keys({ sheet, open, onOpenChange }: KeysProps) {
  return (
    <Dialog title="Keys" open={open} onOpenChange={onOpenChange}>
      <dl className="grid grid-cols-[auto_1fr] gap-x-4 gap-y-2">
        {keysOf(sheet).map(([key, what]) => (
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
