/** What is noted of a sheet beside its readings: how it stands, how a change would look, and whether two people changed the same. */
import type { Problem, SheetChange, SheetView } from "../api/client";

export type Change = Omit<SheetChange, "version">;
/** How each thing that a change touches stood when it was made, by its name. */
export type Stood = Record<string, string>;

/** What the walk-round and its like have noted, as it would be typed. */
function noted(sheet: SheetView, key: string): string | undefined {
  const value = (sheet.form as Record<string, unknown> | null)?.[key];
  if (Array.isArray(value)) return value.join(" ");
  return typeof value === "string" ? value : undefined;
}

/** How a thing stands on a sheet: a condition by its key, `gauge`, `rule`. */
export function stands(sheet: SheetView, key: string): string {
  if (key === "gauge")
    return [sheet.gauge.name, sheet.gauge.step, sheet.gauge.unit].join(" ").trim();
  if (key === "rule")
    return `${sheet.rule.title} ${Object.values(sheet.rule.limits).join(" ")}`.trim();
  const field = sheet.knobs.flatMap((k) => k.fields).find((f) => f.key === key);
  return field?.value ?? noted(sheet, key) ?? "";
}

const touched = (change: Change): string[] => [
  ...Object.keys(change.put ?? {}),
  ...(change.gauge ? ["gauge"] : []),
  ...(change.rule ? ["rule"] : []),
];

/** How everything stands that a change is going to touch. */
export function stood(sheet: SheetView, change: Change): Stood {
  return Object.fromEntries(touched(change).map((key) => [key, stands(sheet, key)]));
}

/** The sheet as it will look once the server has the change; what it says of it comes from there. */
export function withChange(sheet: SheetView, change: Change): SheetView {
  const put = change.put ?? {};
  const form = sheet.form && {
    ...sheet.form,
    ...Object.fromEntries(
      Object.entries(put)
        .filter(([key]) => sheet.form && key in sheet.form)
        .map(([key, text]) => [key, Array.isArray(valueAt(sheet, key)) ? words(text) : text]),
    ),
  };
  const knobs = sheet.knobs.map((k) => ({
    ...k,
    fields: k.fields.map((f) => (f.key in put ? { ...f, value: put[f.key] ?? "" } : f)),
  }));
  const gauge = change.gauge ? { ...sheet.gauge, ...change.gauge } : sheet.gauge;
  return { ...sheet, form, knobs, gauge };
}

const valueAt = (sheet: SheetView, key: string): unknown =>
  (sheet.form as Record<string, unknown> | null)?.[key];
const words = (text: string): string[] => text.split(" ").filter(Boolean);

/** What somebody else changed meanwhile to something else than this change would. */
export function clashes(sheet: SheetView, change: Change, was: Stood): Problem[] {
  const wanted = stood(withChange(sheet, change), change);
  return Object.entries(was)
    .filter(([key, before]) => ![before, wanted[key]].includes(stands(sheet, key)))
    .map(([key, before]) =>
      clash(key, nameOf(sheet, key), before, wanted[key] ?? "", stands(sheet, key)),
    );
}

/** What to ask where two people made something else of the same. */
export const clash = (
  path: string,
  name: string,
  before: string,
  wanted: string,
  there: string,
): Problem => ({
  path,
  rule: `${name} was ${quoted(before)} when you changed it to ${quoted(wanted)}; meanwhile somebody made it ${quoted(there)}.`,
  value: "",
  code: "changed_meanwhile",
  suggestion: "",
  confirmable: false,
});

const quoted = (text: string) => (text === "" ? "empty" : `“${text}”`);

/** What a condition is called on the screen. */
export function nameOf(sheet: SheetView, key: string): string {
  const field = sheet.knobs.flatMap((k) => k.fields).find((f) => f.key === key);
  return field?.label ?? key.replaceAll(/[._]/g, " ");
}
