import { expect, test } from "vitest";
import { waitsTold } from "./waits";

const at = (hour: number, minute: number) => new Date(2026, 10, 3, hour, minute).getTime();

test("the oldest one tells since when", () => {
  const waiting = [
    { seq: 1, at: at(9, 5) },
    { seq: 2, at: at(9, 40) },
  ];
  expect(waitsTold(2, waiting)).toBe("2 wait in this browser since 09:05");
  expect(waitsTold(1, [{ seq: 4 }])).toBe("1 waits in this browser");
});

test("what has no place in the browser's database yet is not said to be kept", () => {
  const waiting = [
    { seq: 1, at: at(9, 5) },
    { seq: -1, at: at(9, 6) },
  ];
  expect(waitsTold(2, waiting)).toBe("Saving…");
});
