/**
 * The logic of the entry line, without React: who is next, what a row shows while it waits,
 * what has to be asked before figures are kept.
 */
import type { Problem, ReadingIn, RowView, SheetView } from "../../api/client";
import type { Waiting } from "../../lib/outbox";
import { checkDrop, parseTyped, type Question, type Scale } from "../../lib/slips";

export interface Target {
  injector: string;
  repeat: boolean;
}

export interface Draft {
  first: string;
  second: string;
  late: boolean;
  buzz: boolean;
  note: string;
}

export const emptyDraft: Draft = { first: "", second: "", late: false, buzz: false, note: "" };

type WaitingReading = Extract<Waiting, { kind: "reading" }>;

/** Readings of this sheet that wait in the browser, taken-back ones aside. */
export function waitingFor(sheetId: number, waiting: readonly Waiting[]): WaitingReading[] {
  const back = new Set(waiting.map((w) => (w.kind === "take_back" ? w.readingId : "")));
  return waiting.filter(
    (w): w is WaitingReading =>
      w.kind === "reading" && w.sheetId === sheetId && !back.has(w.reading.id),
  );
}

function measured(row: RowView, waiting: WaitingReading[]): boolean {
  return row.readings.length > 0 || waiting.some((w) => w.reading.injector === row.injector);
}

/** The next injector without a reading, in reach order after `after`, round the end. */
export function nextOpen(
  sheet: SheetView,
  waiting: WaitingReading[],
  after: string,
): Target | null {
  const at = sheet.rows.findIndex((r) => r.injector === after);
  const round = [...sheet.rows.slice(at + 1), ...sheet.rows.slice(0, at)];
  const open = round.find((r) => r.injector !== after && !measured(r, waiting));
  return open ? { injector: open.injector, repeat: false } : null;
}

/** Where the cursor stands when nobody chose: what is open, else what the next step asks for. */
export function standing(sheet: SheetView, waiting: WaitingReading[]): Target {
  const open = sheet.rows.find((r) => !measured(r, waiting));
  if (open) return { injector: open.injector, repeat: false };
  // While something waits, the next step on the screen is an old one.
  const asked = waiting.length === 0 ? sheet.next?.injectors[0] : undefined;
  if (asked !== undefined) return { injector: asked, repeat: true };
  return { injector: sheet.rows[0]?.injector ?? "", repeat: false };
}

/** The number of the pass that typing now would make. */
export function passNumber(row: RowView | undefined, waiting: WaitingReading[]): number {
  const there = row?.readings.map((r) => r.pass_number) ?? [];
  const queued = waiting.filter((w) => w.reading.injector === row?.injector).length;
  return Math.max(0, ...there) + queued + 1;
}

/** What the slip rules need to know of the gauge and of the other injectors' starts. */
export function scaleOf(sheet: SheetView, injector: string): Scale {
  const starts = sheet.rows
    .filter((r) => r.injector !== injector)
    .flatMap((r) => r.readings.map((x) => parseTyped(x.first_typed ?? "")))
    .filter((v): v is number => v !== null);
  return {
    unit: sheet.conditions.gauge.unit,
    step: sheet.conditions.gauge.step,
    fuelSystem: sheet.fuel_system,
    starts,
  };
}

/** Questions about the draft; `confirmed` ones that were answered are left out. */
export function questions(
  sheet: SheetView,
  target: Target,
  draft: Draft,
  confirmed: string[],
): Question[] {
  const scale = scaleOf(sheet, target.injector);
  return checkDrop(draft.first, draft.second === "" ? null : draft.second, scale).filter(
    (q) => q.refused || !confirmed.includes(q.code),
  );
}

/** The draft as the API takes it; `silent` marks no response. */
export function asReading(
  id: string,
  target: Target,
  draft: Draft,
  extra: { silent?: boolean; replaces?: string | null; confirmed?: string[] },
): ReadingIn {
  const silent = extra.silent ?? false;
  const clean = (text: string) => (text.trim() === "" ? null : text.trim().replace(",", "."));
  return {
    id,
    injector: target.injector,
    pass_number: null,
    first: clean(draft.first),
    second: silent ? null : clean(draft.second),
    mark: silent ? "none" : draft.late ? "read_late" : null,
    sound: draft.buzz ? "buzzes" : null,
    note: draft.note.trim(),
    replaces: extra.replaces ?? null,
    confirmed: extra.confirmed ?? [],
  };
}

/** Where a waiting reading's bob would hang against the reference that is known; null: unknown. */
export function provisional(sheet: SheetView, reading: ReadingIn): number | null {
  const first = parseTyped(reading.first ?? "");
  const second = parseTyped(reading.second ?? "");
  if (first === null || second === null || !sheet.reference || second > first) return null;
  if (sheet.conditions.rule !== "flow_index") return null;
  return 100 * ((Math.sqrt(first) - Math.sqrt(second)) / sheet.reference - 1);
}

/** What the server said of an errand, as the entry line asks it. */
export function heading(problems: Problem[]): string {
  return problems.map((p) => p.rule + (p.value ? ` (${p.value})` : "")).join(" ");
}
