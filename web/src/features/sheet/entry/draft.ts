/**
 * The logic of the entry line, without React: who is next, what a row shows while it waits,
 * what has to be asked before figures are kept.
 */
import type { ReadingIn, RowView, SheetView } from "../../../api/client";
import type { Waiting } from "../../../lib/outbox";
import {
  checkDrop,
  hasUnit,
  parseTyped,
  pressureIn,
  type Question,
  type Scale,
} from "../../../lib/slips";

export interface Target {
  injector: string;
  repeat: boolean;
  /** The pass that is typed anew in its place. */
  corrects?: { id: string; pass: number };
}

export interface Draft {
  first: string;
  second: string;
  late: boolean;
  buzz: boolean;
  fires: string | null;
  spray: string;
  sound: string;
  seat: string;
  note: string;
}

export const emptyDraft: Draft = {
  first: "",
  second: "",
  late: false,
  buzz: false,
  fires: null,
  spray: "",
  sound: "",
  seat: "",
  note: "",
};

/** What is kept of a draft beside its figures. */
export interface Extra {
  mark?: "none" | "not_read" | "over" | undefined;
  word?: string | undefined;
  replaces?: string | null;
  confirmed?: string[];
}

export type WaitingReading = Extract<Waiting, { kind: "reading" }>;

/** Readings of this sheet that wait in the browser, taken-back ones aside. */
export function waitingFor(sheetId: number, waiting: readonly Waiting[]): WaitingReading[] {
  const back = new Set(waiting.map((w) => (w.kind === "take_back" ? w.readingId : "")));
  return waiting.filter(
    (w): w is WaitingReading =>
      w.kind === "reading" && w.sheetId === sheetId && !back.has(w.reading.id),
  );
}

/** Strokes of the stack that is inside now, those that wait among them. */
export function strokesOf(row: RowView, waiting: WaitingReading[]): number {
  const mine = waiting.filter((w) => w.reading.injector === row.injector && !w.reading.replaces);
  const anew = mine.findLastIndex((w) => w.reading.shim && w.reading.shim !== row.nozzle?.shim);
  return anew >= 0 ? mine.length - anew : (row.nozzle?.strokes ?? 0) + mine.length;
}

/** A nozzle was stroked often enough, or builds no pressure. */
function stroked(sheet: SheetView, row: RowView, waiting: WaitingReading[]): boolean {
  const mine = waiting.filter((w) => w.reading.injector === row.injector);
  const silent = mine.some((w) => w.reading.mark) || row.readings.some((r) => r.mark === "none");
  return silent || strokesOf(row, waiting) >= sheet.entry.strokes;
}

/** Its seat is still to be held. */
function unseated(row: RowView, waiting: WaitingReading[]): boolean {
  const mine = waiting.filter((w) => w.reading.injector === row.injector);
  return row.nozzle?.seat === "" && !mine.some((w) => w.reading.seat);
}

function measured(sheet: SheetView, row: RowView, waiting: WaitingReading[]): boolean {
  if (sheet.entry.shape === "stroke") return stroked(sheet, row, waiting);
  const here = row.count > 0 || waiting.some((w) => w.reading.injector === row.injector);
  return here || row.spared;
}

/** The rows in reach order, round the end, beginning behind `after`; from the first where it is none. */
function roundFrom(sheet: SheetView, after: string): RowView[] {
  const at = sheet.rows.findIndex((r) => r.injector === after);
  return [...sheet.rows.slice(at + 1), ...sheet.rows.slice(0, at + 1)];
}

/** The next row without a reading, in reach order after `after`, round the end. */
export function nextOpen(
  sheet: SheetView,
  waiting: WaitingReading[],
  after: string,
): Target | null {
  const here = sheet.rows.find((r) => r.injector === after);
  // A nozzle stays on the pump until it was stroked often enough.
  if (sheet.entry.shape === "stroke" && here && !measured(sheet, here, waiting)) {
    return { injector: after, repeat: true };
  }
  const open = roundFrom(sheet, after).find((r) => !measured(sheet, r, waiting));
  return open ? { injector: open.injector, repeat: false } : null;
}

/** The row whose turn it is when all have a reading: the fewest passes first, in reach order. */
function nextPass(sheet: SheetView, waiting: WaitingReading[], last: string): RowView | undefined {
  // A repeat goes on with those that it is for.
  const round = roundFrom(sheet, last).filter((r) => !r.spared);
  const fewest = Math.min(...round.map((r) => passNumber(r, waiting)));
  return round.find((r) => passNumber(r, waiting) === fewest);
}

/**
 * Where the cursor stands when nobody chose: what is open, else what needs something, else, after
 * the row that was typed on `last`, the next pass in reach order.
 */
export function standing(sheet: SheetView, waiting: WaitingReading[], last = ""): Target {
  const open = nextOpen(sheet, waiting, last);
  if (open) return open;
  const round = roundFrom(sheet, last);
  const planned = round.find((r) => r.nozzle?.plan);
  if (planned) return { injector: planned.injector, repeat: true };
  const loose = sheet.entry.shape === "stroke" && round.find((r) => unseated(r, waiting));
  if (loose) return { injector: loose.injector, repeat: true };
  // While something waits, the next step on the screen is an old one.
  const asked = waiting.length === 0 ? (sheet.next?.injectors ?? []) : [];
  const needs = round.find((r) => asked.includes(r.injector));
  if (needs) return { injector: needs.injector, repeat: true };
  const first = sheet.rows[0]?.injector ?? "";
  // Who opens a sheet that is done has not said that another pass is wanted.
  if (last === "" || !hasPasses(sheet)) return { injector: first, repeat: false };
  return { injector: nextPass(sheet, waiting, last)?.injector ?? first, repeat: true };
}

