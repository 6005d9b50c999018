import { expect, test } from "vitest";
import shared from "../../../tests/data/slips.json";
import { checkDrop, parseTyped, pressureIn, secondsIn } from "./slips";

// The same list that tests/core/test_slips.py runs against the server's rules.
test.each(shared.cases)("$first $second $unit asks for $codes", (c) => {
  const found = checkDrop(c.first, c.second, {
    unit: c.unit,
    step: c.step,
    fuelSystem: c.fuel_system,
    starts: c.starts,
  });
  expect(found.map((q) => q.code)).toEqual(c.codes);
  if (c.suggestion) expect(found[0]?.suggestion).toEqual(c.suggestion);
  expect(found.some((q) => q.refused)).toBe(c.refused ?? false);
});

test.each(["", "abc", "5o", "1.2.3", "50 26", "-"])("%j is no figure", (text) => {
  expect(parseTyped(text)).toBeNull();
});

test("a pressure with a unit of its own is read in the gauge's", () => {
  // NIST SP 811: 1 bar = 14.503 77 psi.
  expect(pressureIn("3.45bar", "psi")).toBeCloseTo(50.038, 3);
  expect(pressureIn("3,45 BAR", "psi")).toBeCloseTo(50.038, 3);
  expect(pressureIn("345kPa", "bar")).toBeCloseTo(3.45);
  expect(pressureIn("50psi", "psi")).toBe(50);
  expect(pressureIn("-50", "psi")).toBe(-50);
  for (const none of ["1e3", "12V", "50xyz", "bar", ""]) expect(pressureIn(none, "psi")).toBeNull();
});

test.each([
  ["70 000", 70000],
  ["1'200", 1200],
  ["1\u2019200.5", 1200.5],
  ["26,5", 26.5],
])("%j is %d", (text, figure) => {
  expect(parseTyped(text)).toBe(figure);
});

test.each([
  ["90", 90],
  ["20:00", 1200],
  ["1:20:30", 4830],
  ["20 min", 1200],
  ["0,5 h", 1800],
  ["90s", 90],
])("%j is %d seconds", (text, seconds) => {
  expect(secondsIn(text)).toBe(seconds);
});

test.each(["", "1:75", "20 psi", "soon"])("%j is no time", (text) => {
  expect(secondsIn(text)).toBeNull();
});
