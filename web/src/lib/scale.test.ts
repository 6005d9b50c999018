import { expect, test } from "vitest";
import { linear } from "./scale";

test("ends lie at ends, the middle in the middle, and back", () => {
  const x = linear([-20, 20], [10, 90]);
  expect([-20, 0, 20, 40].map(x)).toEqual([10, 50, 90, 130]);
  expect([10, 50, 90].map(x.invert)).toEqual([-20, 0, 20]);
});

test("a range that runs upwards on the screen is turned over", () => {
  const y = linear([0, 100], [200, 0]);
  expect(y(25)).toBe(150);
  expect(y.invert(150)).toBe(25);
});

test("clamped, nothing lies beyond the ends", () => {
  const x = linear([0, 10], [0, 100], { clamp: true });
  expect([-5, 15].map(x)).toEqual([0, 100]);
  expect(x.invert(140)).toBe(10);
});

test("a point without a width hangs in the middle", () => {
  expect(linear([7, 7], [0, 100])(7)).toBe(50);
});

test("nice steps are of one, two or five", () => {
  const x = linear([0.13, 9.7], [0, 100], { nice: 5 });
  expect(x.domain()).toEqual([0, 10]);
  expect(x.ticks(5)).toEqual([0, 2, 4, 6, 8, 10]);
});
