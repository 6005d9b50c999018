/** The hold: pressure against time, a timer that rings, and the isolation board under it. */
import { useQuery } from "@tanstack/react-query";
import { useEffect, useState, type KeyboardEvent } from "react";
import { useNavigate } from "react-router";
import type { HoldView, SheetView } from "../../api/client";
import { useRing } from "../../lib/clock";
import { jobQuery, sheetQuery } from "../../lib/store";
import { clock, TimeChart } from "../../ui/TimeChart";
import ClosedNote from "../job/ClosedNote";
import { Ask, Box, Knob, Pad } from "../sheet/EntryParts";
import { answerOf } from "../sheet/entry/refused";
import { CsvTools, Keys } from "../sheet/SheetTools";
import { Board } from "./Board";
import { useHold, type HoldEntry } from "./useHold";

function useHoldKeys(entry: HoldEntry, onHelp: () => void): void {
  const navigate = useNavigate();
  useEffect(() => {
    const onKey = (e: KeyboardEvent | globalThis.KeyboardEvent) => {
      const at = e.target instanceof HTMLElement ? e.target : null;
      if (e.defaultPrevented || at?.closest("select, textarea, [role=dialog]")) return;
      const answer = answerOf(entry.asking, e);
      if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === "z") {
        e.preventDefault();
        entry.undo();
      } else if (e.key === "Escape" && entry.value !== "") entry.clear();
      else if (answer) {
        e.preventDefault();
        answer.act();
      } else if (e.key === "/" && !e.ctrlKey) {
        e.preventDefault();
        void navigate("/?find");
      } else if (e.key === "?") {
        e.preventDefault();
        onHelp();
      } else if (/^\d$/.test(e.key) && !at?.closest("input, button")) {
        e.preventDefault();
        entry.setValue(entry.value + e.key);
        entry.field.current?.focus();
      }
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  });
}

/** Which side of the pump a hold is of; empty where there is only one. */
const sideOf = (sheet: SheetView) =>
  sheet.knobs.flatMap((k) => k.fields).find((f) => f.key === "rail")?.value ?? "";

/** The attempt before this one on the same job, of the same side and in the same unit. */
function useBefore(sheet: SheetView): HoldView | null {
  const job = useQuery({ ...jobQuery(sheet.job_number), enabled: sheet.again !== null });
  const knots = (job.data?.route ?? []).filter((k) => k.kind === sheet.kind && k.sheet_id);
  const earlier = knots.findIndex((k) => k.sheet_id === sheet.id);
  const id = knots[earlier - 1]?.sheet_id ?? 0;
  const there = useQuery({ ...sheetQuery(id), enabled: id !== 0 }).data;
  const same = there && there.unit === sheet.unit && sideOf(there) === sideOf(sheet);
  return same && there.hold && there.hold.points.length > 0 ? there.hold : null;
}

/** The curve as it grows, over that of the attempt before. */
function Curve({ sheet, entry }: { sheet: SheetView; entry: HoldEntry }) {
  const before = useBefore(sheet);
  if (!sheet.hold) return null;
  const waiting = entry.waiting
    .filter((w) => w.reading.at_s)
    .map((w) => ({ t: Number(w.reading.at_s), p: Number(w.reading.value) }));
  return (
    <div className="rounded-lg border border-hair bg-sheet p-2">
      <TimeChart
        hold={sheet.hold}
        unit={sheet.unit}
        waiting={waiting}
        now={entry.elapsed}
        {...(before ? { before: before.points } : {})}
      />
      {before && (
        <p className="px-2 text-sm text-soft">Dashed and outlined: the attempt before this one.</p>
      )}
    </div>
  );
}

export default function HoldSheet({ sheet }: { sheet: SheetView }) {
  const entry = useHold(sheet);
  const [dialog, setDialog] = useState<"csv" | "keys" | null>(null);
  const { field } = entry;

  useEffect(() => {
    field.current?.focus();
  }, [field, sheet.id]);

  useHoldKeys(entry, () => setDialog("keys"));

  if (!sheet.hold) return null;
  return (
    <>
      <div className="grid gap-3 md:grid-cols-[minmax(0,1fr)_11rem]">
        <Curve sheet={sheet} entry={entry} />
        <Timer sheet={sheet} elapsed={entry.elapsed} />
      </div>
      {sheet.closed ? (
        <ClosedNote number={sheet.job_number} />
      ) : (
        <HoldLine sheet={sheet} entry={entry} onHelp={() => setDialog("keys")} />
      )}
      <Board hold={sheet.hold} waiting={entry.waiting} tried={entry.tried} />
      <CsvTools sheet={sheet} open={dialog === "csv"} onOpen={(o) => setDialog(o ? "csv" : null)} />
      <Keys
        sheet={sheet}
        open={dialog === "keys"}
        onOpenChange={(o) => setDialog(o ? "keys" : null)}
      />
    </>
  );
}

