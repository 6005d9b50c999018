/** The entry line: always in the same place, big enough to read from the driver's seat. */
import { useState } from "react";
import type { SheetView } from "../../api/client";
import { hasPasses, marksOf, paired, strokesOf, typedUnit, type Draft } from "./entry/draft";
import { fieldKey } from "./entryKeys";
import { Ask, Box, Knob, NoteField, Pad } from "./EntryParts";
import { shapeOf } from "./shapes";
import { SeatClock } from "./shapes/Nozzle";
import type { Entry } from "./useEntry";

interface Props {
  sheet: SheetView;
  entry: Entry;
  onHelp: () => void;
  onPasses: (injector: string) => void;
}

type Field = "first" | "second";

/** The fields of a sheet, in order; none where words are chosen. */
function fieldsOf(sheet: SheetView): Field[] {
  return (["first", "second"] as const).slice(0, sheet.entry.figures.length);
}

export function EntryLine(props: Props) {
  const { sheet, entry, onHelp } = props;
  const [pad, setPad] = useState(() => window.matchMedia("(pointer: coarse)").matches);
  const [active, setActive] = useState<Field>("first");
  const { asking, target, row } = entry;
  const again = (row?.count ?? 0) > 0;
  return (
    <section
      aria-label="Entry"
      className="sticky bottom-0 z-20 mt-3 gap-3 rounded-lg bg-slab p-3 text-slabink md:flex short:p-2"
    >
      <div className="min-w-0 grow">
        {asking && <Ask asking={asking} then={() => entry.firstField.current?.focus()} />}
        <div className="flex flex-wrap items-center gap-2 short:flex-nowrap">
          <Standing sheet={sheet} entry={entry} again={again} />
          <Boxes {...props} pad={pad} setActive={setActive} />
          <Knobs sheet={sheet} entry={entry} pad={pad} setPad={setPad} />
        </div>
        <SeatClock entry={entry} />
        <Beside sheet={sheet} entry={entry} />
        <div className="mt-1 flex items-baseline gap-3 text-sm text-slabsoft sm:min-h-6 short:hidden">
          <p aria-live="polite" className="grow">
            {entry.said || (
              <span className="max-sm:hidden">
                {shapeOf(sheet).hint(sheet, again && !target.repeat)}
              </span>
            )}
          </p>
          <button type="button" className="shrink-0 underline max-sm:hidden" onClick={onHelp}>
            all keys ?
          </button>
        </div>
      </div>
      {pad && fieldsOf(sheet).length > 0 && (
        <Pad press={(key) => pressPad(key, active, sheet, entry)} />
      )}
    </section>
  );
}

/** A key of the number pad. */
function pressPad(key: string, active: Field, sheet: SheetView, entry: Entry): void {
  const { draft, setDraft } = entry;
  if (key === "next") {
    const whole = draft.first.length > 3 || !paired(sheet);
    if (active === "first" && !whole) entry.secondField.current?.focus();
    else entry.submit();
    return;
  }
  const text = draft[active];
  setDraft({ ...draft, [active]: key === "back" ? text.slice(0, -1) : text + key });
}

function passWords(sheet: SheetView, entry: Entry, again: boolean): string {
  if (!hasPasses(sheet)) return again ? "noted" : "open";
  // Stroked often enough, and still on the pump to be looked at.
  if (entry.shown !== entry.target.injector) return `a figure is ${entry.target.injector}’s`;
  const { corrects } = entry.target;
  if (corrects) return `corrects ${corrects.pass}`;
  if (sheet.entry.shape === "stroke" && entry.row) {
    const strokes = strokesOf(entry.row, entry.waiting);
    if (strokes < sheet.entry.strokes) return `stroke ${strokes + 1} of ${sheet.entry.strokes}`;
  }
  return entry.target.repeat || !again ? `pass ${entry.pass}` : `has ${entry.row?.count ?? 0}`;
}

