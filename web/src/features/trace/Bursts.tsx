/** The bursts of a log: drawn over it, moved by hand, and made the readings of injectors. */
import { useState } from "react";
import { told, type BurstView, type SheetView, type TraceView } from "../../api/client";
import { BusyButton, Trouble } from "../../ui/parts";
import { Log, type LogProps } from "./BurstLog";
import { between, useMove, useTake, useWhose, type Moving, type Whose } from "./useBursts";

interface Props {
  sheet: SheetView;
  trace: TraceView;
}

export function Bursts({ sheet, trace }: Props) {
  const [moving, setMoving] = useState<Moving | null>(null);
  const whose = useWhose(trace);
  const take = useTake(sheet, trace, whose);
  const move = useMove(sheet, trace, () => setMoving(null));
  const count = whose.ready.length;
  return (
    <>
      <Log trace={trace} whose={whose} moving={moving} setMoving={setMoving} />
      {moving && (
        <Mover
          moving={moving}
          set={setMoving}
          keep={() => move.mutate(moving)}
          busy={move.isPending}
        />
      )}
      <Trouble text={move.isError ? told(move.error) : null} />
      <Found sheet={sheet} trace={trace} whose={whose} moving={moving} setMoving={setMoving} />
      <Trouble text={take.isError ? told(take.error) : null} />
      <p className="mt-2 flex flex-wrap gap-2">
        {count > 0 && (
          <BusyButton
            type="button"
            className="slab-knob"
            busy={take.isPending}
            onClick={() => take.mutate()}
          >
            Take {count === 1 ? "this reading" : `these ${count} readings`}
          </BusyButton>
        )}
        <button type="button" className="knob min-h-11" onClick={() => setMoving(between(trace))}>
          Add a burst that was not found
        </button>
      </p>
    </>
  );
}

interface FoundProps extends LogProps {
  sheet: SheetView;
}

function Found({ sheet, trace, whose, moving, setMoving }: FoundProps) {
  return (
    <div className="overflow-x-auto">
      <table className="w-full text-sm">
        <thead className="text-soft">
          <tr className="text-left">
            <th className="p-1">Burst</th>
            <th className="p-1">from, to</th>
            <th className="p-1 text-right">first</th>
            <th className="p-1 text-right">second</th>
            <th className="p-1">how well known</th>
            <th className="p-1">reading of</th>
            <th className="p-1">
              <span className="sr-only">move</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {trace.bursts.map((b) => (
            <Burst
              key={b.number}
              burst={b}
              sheet={sheet}
              whose={whose}
              moved={moving?.number === b.number}
              setMoving={setMoving}
            />
          ))}
        </tbody>
      </table>
    </div>
  );
}

interface BurstProps {
  burst: BurstView;
  sheet: SheetView;
  whose: Whose;
  moved: boolean;
  setMoving: (moving: Moving | null) => void;
}

function Burst({ burst: b, sheet, whose, moved, setMoving }: BurstProps) {
  const moving = { number: b.number, start: b.start_s, end: b.end_s };
  return (
    <tr className="border-t border-hair">
      <td className="figure p-1 font-bold">{b.number + 1}</td>
      <td className="figure p-1">
        {b.start_s.toFixed(2)}–{b.end_s.toFixed(2)} s
      </td>
      <td className="figure p-1 text-right font-bold">{b.first}</td>
      <td className="figure p-1 text-right font-bold">{b.second}</td>
      <td className="p-1">
        <HowWell burst={b} />
      </td>
      <td className="p-1">
        {whose.taken(b) ? (
          <b>{b.injector}, taken</b>
        ) : (
          <WhoseBurst burst={b} sheet={sheet} whose={whose} />
        )}
      </td>
      <td className="p-1">
        <button
          type="button"
          className="knob"
          aria-label={`Move burst ${b.number + 1}`}
          aria-pressed={moved}
          onClick={() => setMoving(moved ? null : moving)}
        >
          Move
        </button>
      </td>
    </tr>
  );
}

/** How sure it is that this was a burst, and what speaks against it. */
function HowWell({ burst: b }: { burst: BurstView }) {
  return (
    <>
      {b.doubtful ? <b className="text-open">doubtful, </b> : null}
      {b.confidence_percent > 99 ? "over 99" : Math.round(b.confidence_percent)} %
      {b.doubts.length > 0 && `: ${b.doubts.join(", ")}`}
      {b.moved && ", set by hand"}
      <span className="block text-xs text-soft">drifts {b.drift}</span>
    </>
  );
}

type WhoseProps = Pick<BurstProps, "burst" | "sheet" | "whose">;

function WhoseBurst({ burst, sheet, whose }: WhoseProps) {
  return (
    <select
      className="field min-h-9"
      aria-label={`Burst ${burst.number + 1} is the reading of`}
      value={whose.forWhom(burst)}
      onChange={(e) => whose.give(burst, e.target.value)}
    >
      <option value="">nobody</option>
      {sheet.rows.map((r) => (
        <option key={r.injector}>{r.injector}</option>
      ))}
    </select>
  );
}

interface MoverProps {
  moving: Moving;
  set: (moving: Moving | null) => void;
  keep: () => void;
  busy: boolean;
}

/** Begin and end by keyboard; the arrows of a field move it by a hundredth of a second. */
function Mover({ moving, set, keep, busy }: MoverProps) {
  const one = (name: "start" | "end", label: string) => (
    <label className="block">
      <span className="label">{label}, s</span>
      <input
        className="field figure w-28"
        type="number"
        step={0.01}
        min={0}
        value={Number(moving[name].toFixed(3))}
        onChange={(e) => set({ ...moving, [name]: e.target.valueAsNumber || 0 })}
        onKeyDown={(e) => {
          if (e.key === "Enter") keep();
          if (e.key === "Escape") {
            e.stopPropagation();
            set(null);
          }
        }}
      />
    </label>
  );
  return (
    <div className="my-2 flex flex-wrap items-end gap-2">
      {one("start", "Begins")}
      {one("end", "Ends")}
      <BusyButton type="button" className="slab-knob" busy={busy} onClick={keep}>
        {moving.number === null ? "Read it" : "Read it again"}
      </BusyButton>
      <button type="button" className="knob min-h-12" onClick={() => set(null)}>
        Leave it
      </button>
    </div>
  );
}
