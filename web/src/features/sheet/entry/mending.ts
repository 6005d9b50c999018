/** A reading that is kept already, put back into the entry line or amended in its place. */
import type { ReadingIn, ReadingView, SheetView } from "../../../api/client";
import { asReading, emptyDraft, type Draft } from "./draft";

/** Figures are kept in the sheet's own unit; where another is shown that has to be said. */
function own(sheet: SheetView, typed: string | null | undefined): string {
  if (!typed) return "";
  return sheet.unit === sheet.gauge.unit ? typed : `${typed} ${sheet.gauge.unit}`;
}

/** What stands in the entry line when a pass is corrected. */
export function draftOfKept(sheet: SheetView, reading: ReadingView): Draft {
  return {
    ...emptyDraft,
    first: own(sheet, reading.first_typed ?? reading.value_typed),
    second: sheet.entry.shape === "stroke" ? reading.shim : own(sheet, reading.second_typed),
    late: reading.mark === "read_late",
    buzz: reading.sound === "buzzes",
    fires: reading.fires_at ? own(sheet, reading.fires_at) : null,
    spray: reading.spray ?? "",
    sound: sheet.entry.shape === "stroke" ? (reading.sound ?? "") : "",
    seat: reading.seat ?? "",
    note: reading.note,
  };
}

/** The same reading in its own place, with what is changed. */
export function amended(
  id: string,
  sheet: SheetView,
  row: string,
  reading: ReadingView,
  change: Partial<ReadingIn>,
): ReadingIn {
  const mark = reading.mark === "read_late" ? undefined : (reading.mark as "none" | undefined);
  const made = asReading(id, sheet, { injector: row, repeat: false }, draftOfKept(sheet, reading), {
    ...(mark ? { mark } : {}),
    ...(reading.word ? { word: reading.word } : {}),
    replaces: reading.id,
    // The figures were asked about when they were typed.
    confirmed: ["point_missing", "far_off", "off_step", "rise"],
  });
  return { ...made, ...change };
}