function Timer({ sheet, elapsed }: { sheet: SheetView; elapsed: number | null }) {
  const due = sheet.hold?.due_s ?? null;
  const left = due === null || elapsed === null ? null : due - elapsed;
  useRing(left !== null && left <= 0 && left > -30);
  const none = (sheet.hold?.points.length ?? 0) === 0;
  return (
    <section
      aria-label="Timer"
      className="rounded-lg border border-hair bg-sheet p-3 text-sm leading-snug"
    >
      {none ? (
        <p>Pump off, then type the first pressure: the clock starts with it.</p>
      ) : due === null ? (
        <p className="font-bold">Every reading asked for is there.</p>
      ) : left === null ? (
        <p>
          Next reading asked for at <b>{clock(due)}</b>. The clock does not run any more: type the
          pressure and the seconds.
        </p>
      ) : (
        <>
          <p className="text-soft">Next reading at {clock(due)}</p>
          <p className="figure text-4xl font-bold" role="timer">
            {left > 0 ? clock(left) : "now"}
          </p>
          {left <= 0 && <p className="font-bold text-high">It is due: read and type it.</p>}
        </>
      )}
      {elapsed !== null && <p className="mt-2 text-soft">Pump off for {clock(elapsed)}.</p>}
      {sheet.hold?.line && <p className="mt-2">{sheet.hold.line}</p>}
      {sheet.hold?.settled_early && (
        <p className="mt-2 font-bold">It can be called now: the whole range is on one side.</p>
      )}
    </section>
  );
}

interface LineProps {
  sheet: SheetView;
  entry: HoldEntry;
  onHelp: () => void;
}

type Which = "value" | "at";

/** A key in one of the two fields. */
function fieldKey(e: KeyboardEvent<HTMLInputElement>, which: Which, entry: HoldEntry): void {
  if (e.key === "Enter" && !e.ctrlKey && !e.metaKey && !e.altKey) {
    e.preventDefault();
    entry.submit();
  } else if (e.key === " ") {
    e.preventDefault();
    if (which === "value") {
      entry.setAt("");
      entry.timeField.current?.focus();
    }
  } else if (e.key === "Backspace" && which === "at" && !entry.at) {
    e.preventDefault();
    entry.setAt(null);
    entry.field.current?.focus();
  }
}

/** A key of the number pad. */
function pressPad(key: string, active: Which, entry: HoldEntry): void {
  if (key === "next") {
    entry.submit();
    return;
  }
  const now = active === "value" ? entry.value : (entry.at ?? "");
  const next = key === "back" ? now.slice(0, -1) : now + key;
  if (active === "value") entry.setValue(next);
  else entry.setAt(next);
}

function HoldLine({ sheet, entry, onHelp }: LineProps) {
  const [pad, setPad] = useState(() => window.matchMedia("(pointer: coarse)").matches);
  const [active, setActive] = useState<Which>("value");
  return (
    <section
      aria-label="Entry"
      className="sticky bottom-0 z-20 mt-3 gap-3 rounded-lg bg-slab p-3 text-slabink md:flex short:p-2"
    >
      <div className="min-w-0 grow">
        {entry.asking && <Ask asking={entry.asking} then={() => entry.field.current?.focus()} />}
        <div className="flex flex-wrap items-center gap-2 short:flex-nowrap">
          <HoldBoxes unit={sheet.unit} entry={entry} pad={pad} setActive={setActive} />
          <div className="flex flex-wrap gap-1 short:min-w-0 short:flex-nowrap short:overflow-x-auto">
            <Knob cap="⏎" words="keep" act={entry.submit} />
            <Knob cap="^Z" words="undo" act={entry.undo} />
            <Knob cap="123" words="pad" pressed={pad} act={() => setPad(!pad)} />
          </div>
        </div>
        <div className="mt-1 flex items-baseline gap-3 text-sm text-slabsoft sm:min-h-6 short:hidden">
          <p aria-live="polite" className="grow">
            {entry.said || "The clock gives the time; a space and the seconds say another one."}
          </p>
          <button type="button" className="shrink-0 underline max-sm:hidden" onClick={onHelp}>
            all keys ?
          </button>
        </div>
      </div>
      {pad && <Pad press={(key) => pressPad(key, active, entry)} last="keep" />}
    </section>
  );
}

interface BoxesProps {
  unit: string;
  entry: HoldEntry;
  pad: boolean;
  setActive: (which: Which) => void;
}

function HoldBoxes({ unit, entry, pad, setActive }: BoxesProps) {
  return (
    <>
      <Box
        name="pressure"
        wide
        unit={unit}
        value={entry.value}
        field={entry.field}
        pad={pad}
        onFocus={() => setActive("value")}
        onChange={entry.setValue}
        onKey={(e) => fieldKey(e, "value", entry)}
      />
      <Box
        name="after"
        unit="s"
        value={entry.at ?? entry.auto}
        field={entry.timeField}
        pad={pad}
        onFocus={() => setActive("at")}
        onChange={entry.setAt}
        onKey={(e) => fieldKey(e, "at", entry)}
      />
    </>
  );
}
