/** Which readings were typed in this browser, so that only they are taken back by Ctrl+Z. */

const key = (sheetId: number) => `plumb.mine.${sheetId}`;

export function mine(sheetId: number): string[] {
  try {
    return JSON.parse(localStorage.getItem(key(sheetId)) ?? "[]") as string[];
  } catch {
    return [];
  }
}

export function remember(sheetId: number, id: string): void {
  localStorage.setItem(key(sheetId), JSON.stringify([...mine(sheetId), id].slice(-200)));
}
