/** What stepped aside in the outbox: how it is told, and what can be done with it. */
import type { Problem, ReadingIn } from "../api/client";
import type { Waiting } from "./outbox";

/** A reading in words: what was typed, or what stands in its place. */
export function shownOf(reading: ReadingIn): string {
  if (reading.word) return reading.word;
  const marks: Record<string, string> = { none: "no response", over: "over", not_read: "not read" };
  const mark = marks[reading.mark ?? ""];
  const seat = reading.seat ? `seat ${reading.seat}` : null;
  return [reading.first, reading.second, reading.value, mark, reading.shim, seat]
    .filter(Boolean)
    .join(" ");
}

/** What the server said of an errand, in words. */
export function heading(problems: Problem[]): string {
  return problems.map((p) => p.rule + (p.value ? ` (${p.value})` : "")).join(" ");
}

/** Whether another pass, or a place of its own, would do. */
export function takesAnotherPass({ problems }: Waiting): boolean {
  return problems.some((p) => p.code === "slot_taken" || p.code === "gone");
}

/** Whether it may go through as it is: the server broke at it, or its job was closed and is not now. */
export function mayGoAgain({ status, problems }: Waiting): boolean {
  return ![400, 403, 409, 422].includes(status) || problems.some((p) => p.code === "closed");
}

/** As another pass, in nobody's place. */
export const asAnotherPass: Partial<ReadingIn> = { pass_number: null, replaces: null };

/** What went wrong on the way to the server, as it tells what does not fit. */
export function asProblem(error: unknown, code = "refused"): Problem {
  return {
    path: "",
    rule: error instanceof Error ? error.message : "Something went wrong.",
    value: "",
    code,
    suggestion: "",
    confirmable: false,
  };
}
