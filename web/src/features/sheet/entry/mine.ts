/** Which readings were typed in this browser, so that only they are taken back by Ctrl+Z. */
import { outbox } from "../../../lib/store";

const key = (sheetId: number) => `plumb.mine.${sheetId}`;

function noted(sheetId: number): string[] {
  try {
    return JSON.parse(localStorage.getItem(key(sheetId)) ?? "[]") as string[];
  } catch {
    return [];
  }
}

/** Those of a sheet, also from before the server knew it. */
export function mine(sheetId: number): string[] {
  const born = outbox.originOf(sheetId);
  return born === sheetId ? noted(sheetId) : [...noted(born), ...noted(sheetId)];
}

export function remember(sheetId: number, id: string): void {
  localStorage.setItem(key(sheetId), JSON.stringify([...noted(sheetId), id].slice(-200)));
}
