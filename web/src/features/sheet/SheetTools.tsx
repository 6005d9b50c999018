/** What every sheet with readings has: CSV in and out, and the help with its keys. */
import { useQuery } from "@tanstack/react-query";
import api, { got, type SheetView } from "../../api/client";
import { catalogueQuery } from "../../lib/store";
import { FileIntake } from "../../ui/FileIntake";
import { Dialog, Kbd } from "../../ui/parts";
import { hasSpells } from "./asks";
import { shapeOf } from "./shapes";

interface CsvProps {
  sheet: SheetView;
  open: boolean;
  onOpen: (open: boolean) => void;
}

/** Readings from and to CSV. */
export function CsvTools({ sheet, open, onOpen }: CsvProps) {
  const quantities: Record<string, string> = {
    burst: "first or second",
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
        <a className="knob" href={`/api/sheets/${sheet.id}/csv`} download>
          Save the readings as CSV
        </a>
      </p>
      <Dialog title="Readings from CSV" open={open} onOpenChange={onOpen} wide>
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
      </Dialog>
    </>
  );
}

const ALWAYS: [string, string][] = [
  ["N", "a note for this reading"],
  ["↑ ↓", "choose a row"],
  ["→", "its passes: correct, mark, note, take back"],
  ["Ctrl Z", "take back the last thing typed here"],
  ["Ctrl Enter", "keep what is asked about as it was typed"],
  ["Alt Enter", "take what is suggested"],
  ["Esc", "empty the line; then: type again what is asked about"],
  ["Space, then arrows", "on a row's handle: move it in the order of reach"],
  ["[ ]", "the sheet before, the sheet after"],
  ["V", "the verdict"],
  ["Shift Enter", "go where the next step is"],
  ["G, then a digit", "a gauge from the shelf"],
  ["W, then a digit", "a window from the shelf"],
  ["U, then a digit", "a rule of the shop"],
  ["/", "find a job"],
  ["?", "this sheet"],
];

function keysOf(sheet: SheetView): [string, string][] {
  const made = shapeOf(sheet).keys(sheet);
  const clock: [string, string][] = hasSpells(sheet)
    ? [["K", "the clock: a cranking spell begins or ends, or the time of idling"]]
    : [];
  // A row that takes one word has no note of its own.
  const always = ALWAYS.filter(([key]) => key !== "N" || sheet.entry.words.length === 0);
  return [...made, ...clock, ...always];
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
