/** What was noted on a job and can be taken back, and the injectors that it is noted of. */
import type { ReactNode } from "react";

export interface NotedThing {
  id: string;
  words: string;
  beside: ReactNode;
}

interface ListProps {
  things: NotedThing[];
  /** A closed job takes nothing back. */
  closed: boolean;
  takeBack: (thing: NotedThing) => void;
}

export function NotedList({ things, closed, takeBack }: ListProps) {
  return (
    <ul className="mb-2 rounded-lg border border-hair bg-sheet">
      {things.map((thing) => (
        <li
          key={thing.id}
          className="flex flex-wrap items-center gap-2 border-b border-hair px-3 py-1.5 last:border-0"
        >
          <b>{thing.words}</b>
          <span className="min-w-40 flex-1 text-sm text-soft">{thing.beside}</span>
          {!closed && (
            <button
              className="knob min-h-11"
              aria-label={`Take back: ${thing.words}`}
              onClick={() => takeBack(thing)}
            >
              Take back
            </button>
          )}
        </li>
      ))}
    </ul>
  );
}

interface InjectorsProps {
  name: string;
  labels: string[];
  marked: string[];
  flip: (label: string) => void;
  children?: ReactNode;
}

/** The injectors as buttons, each marked or not. */
export function InjectorButtons({ name, labels, marked, flip, children }: InjectorsProps) {
  return (
    <div role="group" aria-label={name} className="mb-2">
      {children}
      <span className="flex flex-wrap gap-2">
        {labels.map((label) => (
          <button
            key={label}
            type="button"
            className="choice figure min-w-12 justify-center"
            aria-pressed={marked.includes(label)}
            onClick={() => flip(label)}
          >
            {label}
          </button>
        ))}
      </span>
    </div>
  );
}
