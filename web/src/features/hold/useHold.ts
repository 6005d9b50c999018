/** The hold sheet's entry: pressure and time, a clock that runs from the first reading. */
import { useCallback, useMemo, useRef, useState } from "react";
import type { ReadingIn, SheetView } from "../../api/client";
import { useElapsed } from "../../lib/clock";
import { outbox, useOutbox } from "../../lib/store";
import { parseTyped } from "../../lib/slips";
import { waitingFor } from "../sheet/entry";
import { mine, remember } from "../sheet/mine";
import { serverAsking } from "../sheet/useEntry";

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
  replaces: null,
  confirmed: [],
};

/** A hold of yesterday does not run any more. */
const LONGEST_S = 7200;

export function useHold(sheet: SheetView) {
  const { waiting: all } = useOutbox();
  const waiting = useMemo(() => waitingFor(sheet.id, all), [sheet.id, all]);
  const [begun, setBegun] = useState("");
  const [value, setValue] = useState("");
  const [at, setAt] = useState<string | null>(null);
  const [said, setSaid] = useState("");
  const field = useRef<HTMLInputElement>(null);
  const timeField = useRef<HTMLInputElement>(null);
  const hold = sheet.hold;
  const since = hold?.begun_at === "" ? begun : (hold?.begun_at ?? begun);
  const running = useElapsed(since ? new Date(since).getTime() : null, 1000);
  const elapsed = running !== null && running < LONGEST_S ? running : null;
  const points = waiting.filter((w) => w.reading.at_s !== null && w.reading.at_s !== undefined);
  const first = (hold?.points.length ?? 0) + points.length === 0;
  const auto = first ? "0" : elapsed === null ? "" : String(Math.round(elapsed));

  const put = useCallback(
    (reading: Partial<ReadingIn>) => {
      const id = crypto.randomUUID();
      remember(sheet.id, id);
      void outbox.put({
        kind: "reading",
        sheetId: sheet.id,
        reading: { ...blank, ...reading, id },
      });
    },
    [sheet.id],
  );

  const submit = () => {
    const time = (at ?? auto).replace(",", ".");
    if (parseTyped(value) === null) {
      setSaid("Type the pressure; the clock gives the time.");
      return;
    }
    if (parseTyped(time) === null) {
      setSaid("Say after how many seconds it was read.");
      timeField.current?.focus();
      return;
    }
    if (first && time === "0") setBegun(new Date().toISOString());
    put({ value: value.trim().replace(",", "."), at_s: time });
    setSaid(`${value} at ${time} s kept.`);
    setValue("");
    setAt(null);
    field.current?.focus();
  };

  const undo = () => {
    const unsent = waiting.at(-1);
    if (unsent) {
      if (outbox.wasTried(unsent.seq) && unsent.problems.length === 0) {
        void outbox.put({ kind: "take_back", sheetId: sheet.id, readingId: unsent.reading.id });
      } else void outbox.drop(unsent.seq);
      setSaid("Taken back before it was saved.");
      return;
    }
    const live = new Set([
      ...(hold?.points.map((p) => p.id) ?? []),
      ...(hold?.tries.map((t) => t.reading_id) ?? []),
    ]);
    const last = mine(sheet.id)
      .reverse()
      .find((id) => live.has(id));
    if (!last) {
      setSaid("Nothing typed here is left to take back.");
      return;
    }
    void outbox.put({ kind: "take_back", sheetId: sheet.id, readingId: last });
    setSaid("Took back the last thing typed here.");
  };

  const refused = waiting.find((w) => w.problems.length > 0);
  return {
    waiting,
    value,
    setValue,
    at,
    auto,
    setAt,
    elapsed,
    said,
    field,
    timeField,
    submit,
    undo,
    tried: (step: string, word: string) => put({ injector: step, word }),
    asking: refused ? serverAsking(refused) : null,
  };
}

export type HoldEntry = ReturnType<typeof useHold>;
