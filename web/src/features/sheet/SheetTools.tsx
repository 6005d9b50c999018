/** What every sheet with readings has: CSV in and out, and the help with its keys. */
import api, { got, type SheetView } from "../../api/client";
import { FileIntake } from "../../ui/FileIntake";
import { Dialog, Kbd } from "../../ui/parts";
import { hasMark, hasPasses } from "./entry";

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
  if (shape === "stroke") {
    made.push(
      ["125.5 1.04 Enter", "opening pressure, and the shims inside where they changed"],
      ["C", "the sound: chatters, weak, silent"],
      ["S", "the spray: even, streaky, stream, none"],
      ["T", "hold the seat for 10 s; then D dry, M damp, W wet"],
      ["R", "repeat: one more stroke of this nozzle"],
      ["X", "no pressure builds"],
    );
    return [...made, ...ALWAYS];
  }
  if (shape === "value" && hasPasses(sheet)) {
    made.push(["R", "repeat: one more pass of this injector"]);
  }
  if (shape === "value" && hasMark(sheet)) {
    made.push(over ? ["O", "over: no current passes"] : ["X", "no response"]);
  }
  if (sheet.kind === "return_volume") {
    made.push(["K", "the clock: a cranking spell begins or ends, or the time of idling"]);
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
