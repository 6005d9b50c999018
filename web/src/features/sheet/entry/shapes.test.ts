/** The entry line for sheets of one figure and of words. */
import { expect, test } from "vitest";
import type { RowView, SheetView } from "../../../api/client";
import type { ReadingIn } from "../../../api/client";
import { shownOf } from "../../../lib/aside";
import { asReading, emptyDraft, hasPasses, marksOf, questions, standing } from "./draft";

const sheet = (shape: string, marks: string[] = [], once = false): SheetView =>
  ({
    entry: { units: [], shape, figures: ["x"], words: [], sprays: [], marks, once },
    rows: [
      { injector: "1", count: 1, readings: [{ id: "a" }] },
      { injector: "2", count: 0, readings: [] },
    ] as unknown as RowView[],
    next: null,
    gauge: { unit: "ohm", step: "0.1" },
    unit: "ohm",
    rule: { code: "" },
  }) as unknown as SheetView;

const target = { injector: "2", repeat: false };

test("one figure goes as a value, with its sign and its point", () => {
  const coil = asReading(
    "id",
    sheet("value"),
    target,
    {
      ...emptyDraft,
      first: "12,4",
    },
    {},
  );
  expect(coil).toMatchObject({ value: "12.4", first: null, second: null });
  const minus = { ...emptyDraft, first: "\u22121.5" };
  const correction = asReading("id", sheet("value"), target, minus, {});
  expect(correction.value).toBe("-1.5");
  const plus = asReading("id", sheet("value"), target, { ...emptyDraft, first: "+2" }, {});
  expect(plus.value).toBe("2");
});

test("an overload and a word stand without a figure", () => {
  const s = sheet("value", ["not_read", "over"]);
  const over = asReading("id", s, target, { ...emptyDraft, first: "12" }, { mark: "over" });
  expect(over).toMatchObject({ value: null, mark: "over" });
  const word = asReading("id", sheet("words"), target, emptyDraft, { word: "dark" });
  expect(word).toMatchObject({ value: null, word: "dark", mark: null });
});

test("what was kept is said in words", () => {
  const base = { injector: "1", id: "x", note: "", confirmed: [] } as unknown as ReadingIn;
  expect(shownOf({ ...base, first: "50", second: "26" })).toBe("50 26");
  expect(shownOf({ ...base, mark: "none" })).toBe("no response");
  expect(shownOf({ ...base, word: "blinks" })).toBe("blinks");
  expect(shownOf({ ...base, value: "12.4", mark: "read_late" })).toBe("12.4");
});

test("passes and marks are what the server says", () => {
  expect(hasPasses(sheet("value", [], true))).toBe(false);
  expect(hasPasses(sheet("value"))).toBe(true);
  expect(marksOf(sheet("value", ["not_read"]))).toEqual([]);
  expect(marksOf(sheet("value", ["over", "none", "not_read"]))).toEqual(["none", "over"]);
});

test("one figure is asked about by the server alone, and the cursor finds what is open", () => {
  const s = sheet("value");
  expect(questions(s, target, { ...emptyDraft, first: "9999" })).toEqual([]);
  expect(standing(s, [])).toEqual({ injector: "2", repeat: false });
});
