import { expect, test } from "vitest";
import shared from "../../../tests/data/slips.json";
import { checkDrop, parseTyped } from "./slips";

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