/** The number of the pass that typing now would make. */
export function passNumber(row: RowView | undefined, waiting: WaitingReading[]): number {
  const queued = waiting.filter(
    (w) => w.reading.injector === row?.injector && !w.reading.replaces,
  ).length;
  return (row?.last_pass ?? 0) + queued + 1;
}

/** What can stand in place of a figure, and is offered: nothing came, or the instrument ran over. */
export function marksOf(sheet: SheetView): ("none" | "over")[] {
  return (["none", "over"] as const).filter((mark) => sheet.entry.marks.includes(mark));
}

/** Whether a row can have several passes; words, states and moments are noted once. */
export function hasPasses(sheet: SheetView): boolean {
  return !sheet.entry.once;
}

/** What the slip rules need to know of the gauge and of the other injectors' starts. */
export function scaleOf(sheet: SheetView, injector: string): Scale {
  const starts = sheet.rows
    .filter((r) => r.injector !== injector)
    .flatMap((r) => r.readings.map((x) => parseTyped(x.first_typed ?? "")))
    .filter((v): v is number => v !== null);
  return {
    unit: sheet.gauge.unit,
    step: sheet.gauge.step,
    fuelSystem: sheet.fuel_system,
    starts,
  };
}

/** Questions about a burst. One figure is asked about by the server. */
export function questions(sheet: SheetView, target: Target, draft: Draft): Question[] {
  if (sheet.entry.shape !== "burst") return [];
  const scale = scaleOf(sheet, target.injector);
  const first = inUnit(sheet, draft.first) ?? "";
  return checkDrop(first, inUnit(sheet, draft.second), scale);
}

/** Two pressures are typed: before and after a burst, or what is wanted and what is there. */
export function paired(sheet: SheetView): boolean {
  return ["burst", "pair"].includes(sheet.entry.shape);
}

function clean(text: string): string | null {
  const made = text.trim().replace(",", ".").replace("\u2212", "-").replace(/^\+/, "");
  return made === "" ? null : made;
}

/** The unit that pressures are typed in: the one they are shown in. */
export function typedUnit(sheet: SheetView, n: number): string {
  const own = sheet.entry.units[n] ?? sheet.gauge.unit;
  return own === sheet.gauge.unit ? sheet.unit : own;
}

/** A figure with the unit it was typed in, where that is not the gauge's. */
export function inUnit(sheet: SheetView, text: string): string | null {
  const made = clean(text);
  if (made === null || sheet.unit === sheet.gauge.unit || hasUnit(made)) return made;
  return `${made} ${sheet.unit}`;
}

/** The draft as the API takes it. */
export function asReading(
  id: string,
  sheet: SheetView,
  target: Target,
  draft: Draft,
  extra: Extra,
): ReadingIn {
  const burst = paired(sheet);
  const silent = extra.mark !== undefined;
  const stroke = sheet.entry.shape === "stroke";
  const figure = extra.word === undefined && !silent ? inUnit(sheet, draft.first) : null;
  return {
    id,
    injector: target.injector,
    pass_number: null,
    first: burst ? inUnit(sheet, draft.first) : null,
    second: burst && !silent ? inUnit(sheet, draft.second) : null,
    value: burst ? null : figure,
    word: extra.word ?? null,
    at_s: null,
    mark: extra.mark ?? (draft.late ? "read_late" : null),
    sound: draft.buzz ? "buzzes" : ((draft.sound || null) as "chatters" | null),
    seat: (draft.seat || null) as "dry" | null,
    shim: stroke ? clean(draft.second) : null,
    fires_at: inUnit(sheet, draft.fires ?? ""),
    spray: (draft.spray || null) as "even" | null,
    note: draft.note.trim(),
    by: "",
    replaces: extra.replaces ?? null,
    confirmed: extra.confirmed ?? [],
  };
}

/** A reading of figures as it was typed; null where words or marks stand in their place. */
export function draftOf(sheet: SheetView, reading: ReadingIn): Draft | undefined {
  const first = reading.first ?? reading.value;
  if (!first || reading.word || reading.mark === "none" || reading.mark === "over")
    return undefined;
  return {
    ...emptyDraft,
    first,
    second: (sheet.entry.shape === "stroke" ? reading.shim : reading.second) ?? "",
    late: reading.mark === "read_late",
    buzz: reading.sound === "buzzes",
    fires: reading.fires_at ?? null,
    note: reading.note,
  };
}

/** Where a waiting reading's bob would hang against the reference that is known; null: unknown. */
export function provisional(sheet: SheetView, reading: ReadingIn): number | null {
  const first = pressureIn(reading.first ?? "", sheet.gauge.unit);
  const second = pressureIn(reading.second ?? "", sheet.gauge.unit);
  if (first === null || second === null || !sheet.reference || second > first) return null;
  if (sheet.rule.code !== "flow_index") return null;
  return 100 * ((Math.sqrt(first) - Math.sqrt(second)) / sheet.reference - 1);
}

/** The next of a few words; after the last one, not said. */
export function nextOf(options: { code: string }[], now: string): string {
  const words = ["", ...options.map((o) => o.code)];
  return words[(words.indexOf(now) + 1) % words.length] ?? "";
}
