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
    })),
  }) as unknown as RowView;

const sheet = (rows: RowView[]): SheetView =>
  ({
    id: 1,
    rows,
    next: null,
    fuel_system: "port",
    entry: { shape: "burst", figures: ["first", "second"], marks: ["none"], once: false },
    rule: { code: "flow_index" },
    gauge: { unit: "psi", step: "0.5" },
  }) as unknown as SheetView;

const waits = (injector: string, seq = 5): WaitingReading => ({
  kind: "reading",
  sheetId: 1,
  seq,
  problems: [],
  status: 0,
  reading: { id: `w${seq}`, injector, first: "50", second: "26", note: "", confirmed: [] },
});

const now = (rows: RowView[], more: Partial<Now> = {}): Now => ({
  sheet: sheet(rows),
  waiting: [],
  mine: () => [],
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

const kept = (effects: Effect[]) => effects.flatMap((e) => (e.do === "keep" ? [e.reading] : []));

/** The event behind the answer with that key. */
function answer(state: EntryState, key: string): EntryEvent {
  const found =
    state.name === "asking" ? state.question.answers.find((a) => a.key === key) : undefined;
  if (!found) throw new Error(`no answer ${key}`);
  return found.event;
}

test("a whole burst is kept, and the cursor goes on", () => {
  const at = now([row("1"), row("2")]);
  const { state, effects } = run(
    at,
    { type: "typed", draft: typed("50", "26") },
    { type: "submitted" },
  );
  expect(kept(effects)).toMatchObject([{ id: "new", injector: "1", first: "50", second: "26" }]);
  expect(targetOf(state, at).injector).toBe("2");
  expect(state).toMatchObject({ name: "typing", draft: emptyDraft });
  expect(state.said).toBe("Injector 1: 50 26 kept.");
});

test("half a burst waits for its second pressure", () => {
  const at = now([row("1")]);
  const { state, effects } = run(at, { type: "typed", draft: typed("50") }, { type: "submitted" });
  expect(kept(effects)).toEqual([]);
  expect(effects).toContainEqual({ do: "focus", field: "second" });
  expect(state.draft.first).toBe("50");
});

test("a slip is asked about, and nothing is kept before it is answered", () => {
  const at = now([row("1")]);
  const slip: EntryEvent = { type: "typed", draft: typed("26", "50") };
  const { state, effects } = run(at, slip, { type: "submitted" });
  expect(state.name).toBe("asking");
  expect(kept(effects)).toEqual([]);
  // A rise is refused: it can be turned round or typed again, not meant.
  expect(() => answer(state, "M")).toThrow();
  const turned = run(at, slip, { type: "submitted" }, answer(state, "Enter"));
  expect(kept(turned.effects)).toMatchObject([{ first: "50", second: "26" }]);
  const again = run(at, slip, { type: "submitted" }, answer(state, "Escape"));
  expect(again.state).toMatchObject({ name: "typing", draft: { first: "26", second: "50" } });
});

test("what was meant is kept with the codes of the questions", () => {
  const at = now([row("1")]);
  const off: EntryEvent = { type: "typed", draft: typed("50.3", "26") };
  const { state } = run(at, off, { type: "submitted" });
  const meant = run(at, off, { type: "submitted" }, answer(state, "M"));
  expect(kept(meant.effects)).toMatchObject([{ first: "50.3", confirmed: ["off_step"] }]);
});

test("a second typing asks whether it corrects or adds", () => {
  const at = now([row("1", "26")]);
  const events: EntryEvent[] = [
    { type: "chosen", injector: "1" },
    { type: "typed", draft: typed("50", "27") },
    { type: "submitted" },
  ];
  const { state } = run(at, ...events);
  expect(state.name).toBe("asking");
  const added = run(at, ...events, answer(state, "A"));
  expect(kept(added.effects)).toMatchObject([{ second: "27", replaces: null }]);
  const corrected = run(at, ...events, answer(state, "C"));
  expect(kept(corrected.effects)).toMatchObject([{ second: "27", replaces: "1-0" }]);
  // Somebody who pressed repeat has said so already.
  const repeat = run(
    at,
    { type: "chosen", injector: "1", repeat: true },
    { type: "typed", draft: typed("50", "27") },
    { type: "submitted" },
  );
  expect(kept(repeat.effects)).toHaveLength(1);
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

test("only what was typed in this browser is taken back, the last first", () => {
  const rows = [row("1", "26"), row("2", "27", "28")];
  const mine = now(rows, { mine: () => ["2-0", "1-0", "gone"] });
  const { state, effects } = run(mine, { type: "undone" });
  expect(effects[0]).toEqual({ do: "take_back", readingId: "1-0" });
  expect(state.said).toBe("Took back injector 1, pass 1: 50 26.");
  expect(run(now(rows), { type: "undone" }).state.said).toMatch(/^Nothing typed here/);
});

test("typing holds the cursor, arrows go round the end", () => {
  const at = now([row("1"), row("2"), row("3")]);
  const { state } = run(at, { type: "moved", by: -1 });
  expect(targetOf(state, at).injector).toBe("3");
  const held = run(at, { type: "typed", draft: typed("5") }).state;
  expect(held.choice).toEqual({ injector: "1", repeat: false });
});
