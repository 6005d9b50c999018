/** A row opened to its passes: who took each, when, with which mark and note; each can be mended. */
import { useQuery } from "@tanstack/react-query";
import { useRef, useState, type KeyboardEvent } from "react";
import api, { got, told, type ReadingIn, type ReadingView, type SheetView } from "../../api/client";
import { setPrefs, usePrefs } from "../../lib/prefs";
import { outbox, shownUnitQuery, useOutbox } from "../../lib/store";
import { Dialog, Kbd, Text, Trouble, shortly } from "../../ui/parts";
import { hasPasses, waitingFor } from "./entry/draft";
import { calledIn } from "./entry/keeping";
import { remember } from "./entry/mine";
import { amended } from "./entry/mending";
import { shownOf } from "../../lib/aside";

interface Props {
  sheet: SheetView;
  row: string | null;
  close: () => void;
  /** Put a pass back into the entry line, to be typed anew in its place. */
  correct: (reading: ReadingView) => void;
}

function useReadings(sheet: SheetView, row: string | null) {
  return useQuery({
    queryKey: ["passes", sheet.id, row, sheet.version, sheet.unit],
    enabled: row !== null,
    // What was there stays in sight until the newer list has come.
    placeholderData: (old: ReadingView[] | undefined) => old,
    queryFn: () =>
      got(
        api.GET("/api/sheets/{sheet_id}/rows/{row}/readings", {
          params: { path: { sheet_id: sheet.id, row: row ?? "" }, query: shownUnitQuery() },
        }),
      ),
  });
}

export default function Passes({ sheet, row, close, correct }: Props) {
  const readings = useReadings(sheet, row);
  const { waiting } = useOutbox();
  const waits = waitingFor(sheet.id, waiting).filter((w) => w.reading.injector === row);
  const several = hasPasses(sheet) ? "passes" : "reading";
  return (
    <Dialog
      title={`${calledIn(sheet, row ?? "")}: its ${several}`}
      open={row !== null}
      onOpenChange={(open) => !open && close()}
      wide
    >
      <Trouble text={readings.isError ? told(readings.error) : null} />
      {readings.data?.length === 0 && waits.length === 0 && <p>Nothing is noted here yet.</p>}
      <ol className="grid gap-2">
        {readings.data?.map((reading, n) => (
          <Pass
            key={reading.pass_number}
            reading={reading}
            sheet={sheet}
            row={row ?? ""}
            first={n === 0}
            correct={() => {
              close();
              correct(reading);
            }}
          />
        ))}
        {waits.map((w) => (
          <li key={w.seq} className="rounded-lg border border-hair bg-field p-3 italic">
            {shownOf(w.reading)}{" "}
            {w.problems.length > 0 ? "is asked about on the entry line" : "waits to be saved"}
          </li>
        ))}
      </ol>
      <Signed />
    </Dialog>
  );
}

/** Whose readings are typed in this browser. */
function Signed() {
  const { me } = usePrefs();
  return (
    <div className="mt-4 max-w-xs">
      <Text
        label="Readings typed in this browser are taken by"
        value={me}
        onChange={(name) => setPrefs({ me: name.slice(0, 40) })}
      />
    </div>
  );
}

interface PassProps {
  reading: ReadingView;
  sheet: SheetView;
  row: string;
  first: boolean;
  correct: () => void;
}

/** The same reading with one thing changed, in its place. */
function mend(sheet: SheetView, row: string, reading: ReadingView, change: Partial<ReadingIn>) {
  const made = amended(crypto.randomUUID(), sheet, row, reading, change);
  remember(sheet.id, made.id);
  void outbox.put({ kind: "reading", sheetId: sheet.id, reading: made });
}

/** A pass is taken back with whatever it corrected. */
function takeOff(sheetId: number, readingId: string): void {
  void outbox.put({ kind: "take_back", sheetId, readingId, altogether: true });
}

const WORDS: Record<string, string> = {
  none: "no response",
  not_read: "not read",
  read_late: "read late",
  over: "over",
};

