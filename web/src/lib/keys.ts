/** Letters that work anywhere on a sheet. */
import { useEffect } from "react";

/** Where figures are typed. */
export const ENTRY = "section[aria-label=Entry]";

/** The keys belong to the entry line again; where words are chosen, to the sheet. Whether there is one. */
export function toEntry(): boolean {
  const line = document.querySelector(ENTRY);
  if (!line) return false;
  // Who types there already stays in the field that he is in.
  if (line.contains(document.activeElement)) return true;
  const field = line.querySelector("input");
  if (field) field.focus();
  else if (document.activeElement instanceof HTMLElement) document.activeElement.blur();
  return true;
}

/** A field for figures, also while the pad types into it. */
function takesFigures(at: HTMLInputElement): boolean {
  return ["decimal", "none"].includes(at.inputMode);
}

/** A field in which letters are text: they are no commands there. */
export function takesText(at: EventTarget | null): boolean {
  return at instanceof HTMLInputElement && !takesFigures(at);
}

/** A figure is being typed there: what comes now belongs to it. */
export function holdsFigure(at: EventTarget | null): boolean {
  return at instanceof HTMLInputElement && takesFigures(at) && at.value !== "";
}

const always = () => true;

/** A letter that acts from the figure's box too: a figure has no letters, a note and a list have. */
export function useKey(letter: string, act: () => void, when: () => boolean = always): void {
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      const at = e.target instanceof HTMLElement ? e.target : null;
      if (e.key.toLowerCase() !== letter || e.repeat || e.ctrlKey || e.metaKey || e.altKey) return;
      if (at?.closest("[role=dialog], select, textarea")) return;
      if (takesText(at)) return;
      if (holdsFigure(at) || !when()) return;
      e.preventDefault();
      act();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  });
}