/** Which row the cursor stands on, and which pass it would be. */
function Standing({ sheet, entry, again }: { sheet: SheetView; entry: Entry; again: boolean }) {
  const name = entry.row?.name ?? "";
  return (
    <p className="min-w-15">
      <span
        className={
          name ? "block text-xl font-bold" : "figure block text-3xl font-bold leading-none"
        }
      >
        {name || entry.shown}
      </span>
      <span className="text-sm text-slabsoft">{passWords(sheet, entry, again)}</span>
    </p>
  );
}

interface BoxesProps extends Props {
  pad: boolean;
  setActive: (field: Field) => void;
}

function Boxes({ sheet, entry, onHelp, onPasses, pad, setActive }: BoxesProps) {
  const { draft, setDraft } = entry;
  const fields = fieldsOf(sheet);
  return fields.map((name, n) => (
    <Box
      key={name}
      name={sheet.entry.figures[n] ?? name}
      unit={typedUnit(sheet, n)}
      value={draft[name]}
      field={name === "first" ? entry.firstField : entry.secondField}
      pad={pad}
      wide={fields.length === 1}
      onFocus={() => setActive(name)}
      onChange={(text) => setDraft({ ...draft, [name]: text })}
      onKey={(e) => fieldKey(e, name, { sheet, entry, onHelp, onPasses })}
    />
  ));
}

/** What is typed beside the figures: the pressure at which it fires, a note. */
function Beside({ sheet, entry }: { sheet: SheetView; entry: Entry }) {
  const { draft, setDraft } = entry;
  const put = (change: Partial<Draft>) => setDraft({ ...draft, ...change });
  const toFirst = () => entry.firstField.current?.focus();
  return (
    <>
      {draft.fires !== null && (
        <NoteField
          label={`Injector ${entry.target.injector} opens only once the rail has bled to, ${sheet.unit}`}
          numeric
          value={draft.fires.trim()}
          onChange={(text) => put({ fires: text })}
          onDone={(cancelled) => {
            if (cancelled) {
              put({ fires: null });
              toFirst();
            } else entry.fired();
          }}
        />
      )}
      {draft.note !== "" && (
        <NoteField
          label="Note for this reading"
          value={draft.note.trimStart()}
          onChange={(text) => put({ note: text || " " })}
          onDone={(cancelled) => {
            if (cancelled) put({ note: "" });
            const whole = draft.first && (fieldsOf(sheet).length === 1 || draft.second);
            if (whole && !cancelled) entry.submit();
            else toFirst();
          }}
        />
      )}
    </>
  );
}

interface KnobsProps {
  sheet: SheetView;
  entry: Entry;
  pad: boolean;
  setPad: (pad: boolean) => void;
}

const MARK_CAPS = { none: ["X", "none"], over: ["O", "over"] } as const;

/** The touch twin of every key. */
function Knobs({ sheet, entry, pad, setPad }: KnobsProps) {
  const { draft, setDraft } = entry;
  const shape = shapeOf(sheet);
  const figures = fieldsOf(sheet).length > 0;
  const note = () => {
    setDraft({ ...draft, note: draft.note || " " });
    entry.firstField.current?.focus();
  };
  return (
    <div className="flex flex-wrap gap-1 short:min-w-0 short:flex-nowrap short:overflow-x-auto">
      {figures && <Knob cap="⏎" words="keep" act={entry.submit} />}
      {hasPasses(sheet) && <Knob cap="R" words="repeat" act={entry.repeat} />}
      {marksOf(sheet).map((mark) => (
        <Knob
          key={mark}
          cap={MARK_CAPS[mark][0]}
          words={MARK_CAPS[mark][1]}
          act={() => entry.mark(mark)}
        />
      ))}
      <shape.Knobs sheet={sheet} entry={entry} />
      {figures && <Knob cap="N" words="note" act={note} />}
      <Knob cap="^Z" words="undo" act={entry.undo} />
      {figures && <Knob cap="123" words="pad" pressed={pad} act={() => setPad(!pad)} />}
    </div>
  );
}
