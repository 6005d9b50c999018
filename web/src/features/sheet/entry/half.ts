/** What is half typed on a sheet outlives a reload, in this tab alone. */
import { outbox } from "../../../lib/store";

const key = (sheetId: number) => `plumb.half.${outbox.originOf(sheetId)}`;

/** What was half typed here; null where nothing was. */
export function halfTyped(sheetId: number): unknown {
  try {
    return JSON.parse(sessionStorage.getItem(key(sheetId)) ?? "null");
  } catch {
    return null;
  }
}

/** Keep what is half typed; null: nothing is. */
export function keepHalf(sheetId: number, half: object | null): void {
  try {
    if (half) sessionStorage.setItem(key(sheetId), JSON.stringify(half));
    else sessionStorage.removeItem(key(sheetId));
  } catch {
    // A browser that keeps nothing: it is typed again.
  }
}
