import { expect, test } from "vitest";
import type { ReadingIn, RowView, SheetView } from "../../../api/client";
import {
  asReading,
  emptyDraft,
  nextOpen,
  passNumber,
  provisional,
  questions,
  standing,
  waitingFor,
} from "./draft";

const row = (injector: string, ...seconds: string[]): RowView =>
  ({
    injector,
    count: seconds.length,
    last_pass: seconds.length,
    readings: seconds.map((second, n) => ({
      id: `${injector}-${n}`,
      pass_number: n + 1,
      first_typed: "50",
      second_typed: second,
    })),
  }) as unknown as RowView;

const sheet = (rows: RowView[], next: string[] = []): SheetView =>
  ({
    rows,
    next: next.length > 0 ? { injectors: next } : null,
    reference: Math.sqrt(50) - Math.sqrt(26),
    fuel_system: "port",
    entry: {
      units: [],
      shape: "burst",
      figures: ["first", "second"],
      words: [],
      sprays: [],
      marks: ["none"],
    },
    rule: { code: "flow_index" },
    gauge: { unit: "psi", step: "0.5" },
    unit: "psi",
  }) as unknown as SheetView;

const reading = (injector: string, first = "50", second = "26"): ReadingIn => ({
  id: "x",
  injector,
  first,
  second,
  note: "",
  by: "",
  confirmed: [],
});

const waits = (injector: string) => ({
  kind: "reading" as const,
  sheetId: 1,
  seq: 1,
  problems: [],
  status: 0,
  reading: reading(injector),
});

test("the cursor goes on in reach order and round the end", () => {
  const s = sheet([row("3"), row("1", "26"), row("5"), row("2", "26")]);
  expect(nextOpen(s, [], "5")).toEqual({ injector: "3", repeat: false });
  expect(nextOpen(s, [waits("3"), waits("5")], "5")).toBeNull();
});

test("it stands on what is open, then on what is to be repeated", () => {
  expect(standing(sheet([row("3", "26"), row("1")]), [])).toEqual({ injector: "1", repeat: false });
  const full = sheet([row("3", "26"), row("1", "23.5")], ["1"]);
  expect(standing(full, [])).toEqual({ injector: "1", repeat: true });
});

test("passes count what is kept and what waits", () => {
  expect(passNumber(row("1", "26", "26.5"), [waits("1"), waits("2")])).toBe(4);
  expect(passNumber(row("1"), [])).toBe(1);
});

test("a waiting bob hangs where its flow index says", () => {
  const s = sheet([row("1")]);
  expect(provisional(s, reading("1"))).toBeCloseTo(0);
  // By hand: (sqrt 50 - sqrt 31.5) / (sqrt 50 - sqrt 26) - 1.
  expect(provisional(s, reading("1", "50", "31.5"))).toBeCloseTo(-26.04, 1);
  expect(provisional({ ...s, reference: null }, reading("1"))).toBeNull();
  expect(provisional(s, reading("1", "26", "50"))).toBeNull();
});

test("a burst is asked about by the gauge and by the other starts", () => {
  const s = sheet([row("1"), row("2", "26")]);
  const target = { injector: "1", repeat: false };
  const codes = (first: string, second: string) =>
    questions(s, target, { ...emptyDraft, first, second }).map((q) => q.code);
  expect(codes("50.3", "26")).toEqual(["off_step"]);
  expect(codes("97", "31")).toEqual(["far_off"]);
  expect(codes("50", "26.5")).toEqual([]);
});

test("marks and commas become what the server takes", () => {
  const made = asReading(
    "id",
    sheet([row("2")]),
    { injector: "2", repeat: false },
    { ...emptyDraft, first: "50,5", second: "26", late: true, buzz: true },
    {},
  );
  expect(made).toMatchObject({ first: "50.5", second: "26", mark: "read_late", sound: "buzzes" });
  const dead = asReading("id", sheet([row("2")]), { injector: "2", repeat: false }, emptyDraft, {
    mark: "none",
  });
  expect(dead).toMatchObject({ first: null, second: null, mark: "none" });
});

test("a waiting reading that was taken back no longer shows", () => {
  const back = {
    kind: "take_back" as const,
    sheetId: 1,
    readingId: "x",
    seq: 2,
    problems: [],
    status: 0,
  };
  expect(waitingFor(1, [waits("1")])).toHaveLength(1);
  expect(waitingFor(2, [waits("1")])).toHaveLength(0);
  expect(waitingFor(1, [waits("1"), back])).toHaveLength(0);
});

test("a repeat for one injector goes on with that one", () => {
  const spared = (injector: string) => ({ ...row(injector), spared: true });
  const s = sheet([spared("3"), row("4"), spared("5")] as never);
  expect(standing(s, [])).toEqual({ injector: "4", repeat: false });
  expect(nextOpen(s, [waits("4")], "4")).toBeNull();
  expect(standing(s, [waits("4")], "4")).toEqual({ injector: "4", repeat: true });
});
