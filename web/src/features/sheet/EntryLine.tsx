/** The entry line: always in the same place, big enough to read from the driver's seat. */
import { useEffect, useRef, useState, type KeyboardEvent } from "react";
import type { SheetView } from "../../api/client";
import { NozzleKnobs, SeatClock, seenNow } from "../nozzle/Nozzle";
import type { Draft } from "./entry";
import { hasMark, hasPasses, nextOf } from "./entry";
import { Ask, Box, Knob, NoteField, Pad } from "./EntryParts";
import type { Entry } from "./useEntry";

interface Props {
  sheet: SheetView;
  entry: Entry;
  onHelp: () => void;
}

export function EntryLine({ sheet, entry, onHelp }: Props) {
  const [pad, setPad] = useState(() => window.matchMedia("(pointer: coarse)").matches);
  const { draft, setDraft, target, row } = entry;
  const [active, setActive] = useState<"first" | "second">("first");
  const again = (row?.readings.length ?? 0) > 0;
  const put = (change: Partial<Draft>) => setDraft({ ...draft, ...change });
  const words = sheet.entry.shape === "words";
  const fields = words ? [] : (["first", "second"] as const).slice(0, sheet.entry.figures.length);
  useFocusBack(entry);

  const press = (key: string) => {
    if (key === "next") {
      const whole = draft.first.length > 3 || sheet.entry.shape !== "burst";
      if (active === "first" && !whole) entry.secondField.current?.focus();
      else entry.submit();
      return;
    }
    const text = draft[active];
    put({ [active]: key === "back" ? text.slice(0, -1) : text + key });
  };

  return (
    <section
      aria-label="Entry"
      className="sticky bottom-0 z-20 mt-3 rounded-lg bg-slab p-3 text-slabink"
    >
      {entry.asking && <Ask asking={entry.asking} />}
      <div className={`flex flex-wrap items-center gap-2 ${entry.asking ? "hidden" : ""}`}>
        <p className="min-w-15">
          <span
            className={
              row?.name ? "block text-xl font-bold" : "figure block text-3xl font-bold leading-none"
            }
          >
            {row?.name === "" ? target.injector : (row?.name ?? target.injector)}
          </span>
          <span className="text-sm text-slabsoft">{passWords(sheet, entry, again)}</span>
        </p>
        {fields.map((name, n) => (
          <Box
            key={name}
            name={sheet.entry.figures[n] ?? name}
            unit={sheet.entry.units[n] ?? sheet.gauge.unit}
            value={draft[name]}
            field={name === "first" ? entry.firstField : entry.secondField}
            pad={pad}
            wide={fields.length === 1}
            signed={sheet.kind === "correction"}
            onFocus={() => setActive(name)}
            onChange={(text) => put({ [name]: text })}
            onKey={(e) => keys(e, name, sheet, entry, onHelp)}
          />
        ))}
        <Knobs sheet={sheet} entry={entry} pad={pad} setPad={setPad} />
      </div>
      {!entry.asking && <SeatClock entry={entry} />}
      {!entry.asking && draft.fires !== null && (
        <NoteField
          label={`Opens only once the rail has bled to, ${sheet.gauge.unit}`}
          numeric
          value={draft.fires.trim()}
          onChange={(text) => put({ fires: text.replace(/[^\d.,]/g, "") })}
          onDone={(cancelled) => {
            if (cancelled) put({ fires: null });
            entry.firstField.current?.focus();
          }}
        />
      )}
      {!entry.asking && draft.note !== "" && (
        <NoteField
          label="Note for this reading"
          value={draft.note.trimStart()}
          onChange={(text) => put({ note: text || " " })}
          onDone={(cancelled) => {
            if (cancelled) put({ note: "" });
            const whole = draft.first && (fields.length === 1 || draft.second);
            if (whole && !cancelled) entry.submit();
            else entry.firstField.current?.focus();
          }}
        />
      )}
      <div className="mt-1 flex items-baseline gap-3 text-sm text-slabsoft sm:min-h-6">
        <p aria-live="polite" className="grow">
          {entry.said || (
            <span className="max-sm:hidden">{hint(sheet, again && !target.repeat)}</span>
          )}
        </p>
        <button type="button" className="shrink-0 underline max-sm:hidden" onClick={onHelp}>
          all keys ?
        </button>
      </div>
      {pad && !entry.asking && !words && <Pad press={press} />}
    </section>
  );
}

/** When a question was answered the fields come back, and the cursor with them. */
function useFocusBack(entry: Entry): void {
  const asked = useRef(false);
  const { asking, firstField } = entry;
  useEffect(() => {
    if (asked.current && !asking) firstField.current?.focus();
    asked.current = asking !== null;
  }, [asking, firstField]);
}

function passWords(sheet: SheetView, entry: Entry, again: boolean): string {
  if (!hasPasses(sheet)) return again ? "noted" : "open";
  return entry.target.repeat || !again
    ? `pass ${entry.pass}`
    : `has ${entry.row?.readings.length ?? 0}`;
}

function hint(sheet: SheetView, again: boolean): string {
  if (sheet.entry.shape === "words") {
    const letters = sheet.entry.words.map((w) => `${w.key.toUpperCase()} ${w.label}`).join(", ");
    return `Press the letter: ${letters}. The cursor goes on by itself.`;
  }
  if (sheet.entry.shape === "stroke") {
    return "Pressure, a space and the shims inside, then Enter; C sound, S spray, T holds the seat.";
  }
  if (sheet.entry.shape === "value") {
    return "Type the figure, then Enter; the cursor goes on in the order of reach.";
  }
  return again
    ? "Arrows choose an injector; R repeats this one. Run the engine 10 to 20 s before the next burst."
    : "Type both with a space between, then Enter. One burst per key cycle; then run the engine 10 to 20 s.";
}

