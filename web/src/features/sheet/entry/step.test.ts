/** The entry line's machine: what a technician types, and what is then kept, asked or taken back. */
import { expect, test } from "vitest";
import type { RowView, SheetView } from "../../../api/client";
import { emptyDraft, type Draft, type WaitingReading } from "./draft";
import type { Effect, EntryEvent, EntryState, Now } from "./state";
import { step } from "./step";
import { beginning, targetOf } from "./keeping";

const row = (injector: string, ...seconds: string[]): RowView =>
  ({
    injector,
    name: "",
    count: seconds.length,
    last_pass: seconds.length,
    readings: seconds.map((second, n) => ({
      id: `${injector}-${n}`,
      pass_number: n + 1,
      first_typed: "50",
      second_typed: second,
      shown: `50 ${second}`,
      note: "",
      taken: `2026-05-12T10:0${n}:0${injector}Z`,
      by: injector === "3" ? "Ines K." : "",
    })),
  }) as unknown as RowView;

const sheet = (rows: RowView[]): SheetView =>
  ({
    id: 1,
    rows,
    next: null,
    fuel_system: "port",
    entry: {
      units: [],
      shape: "burst",
      figures: ["first", "second"],
      marks: ["none"],
      once: false,
    },
    rule: { code: "flow_index" },
    gauge: { unit: "psi", step: "0.5" },
    unit: "psi",
  }) as unknown as SheetView;

const waits = (injector: string, seq = 5): WaitingReading => ({
  kind: "reading",
  sheetId: 1,
  seq,
  problems: [],
  status: 0,
  reading: { id: `w${seq}`, injector, first: "50", second: "26", note: "", by: "", confirmed: [] },
});

const now = (rows: RowView[], more: Partial<Now> = {}): Now => ({
  sheet: sheet(rows),
  waiting: [],
  mine: () => [],
  me: () => "",
  newId: () => "new",
  wasTried: () => false,
  ...more,
});

const typed = (first: string, second = ""): Draft => ({ ...emptyDraft, first, second });

/** Send events one after the other; the last state, and everything that was to be done. */
function run(at: Now, ...events: EntryEvent[]): { state: EntryState; effects: Effect[] } {
  let state = beginning();
  const effects: Effect[] = [];
  for (const event of events) {
    const next = step(state, event, at);
    state = next.state;
    effects.push(...next.effects);
  }
  return { state, effects };
}

const kept = (effects: Effect[]) =>
  effects.flatMap((e) => (e.do === "keep" && e.asked.length === 0 ? [e.reading] : []));

/** What was kept aside with its questions. */
const asked = (effects: Effect[]) =>
  effects.flatMap((e) => (e.do === "keep" && e.asked.length > 0 ? [e] : []));

test("a whole burst is kept, and the cursor goes on", () => {
  const at = now([row("1"), row("2")]);
  const { state, effects } = run(
    at,
    { type: "typed", draft: typed("50", "26") },
    { type: "submitted" },
  );
  expect(kept(effects)).toMatchObject([{ id: "new", injector: "1", first: "50", second: "26" }]);
  expect(targetOf(state, at).injector).toBe("2");
  expect(state).toMatchObject({ draft: emptyDraft });
  expect(state.said).toBe("Injector 1: 50 26 kept.");
});

test("half a burst waits for its second pressure", () => {
  const at = now([row("1")]);
  const { state, effects } = run(at, { type: "typed", draft: typed("50") }, { type: "submitted" });
  expect(kept(effects)).toEqual([]);
  expect(effects).toContainEqual({ do: "focus", field: "second" });
  expect(state.draft.first).toBe("50");
});

test("a slip steps aside with its question, and the next figures go to the next row", () => {
  const at = now([row("1"), row("2")]);
  const { state, effects } = run(
    at,
    { type: "typed", draft: typed("26", "50") },
    { type: "submitted" },
    { type: "typed", draft: typed("50", "26.5") },
    { type: "submitted" },
  );
  expect(asked(effects)).toMatchObject([
    {
      reading: { injector: "1", first: "26", second: "50" },
      // A rise is refused: it can be turned round or typed again, not meant.
      asked: [{ code: "swapped", suggestion: "50 26", confirmable: false }],
    },
  ]);
  expect(kept(effects)).toMatchObject([{ injector: "2", first: "50", second: "26.5" }]);
  expect(state.said).toBe("Injector 2: 50 26.5 kept.");
});

test("what is asked about is not said to be kept, and can be meant where it is possible", () => {
  const { state, effects } = run(
    now([row("1")]),
    { type: "typed", draft: typed("50.3", "26") },
    { type: "submitted" },
  );
  expect(asked(effects)).toMatchObject([{ asked: [{ code: "off_step", confirmable: true }] }]);
  expect(state.said).not.toContain("kept");
});

