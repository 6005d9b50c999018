/** The entry line for sheets of one figure and of words. */
import { expect, test } from "vitest";
import type { RowView, SheetView } from "../../api/client";
import type { ReadingIn } from "../../api/client";
import { asReading, emptyDraft, hasMark, hasPasses, questions, shownOf, standing } from "./entry";

const sheet = (kind: string, shape: string, over = false): SheetView =>
  ({
    kind,
    entry: { shape, figures: ["x"], words: [], sprays: [], over },
    rows: [
      { injector: "1", readings: [{ id: "a" }] },
      { injector: "2", readings: [] },
    ] as unknown as RowView[],
    next: null,
    gauge: { unit: "ohm", step: "0.1" },
    rule: { code: "" },
  }) as unknown as SheetView;

const target = { injector: "2", repeat: false };

test("one figure goes as a value, with its sign and its point", () => {
  const coil = asReading(
    "id",
    sheet("coil_resistance", "value"),
    target,
    {
      ...emptyDraft,
      first: "12,4",
    },
    {},
  );
  expect(coil).toMatchObject({ value: "12.4", first: null, second: null });
  const minus = { ...emptyDraft, first: "\u22121.5" };
  const correction = asReading("id", sheet("correction", "value"), target, minus, {});
  expect(correction.value).toBe("-1.5");
  const plus = asReading(
    "id",
    sheet("correction", "value"),
    target,
    { ...emptyDraft, first: "+2" },
    {},
  );
  expect(plus.value).toBe("2");
});

test("an overload and a word stand without a figure", () => {
  const s = sheet("coil_resistance", "value", true);
  const over = asReading("id", s, target, { ...emptyDraft, first: "12" }, { mark: "over" });
  expect(over).toMatchObject({ value: null, mark: "over" });
  const word = asReading("id", sheet("command", "words"), target, emptyDraft, { word: "dark" });
  expect(word).toMatchObject({ value: null, word: "dark", mark: null });
});

test("what was kept is said in words", () => {
  const base = { injector: "1", id: "x", note: "", confirmed: [] } as unknown as ReadingIn;
  expect(shownOf({ ...base, first: "50", second: "26" })).toBe("50 26");
  expect(shownOf({ ...base, mark: "none" })).toBe("no response");
  expect(shownOf({ ...base, word: "blinks" })).toBe("blinks");
  expect(shownOf({ ...base, value: "12.4", mark: "read_late" })).toBe("12.4");
});

test("states, words and humps are noted once; a correction has no mark", () => {
  expect(hasPasses(sheet("supply_pressure", "value"))).toBe(false);
  expect(hasPasses(sheet("command", "words"))).toBe(false);
  expect(hasPasses(sheet("cranking_balance", "value"))).toBe(false);
  expect(hasPasses(sheet("coil_resistance", "value"))).toBe(true);
  expect(hasMark(sheet("correction", "value"))).toBe(false);
  expect(hasMark(sheet("pressure_drop", "burst"))).toBe(true);
});

test("one figure is asked about by the server alone, and the cursor finds what is open", () => {
  const s = sheet("coil_resistance", "value");
  expect(questions(s, target, { ...emptyDraft, first: "9999" }, [])).toEqual([]);
  expect(standing(s, [])).toEqual({ injector: "2", repeat: false });
});