/** Keys while a figure is typed: letters are commands, because figures have none. */
function keys(
  e: KeyboardEvent<HTMLInputElement>,
  field: "first" | "second",
  sheet: SheetView,
  entry: Entry,
  onHelp: () => void,
): void {
  if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === "z") {
    e.preventDefault();
    entry.undo();
    return;
  }
  if (e.ctrlKey || e.metaKey || e.altKey) return;
  const two = sheet.entry.figures.length > 1;
  const burst = sheet.entry.shape === "burst";
  if (e.key === "Enter") {
    e.preventDefault();
    const short = entry.draft.second === "" && entry.draft.first.trim().length <= 2;
    if (burst && field === "first" && short) {
      if (entry.draft.first !== "") entry.secondField.current?.focus();
    } else entry.submit();
  } else if (e.key === " ") {
    e.preventDefault();
    if (two && field === "first" && entry.draft.first !== "") entry.secondField.current?.focus();
  } else if (e.key === "Backspace" && field === "second" && entry.draft.second === "") {
    e.preventDefault();
    entry.firstField.current?.focus();
  } else command(e, sheet, entry, onHelp);
}

/** The letters and arrows, from anywhere on the sheet. */
export function command(
  e: Pick<KeyboardEvent, "key" | "preventDefault">,
  sheet: SheetView,
  entry: Entry,
  onHelp: () => void,
): void {
  const { draft, setDraft } = entry;
  const key = e.key.toLowerCase();
  const { burst_marks: burst, sprays, over } = sheet.entry;
  const acts: Record<string, () => void> = {
    n: () => setDraft({ ...draft, note: draft.note === "" ? " " : draft.note }),
    arrowdown: () => entry.move(1),
    arrowup: () => entry.move(-1),
    "?": onHelp,
  };
  if (hasPasses(sheet)) acts.r = entry.repeat;
  if (hasMark(sheet)) acts[over ? "o" : "x"] = entry.noResponse;
  if (burst) {
    acts.l = () => setDraft({ ...draft, late: !draft.late });
    acts.b = () => setDraft({ ...draft, buzz: !draft.buzz });
    acts.f = () => setDraft({ ...draft, fires: draft.fires === null ? " " : null });
  }
  if (sheet.entry.shape === "stroke") {
    acts.c = () => entry.look({ sound: nextOf(sheet.entry.sounds, seenNow(entry, "sound")) });
    acts.s = () => entry.look({ spray: nextOf(sprays, seenNow(entry, "spray")) });
    acts.t = entry.seat.begin;
    if (entry.seat.held !== null) {
      acts.d = () => entry.seat.seen("dry");
      acts.m = () => entry.seat.seen("damp");
      acts.w = () => entry.seat.seen("wet");
      acts.escape = entry.seat.stop;
    }
  } else if (sprays.length > 0) {
    acts.s = () => setDraft({ ...draft, spray: nextOf(sprays, draft.spray) });
  }
  for (const word of sheet.entry.words) acts[word.key] = () => entry.word(word.code);
  const act = acts[key];
  if (act) {
    e.preventDefault();
    act();
  }
}

/** A figure with its sign turned round. */
function turned(text: string): string {
  return text.startsWith("-") ? text.slice(1) : `-${text.replace(/^\+/, "")}`;
}

interface KnobsProps {
  sheet: SheetView;
  entry: Entry;
  pad: boolean;
  setPad: (pad: boolean) => void;
}

/** The touch twin of every key. */
function Knobs({ sheet, entry, pad, setPad }: KnobsProps) {
  const { draft, setDraft } = entry;
  const set = (change: Partial<Draft>) => {
    setDraft({ ...draft, ...change });
    entry.firstField.current?.focus();
  };
  const { words, burst_marks: burst, sprays, over } = sheet.entry;
  const figures = words.length === 0;
  return (
    <div className="flex flex-wrap gap-1">
      {words.map((w) => (
        <Knob
          key={w.code}
          cap={w.key.toUpperCase()}
          words={w.label}
          act={() => entry.word(w.code)}
        />
      ))}
      {figures && <Knob cap="⏎" words="keep" act={() => entry.submit()} />}
      {figures && hasPasses(sheet) && <Knob cap="R" words="repeat" act={entry.repeat} />}
      {figures && hasMark(sheet) && (
        <Knob cap={over ? "O" : "X"} words={over ? "over" : "none"} act={entry.noResponse} />
      )}
      {burst && (
        <>
          <Knob cap="L" words="late" pressed={draft.late} act={() => set({ late: !draft.late })} />
          <Knob cap="B" words="buzz" pressed={draft.buzz} act={() => set({ buzz: !draft.buzz })} />
          <Knob
            cap="F"
            words="fires"
            pressed={draft.fires !== null}
            act={() => set({ fires: draft.fires === null ? " " : null })}
          />
        </>
      )}
      {sheet.entry.shape === "stroke" && <NozzleKnobs sheet={sheet} entry={entry} />}
      {sprays.length > 0 && sheet.entry.shape !== "stroke" && (
        <Knob
          cap="S"
          words={draft.spray ? `spray ${draft.spray}` : "spray"}
          pressed={draft.spray !== ""}
          act={() => set({ spray: nextOf(sprays, draft.spray) })}
        />
      )}
      {sheet.kind === "correction" && (
        <Knob cap="±" words="sign" act={() => set({ first: turned(draft.first) })} />
      )}
      {figures && <Knob cap="N" words="note" act={() => set({ note: draft.note || " " })} />}
      <Knob cap="^Z" words="undo" act={entry.undo} />
      {figures && <Knob cap="123" words="pad" pressed={pad} act={() => setPad(!pad)} />}
    </div>
  );
}