test("of a lone figure that looks wrong the second is still to be typed", () => {
  const { state, effects } = run(
    now([row("1")]),
    { type: "typed", draft: typed("500") },
    { type: "submitted" },
  );
  expect(asked(effects)).toEqual([]);
  expect(effects).toContainEqual({ do: "focus", field: "second" });
  expect(state.said).toContain("Did you mean 50?");
  const together = run(
    now([row("1")]),
    { type: "typed", draft: typed("5026") },
    { type: "submitted" },
  );
  expect(asked(together.effects)).toMatchObject([{ asked: [{ suggestion: "50 26" }] }]);
});

test("a second typing asks whether it corrects or adds", () => {
  const at = now([row("1", "26")]);
  const { effects } = run(
    at,
    { type: "chosen", injector: "1" },
    { type: "typed", draft: typed("50", "27") },
    { type: "submitted" },
  );
  expect(asked(effects)).toMatchObject([
    { reading: { second: "27", replaces: null }, asked: [{ code: "which_pass", value: "1-0" }] },
  ]);
  // Somebody who pressed repeat has said so already.
  const repeat = run(
    at,
    { type: "chosen", injector: "1", repeat: true },
    { type: "typed", draft: typed("50", "27") },
    { type: "submitted" },
  );
  expect(kept(repeat.effects)).toHaveLength(1);
});

test("after the last row the second pass goes on in the order of reach", () => {
  const at = now([row("1", "26"), row("2", "26"), row("3", "26")]);
  const next = (last: string, at_ = at) => targetOf({ ...beginning(), last }, at_);
  expect(next("3")).toEqual({ injector: "1", repeat: true });
  expect(next("1")).toEqual({ injector: "2", repeat: true });
  // Row 1 has its second pass already.
  const half = now([row("1", "26", "26"), row("2", "26"), row("3", "26")]);
  expect(next("3", half)).toEqual({ injector: "2", repeat: true });
  // What the sheet asks for comes first, then the others that it asks for.
  const asks = { ...sheet(at.sheet.rows), next: { injectors: ["2", "3"] } } as unknown as SheetView;
  expect(next("3", { ...at, sheet: asks })).toEqual({ injector: "2", repeat: true });
  expect(next("2", { ...at, sheet: asks })).toEqual({ injector: "3", repeat: true });
  // Who opens a sheet that is done wants no further pass.
  expect(next("")).toEqual({ injector: "1", repeat: false });
});

test("what is half typed is emptied, and the cursor stays", () => {
  const at = now([row("1"), row("2")]);
  const { state } = run(
    at,
    { type: "chosen", injector: "2" },
    { type: "typed", draft: typed("5") },
    { type: "cleared" },
  );
  expect(state.draft).toEqual(emptyDraft);
  expect(targetOf(state, at).injector).toBe("2");
});

test("a nozzle that is looked at keeps its figure, whatever unit is shown", () => {
  const stroked = {
    ...row("1"),
    count: 1,
    readings: [{ id: "1-0", value_typed: "125.5", shim: "1.04", note: "", mark: null }],
  } as unknown as RowView;
  const shown = {
    ...sheet([stroked]),
    entry: {
      units: ["bar", "mm"],
      shape: "stroke",
      figures: ["opens", "shims"],
      strokes: 3,
      marks: [],
    },
    gauge: { unit: "bar", step: "0.5" },
    unit: "kPa",
  } as unknown as SheetView;
  const { effects } = run(
    { ...now([]), sheet: shown },
    { type: "looked", seen: { sound: "chatters" } },
  );
  expect(kept(effects)).toMatchObject([
    { value: "125.5 bar", sound: "chatters", shim: null, replaces: "1-0" },
  ]);
});

test("a mark stands without figures", () => {
  const { effects } = run(now([row("1")]), { type: "marked", mark: "none" });
  expect(kept(effects)).toMatchObject([{ mark: "none", first: null, second: null }]);
});

test("what waits is dropped, or taken back where it may have arrived", () => {
  const rows = [row("1", "26")];
  const unsent = run(now(rows, { waiting: [waits("1")] }), { type: "undone" });
  expect(unsent.effects[0]).toEqual({ do: "drop", seq: 5 });
  const tried = now(rows, { waiting: [waits("1")], wasTried: () => true });
  expect(run(tried, { type: "undone" }).effects[0]).toEqual({ do: "take_back", readingId: "w5" });
});

