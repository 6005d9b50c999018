/** What the page asks a sheet, whatever its kind. */
import type { SheetView } from "../../api/client";

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
