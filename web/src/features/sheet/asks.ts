/** What the page asks a sheet, whatever its kind. */
import type { SheetView } from "../../api/client";

/** Whether sheets of its kind are held against what is expected, and what stands there; null: they are not. */
export function expectedOf(sheet: SheetView): string | null {
  const fields = sheet.knobs.flatMap((knob) => knob.fields);
  return fields.find((f) => f.key === "expected.drop")?.value ?? null;
}

/** Whether its figures are gathered in spells that a clock can time. */
export function hasSpells(sheet: SheetView): boolean {
  return sheet.knobs.some((knob) => knob.fields.some((f) => f.kind === "spells"));
}

/** Whether its rows are injectors, which have an order of reach and a place on the engine. */
export function hasInjectors(sheet: SheetView): boolean {
  return sheet.rows.some((row) => row.name === "");
}

/** What a row is called over its column. */
export function rowNoun(sheet: SheetView): string {
  if (!hasInjectors(sheet)) return "State";
  return sheet.entry.shape === "stroke" ? "Nozzle" : "Injector";
}