test("what this person typed is taken back, the last first, whatever browser it was", () => {
  const rows = [row("1", "26"), row("2", "27", "28"), row("3", "29")];
  // Nobody said who: only what was typed in this browser.
  const mine = now(rows, { mine: () => ["2-0", "1-0", "gone"] });
  const { state, effects } = run(mine, { type: "undone" });
  expect(effects[0]).toEqual({ do: "take_back", readingId: "2-0" });
  expect(state.said).toBe("Took back injector 2, pass 1: 50 27.");
  expect(run(now(rows), { type: "undone" }).state.said).toMatch(/^Nothing typed here/);
  const elsewhere = now(rows, { me: () => "Ines K." });
  expect(run(elsewhere, { type: "undone" }).effects[0]).toEqual({
    do: "take_back",
    readingId: "3-0",
  });
});

test("a pass that is corrected is typed anew in its place", () => {
  const at = now([row("1", "26", "27")]);
  const [reading] = at.sheet.rows.flatMap((r) => r.readings);
  if (!reading) throw new Error("no reading");
  const { effects, state } = run(
    at,
    { type: "correcting", injector: "1", reading, draft: typed("50", "26") },
    { type: "typed", draft: typed("50", "25.5") },
    { type: "submitted" },
  );
  expect(kept(effects)).toMatchObject([{ injector: "1", second: "25.5", replaces: "1-0" }]);
  expect(state.choice?.corrects).toBeUndefined();
});

test("typing holds the cursor, arrows go round the end", () => {
  const at = now([row("1"), row("2"), row("3")]);
  const { state } = run(at, { type: "moved", by: -1 });
  expect(targetOf(state, at).injector).toBe("3");
  const held = run(at, { type: "typed", draft: typed("5") }).state;
  expect(held.choice).toEqual({ injector: "1", repeat: false });
});

const fires = (text: string): Draft => ({ ...emptyDraft, fires: text });

test("the pressure one opens at stays with the row it was typed for", () => {
  const at = now([row("1"), row("2"), row("3")]);
  const typedFor1: EntryEvent[] = [{ type: "typed", draft: fires("26") }, { type: "fired" }];
  const away = run(at, ...typedFor1, { type: "moved", by: 1 });
  expect(targetOf(away.state, at).injector).toBe("2");
  expect(away.state.draft.fires).toBeNull();
  const other = run(
    at,
    ...typedFor1,
    { type: "moved", by: 1 },
    { type: "typed", draft: typed("50", "26") },
    { type: "submitted" },
    { type: "chosen", injector: "1" },
  );
  expect(kept(other.effects)).toMatchObject([{ injector: "2", fires_at: null }]);
  expect(other.state.draft.fires).toBe("26");
});

test("behind a burst that was just kept, somebody says whose it is", () => {
  const at = now([row("1", "26"), row("2")]);
  const opens = { ...beginning(), last: "1", draft: fires("31") };
  const { state, effects } = step(opens, { type: "fired" }, at);
  expect(asked(effects)).toMatchObject([
    {
      reading: { injector: "1", first: "50", second: "26", fires_at: "31", replaces: "1-0" },
      asked: [{ code: "which_row", path: "2", confirmable: true }],
    },
  ]);
  expect(targetOf(state, at).injector).toBe("2");
  expect(state.draft).toEqual(emptyDraft);
  const next = step(state, { type: "left_for_next", seq: 9, injector: "2", fires: "31" }, at);
  expect(next.effects).toContainEqual({ do: "drop", seq: 9 });
  expect(next.state.draft.fires).toBe("31");
  expect(targetOf(next.state, at).injector).toBe("2");
});

test("on a row that was chosen and has its burst, it goes there", () => {
  const at = now([row("1", "26"), row("2", "26"), row("3")]);
  const { state, effects } = run(
    at,
    { type: "chosen", injector: "1" },
    { type: "typed", draft: fires("31") },
    { type: "fired" },
  );
  expect(kept(effects)).toMatchObject([{ injector: "1", fires_at: "31", replaces: "1-0" }]);
  expect(targetOf(state, at).injector).toBe("1");
  expect(state.said).toBe("Injector 1: opens at 31, noted with its last burst.");
});

test("a correction that is typed once more corrects the same pass", () => {
  const at = now([row("1", "26"), row("2", "26")]);
  const { state } = run(at, {
    type: "taken_up",
    seq: 4,
    injector: "1",
    draft: typed("26", "50"),
    corrects: { id: "1-0", pass: 1 },
  });
  const { effects } = step({ ...state, draft: typed("50", "26.5") }, { type: "submitted" }, at);
  expect(kept(effects)).toMatchObject([{ injector: "1", replaces: "1-0" }]);
});