/** What is noted beside the figure. */
function beside(reading: ReadingView): string {
  return [
    reading.typed_as && `typed ${reading.typed_as}`,
    reading.captured && `captured from ${reading.captured}`,
    WORDS[reading.mark ?? ""],
    reading.sound === "buzzes" ? "buzz heard" : reading.sound,
    reading.fires_at && `fires at ${reading.fires_at}`,
    reading.supply_v && `tester at ${reading.supply_v} V`,
    reading.spray && `spray ${reading.spray}`,
    reading.seat && `seat ${reading.seat}`,
    reading.shim && `shims ${reading.shim}`,
    reading.note,
  ]
    .filter(Boolean)
    .join(", ");
}

function taken(reading: ReadingView): string {
  const at = shortly(reading.taken);
  return reading.by === "" ? at : `${at}, ${reading.by}`;
}

/** Up and down go from pass to pass, letters do what the buttons do. */
function passKey(e: KeyboardEvent<HTMLLIElement>, acts: Record<string, () => void>): void {
  if (e.target instanceof HTMLInputElement || e.ctrlKey || e.metaKey || e.altKey) return;
  const beside = e.key === "ArrowDown" ? "nextElementSibling" : "previousElementSibling";
  const act = e.key.startsWith("Arrow")
    ? () => e.currentTarget[beside]?.querySelector("button")?.focus()
    : acts[e.key.toLowerCase()];
  if (!act) return;
  e.preventDefault();
  e.stopPropagation();
  act();
}

function Pass({ reading, sheet, row, first, correct }: PassProps) {
  const [note, setNote] = useState<string | null>(null);
  const box = useRef<HTMLLIElement>(null);
  const figures = reading.first_typed ?? reading.value_typed;
  const mayBeLate = figures !== null && ["burst", "value"].includes(sheet.entry.shape);
  const late = reading.mark === "read_late";
  const acts: Record<string, () => void> = {
    c: correct,
    n: () => setNote(reading.note),
    delete: () => takeOff(sheet.id, reading.id),
    ...(mayBeLate && {
      l: () => mend(sheet, row, reading, { mark: late ? null : "read_late" }),
    }),
  };
  const keepNote = (text: string | null) => {
    if (text !== null && text.trim() !== reading.note)
      mend(sheet, row, reading, { note: text.trim() });
    setNote(null);
    // Once the buttons stand there again.
    setTimeout(() => box.current?.querySelector("button")?.focus(), 0);
  };
  return (
    <li
      ref={box}
      className="grid gap-2 rounded-lg border border-hair bg-field p-3"
      onKeyDown={(e) => passKey(e, acts)}
    >
      <p className="flex flex-wrap items-baseline gap-x-3">
        {hasPasses(sheet) && <span className="text-soft">pass {reading.pass_number}</span>}
        <b className="figure text-lg">{reading.shown}</b>
        <span>{beside(reading)}</span>
        <span className="ml-auto text-sm text-soft">{taken(reading)}</span>
      </p>
      {note === null ? (
        <PassKnobs acts={acts} late={mayBeLate ? late : null} first={first} />
      ) : (
        <NoteLine value={note} onChange={setNote} onDone={keepNote} />
      )}
    </li>
  );
}

interface KnobsProps {
  acts: Record<string, () => void>;
  late: boolean | null;
  first: boolean;
}

function PassKnobs({ acts, late, first }: KnobsProps) {
  return (
    <p className="flex flex-wrap gap-2">
      <button className="knob min-h-12" autoFocus={first} onClick={acts.c}>
        Correct <Kbd>C</Kbd>
      </button>
      {late !== null && (
        <button className="knob min-h-12" aria-pressed={late} onClick={acts.l}>
          Read late <Kbd>L</Kbd>
        </button>
      )}
      <button className="knob min-h-12" onClick={acts.n}>
        Note <Kbd>N</Kbd>
      </button>
      <button className="knob min-h-12" onClick={acts.delete}>
        Take back <Kbd>Del</Kbd>
      </button>
    </p>
  );
}

interface NoteProps {
  value: string;
  onChange: (text: string) => void;
  onDone: (text: string | null) => void;
}

function NoteLine({ value, onChange, onDone }: NoteProps) {
  return (
    <label className="block">
      <span className="text-sm text-soft">Note, then Enter</span>
      <input
        autoFocus
        className="field"
        maxLength={500}
        value={value}
        onChange={(e) => onChange(e.target.value)}
        onKeyDown={(e) => {
          if (e.key !== "Enter" && e.key !== "Escape") return;
          e.preventDefault();
          e.stopPropagation();
          onDone(e.key === "Enter" ? value : null);
        }}
      />
    </label>
  );
}
