/** Names of jobs and sheets that the server does not know yet, and what they become when it does. */
import type { Errand } from "./outbox";

/** What the server made of a job or a sheet. */
export interface Made {
  number: string;
  sheetId: number;
  key: string;
}

/** What a sheet of this browser's (`was`), on a job by that name, has become, and when. */
export interface Place extends Made {
  was: number;
  job: string;
  at: number;
}

const MARK = "new-";

/** Whether a job has only this browser's number. */
export const isUnsent = (number: string): boolean => number.startsWith(MARK);

let last = 0;

/** An id of this browser's own: below zero, so that no sheet of the server's has it; newer ones lie lower. */
export function newSheetId(): number {
  last = Math.max(last + 1, Date.now());
  return -last;
}

/** A number of this browser's own for a job. */
export const newNumber = (sheetId: number): string => `${MARK}${-sheetId}`;

/** The part of an address that names a sheet which has no key yet. */
export const keyOf = (sheetId: number): string => `${MARK}${-sheetId}`;

/** Which sheet such a part of an address names; 0 for any other. */
export const idOf = (key: string | undefined): number =>
  key !== undefined && isUnsent(key) ? -Number(key.slice(MARK.length)) : 0;

/** An errand by the real names, once its sheet, or its job, has become what the place says. */
export function moved<E extends Errand>(errand: E, place: Place): E {
  if (errand.kind === "job") return errand;
  if (errand.kind === "sheet" || errand.kind === "note")
    return errand.number === place.job ? { ...errand, number: place.number } : errand;
  return errand.sheetId === place.was ? { ...errand, sheetId: place.sheetId } : errand;
}
