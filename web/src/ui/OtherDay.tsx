/** The day of a visit that is noted later than it was, and why it is. */
import { useId } from "react";
import { useToday } from "../lib/clock";

export interface Dated {
  day: string;
  because: string;
}

interface Props {
  dated: Dated;
  put: (dated: Dated) => void;
}

/** A moment's day as a field for days takes it. */
export const dayOf = (moment: Date): string => moment.toLocaleDateString("sv-SE");

export function OtherDay({ dated, put }: Props) {
  const id = useId();
  return (
    <div className="mb-2 grid gap-3 sm:grid-cols-2">
      <div>
        <label className="label" htmlFor={`${id}-day`}>
          Day of the visit
        </label>
        <input
          id={`${id}-day`}
          type="date"
          className="field"
          required
          max={dayOf(useToday())}
          value={dated.day}
          onChange={(e) => put({ ...dated, day: e.target.value })}
        />
      </div>
      <div>
        <label className="label" htmlFor={`${id}-because`}>
          Why it is noted later
        </label>
        <input
          id={`${id}-because`}
          className="field"
          required
          maxLength={200}
          placeholder="from the job book"
          autoComplete="off"
          value={dated.because}
          onChange={(e) => put({ ...dated, because: e.target.value })}
        />
      </div>
    </div>
  );
}
