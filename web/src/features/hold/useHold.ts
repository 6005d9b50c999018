/** The hold sheet's entry: pressure and time, a clock that runs from the first reading. */
import { useEffect, useMemo, useRef, useState } from "react";
import type { ReadingIn, SheetView } from "../../api/client";
import { useElapsed } from "../../lib/clock";
import { prefsNow } from "../../lib/prefs";
import { outbox, useOutbox } from "../../lib/store";
import { pressureIn, secondsIn } from "../../lib/slips";
import { inUnit, waitingFor, type WaitingReading } from "../sheet/entry/draft";
import { halfTyped, keepHalf } from "../sheet/entry/half";
import { mine, remember } from "../sheet/entry/mine";
import { askingAbout } from "../sheet/entry/refused";

const blank: Omit<ReadingIn, "id"> = {
  injector: "",
  pass_number: null,
  first: null,
  second: null,
  value: null,
  at_s: null,
  word: null,
  spray: null,
  mark: null,
  sound: null,
  fires_at: null,
  note: "",
  by: "",
  replaces: null,
  confirmed: [],
};

/** A hold of yesterday does not run any more. */
const LONGEST_S = 7200;

/** A reading of this sheet goes into the outbox, and is remembered as typed here. */
function put(sheetId: number, reading: Partial<ReadingIn>): void {
  const id = crypto.randomUUID();
  remember(sheetId, id);
  const by = prefsNow().me.trim();
  void outbox.put({ kind: "reading", sheetId, reading: { ...blank, ...reading, by, id } });
}

/** Take back the last thing typed here, saved or not; what is then said. */
function takeBack(sheet: SheetView, waiting: WaitingReading[]): string {
  const unsent = waiting.at(-1);
  if (unsent) {
    if (outbox.wasTried(unsent.seq) && unsent.problems.length === 0) {
      void outbox.put({ kind: "take_back", sheetId: sheet.id, readingId: unsent.reading.id });
    } else void outbox.drop(unsent.seq);
    return "Taken back before it was saved.";
  }
  const live = new Set([
    ...(sheet.hold?.points.map((p) => p.id) ?? []),
    ...(sheet.hold?.tries.map((t) => t.reading_id) ?? []),
  ]);
  const last = mine(sheet.id)
    .reverse()
    .find((id) => live.has(id));
  if (!last) return "Nothing typed here is left to take back.";
  void outbox.put({ kind: "take_back", sheetId: sheet.id, readingId: last });
  return "Took back the last thing typed here.";
}

/** The clock that runs from the first reading: seconds since, and the time to be typed. */
function useClock(sheet: SheetView, waiting: WaitingReading[]) {
  const [begun, setBegun] = useState("");
  const hold = sheet.hold;
  const since = hold?.begun_at === "" ? begun : (hold?.begun_at ?? begun);
  const running = useElapsed(since ? new Date(since).getTime() : null, 1000);
  const elapsed = running !== null && running < LONGEST_S ? running : null;
  const points = waiting.filter((w) => w.reading.at_s !== null && w.reading.at_s !== undefined);
  const first = (hold?.points.length ?? 0) + points.length === 0;
  const auto = first ? "0" : elapsed === null ? "" : String(Math.round(elapsed));
  const begin = () => setBegun(new Date().toISOString());
  return { elapsed, first, auto, begin };
}

interface Half {
  value: string;
  at: string | null;
}

/** The two fields: the pressure, and the time where it is not the clock's. */
function useFields(sheetId: number) {
  const [half] = useState(() => halfTyped(sheetId) as Half | null);
  const [value, setValue] = useState(half?.value ?? "");
  const [at, setAt] = useState<string | null>(half?.at ?? null);
  useEffect(() => {
    keepHalf(sheetId, value !== "" || at !== null ? { value, at } : null);
  }, [sheetId, value, at]);
  const field = useRef<HTMLInputElement>(null);
  const timeField = useRef<HTMLInputElement>(null);
  const put = (pressure: string, after: string | null) => {
    setValue(pressure);
    setAt(after);
  };
  return {
    value,
    setValue,
    at,
    setAt,
    field,
    timeField,
    clear: () => put("", null),
    typeAgain: ({ seq, reading }: WaitingReading) => {
      put(reading.value ?? "", reading.at_s ?? null);
      void outbox.drop(seq);
    },
  };
}

export function useHold(sheet: SheetView) {
  const { waiting: all } = useOutbox();
  const waiting = useMemo(() => waitingFor(sheet.id, all), [sheet.id, all]);
  const { elapsed, first, auto, begin } = useClock(sheet, waiting);
  const fields = useFields(sheet.id);
  const { value, at, field, timeField, clear, typeAgain } = fields;
  const [said, setSaid] = useState("");

  const submit = () => {
    const time = secondsIn(at ?? auto);
    if (pressureIn(value, sheet.gauge.unit) === null) {
      setSaid("Type the pressure; the clock gives the time.");
      return;
    }
    if (time === null) {
      setSaid("Say when it was read: seconds, 20:00 or 20 min.");
      timeField.current?.focus();
      return;
    }
    if (first && time === 0) begin();
    put(sheet.id, { value: inUnit(sheet, value), at_s: String(time) });
    setSaid(`${value} at ${time} s kept.`);
    clear();
    field.current?.focus();
  };
  const asked = waiting.filter((w) => w.problems.length > 0);
  const [refused] = asked;
  return {
    ...fields,
    auto,
    waiting,
    elapsed,
    said,
    submit,
    undo: () => setSaid(takeBack(sheet, waiting)),
    tried: (step: string, word: string) => put(sheet.id, { injector: step, word }),
    asking: refused ? askingAbout(refused, "Here", asked.length, () => typeAgain(refused)) : null,
  };
}

export type HoldEntry = ReturnType<typeof useHold>;
