/** The entry line's state: where the cursor stands, what is typed, what is asked. */
import { useCallback, useMemo, useRef, useState } from "react";
import type { SheetView } from "../../api/client";
import { outbox, useOutbox } from "../../lib/store";
import { useSeat } from "../nozzle/useSeat";
import { mine, remember } from "./mine";
import {
  asReading,
  emptyDraft,
  hasPasses,
  heading,
  nextOpen,
  passNumber,
  questions,
  shownOf,
  standing,
  strokesOf,
  waitingFor,
  type Draft,
  type Extra,
  type Target,
  type WaitingReading,
} from "./entry";

export interface Option {
  key: string;
  label: string;
  act: () => void;
}

/** A question the technician has to answer before anything is kept. */
export interface Asking {
  text: string;
  options: Option[];
}

export function useEntry(sheet: SheetView) {
  const { waiting: all } = useOutbox();
  const waiting = useMemo(() => waitingFor(sheet.id, all), [sheet.id, all]);
  const [choice, setChoice] = useState<Target | null>(null);
  const [draft, setDraft] = useState<Draft>(emptyDraft);
  const [asking, setAsking] = useState<Asking | null>(null);
  const [said, setSaid] = useState("");
  const firstField = useRef<HTMLInputElement>(null);
  const secondField = useRef<HTMLInputElement>(null);

  const target = choice ?? standing(sheet, waiting);
  const row = sheet.rows.find((r) => r.injector === target.injector);
  const two = sheet.entry.shape === "burst";
  const noun = sheet.entry.shape === "stroke" ? "Nozzle" : "Injector";
  const called = [row?.name, `${noun} ${target.injector}`].find(Boolean) ?? "";

  // At once, so that the next figure of quick hands lands in the right field. While a question
  // stands the fields are hidden; the entry line gives the focus back when it is answered.
  const toFirst = useCallback(() => firstField.current?.focus(), []);

  const choose = useCallback(
    (injector: string, repeat = false) => {
      setChoice({ injector, repeat });
      setDraft(emptyDraft);
      setAsking(null);
      toFirst();
    },
    [toFirst],
  );

  /** Typing holds the cursor where it is, whatever the set says meanwhile. */
  const typing = (next: Draft) => {
    if (choice === null) setChoice(target);
    setDraft(next);
  };

  const again = () => {
    setAsking(null);
    toFirst();
  };

  const keep = (with_: Draft, extra: Extra) => {
    const id = crypto.randomUUID();
    const reading = asReading(id, sheet, target, with_, extra);
    remember(sheet.id, id);
    const mineNow: WaitingReading = {
      kind: "reading",
      sheetId: sheet.id,
      reading,
      seq: -1,
      problems: [],
      status: 0,
    };
    const soon = [...waiting, mineNow];
    void outbox.put({ kind: "reading", sheetId: sheet.id, reading });
    setChoice(nextOpen(sheet, soon, target.injector));
    setDraft(emptyDraft);
    setAsking(null);
    setSaid(`${called}: ${shownOf(reading)} kept.`);
    toFirst();
  };

  /** Ask whether a second typing corrects the pass that is there or adds one. */
  const askWhich = (with_: Draft, extra: Extra) => {
    // Another stack of shims begins anew; until a nozzle was stroked often enough each is one more.
    const more =
      sheet.entry.shape === "stroke" &&
      (with_.second.trim() !== "" ||
        (row !== undefined && strokesOf(row, waiting) < sheet.entry.strokes));
    if (more) {
      keep(with_, extra);
      return;
    }
    const queued = waiting.findLast((w) => w.reading.injector === target.injector)?.reading;
    const kept = row?.readings.at(-1);
    if ((!kept && !queued) || target.repeat || !hasPasses(sheet)) {
      keep(with_, extra);
      return;
    }
    const number = passNumber(row, waiting) - 1;
    const id = queued?.id ?? kept?.id ?? null;
    const was = queued ? shownOf(queued) : (kept?.shown ?? "");
    setAsking({
      text: `${called} already has pass ${number}: ${was}. Is this one more pass, or does it correct that one?`,
      options: [
        { key: "A", label: `Add pass ${passNumber(row, waiting)}`, act: () => keep(with_, extra) },
        {
          key: "C",
          label: `Correct pass ${number}`,
          act: () => keep(with_, { ...extra, replaces: id }),
        },
        { key: "Escape", label: "Type again", act: again },
      ],
    });
  };

  const submit = (with_: Draft = draft, confirmed: string[] = []) => {
    if (with_.first.trim() === "") {
      setAsking(null);
      setSaid(two ? "Type the first pressure, a space, and the second." : "Type the figure.");
      toFirst();
      return;
    }
    const open = questions(sheet, target, with_, confirmed);
    const asked = open[0];
    if (!asked) {
      if (two && with_.second.trim() === "") {
        secondField.current?.focus();
        return;
      }
      askWhich(with_, { confirmed });
      return;
    }
    const pair = asked.suggestion;
    const options: Option[] = [];
    if (pair) {
      const next = { ...with_, first: pair[0], second: pair[1] };
      options.push({
        key: "Enter",
        label: pair[1] === "" ? `Use ${pair[0]}` : `Use ${pair[0]} ${pair[1]}`,
        act: () => {
          setDraft(next);
          setAsking(null);
          if (next.second === "") setTimeout(() => secondField.current?.focus(), 0);
          else submit(next, confirmed);
        },
      });
    }
    if (!asked.refused) {
      options.push({
        key: "M",
        label: "I meant it",
        act: () => {
          setAsking(null);
          if (with_.second === "") setTimeout(() => secondField.current?.focus(), 0);
          else submit(with_, [...confirmed, ...open.map((q) => q.code)]);
        },
      });
    }
    options.push({ key: "Escape", label: "Type again", act: again });
    setAsking({ text: asked.text, options });
  };

  /** What is seen of a nozzle goes with the figure that is being typed, else with its last stroke. */
  const look = (seen: Partial<Pick<Draft, "sound" | "spray" | "seat" | "note">>) => {
    const queued = waiting.findLast((w) => w.reading.injector === target.injector)?.reading;
    const kept = row?.readings.at(-1);
    if (draft.first.trim() !== "" || (!queued && !kept)) {
      typing({ ...draft, ...seen });
      toFirst();
      return;
    }
    // What waits is the newest stroke: nothing of an older one is mixed into it. A kept one keeps
    // its shims on the server, exact to the digit.
    const was: Draft = queued
      ? {
          ...emptyDraft,
          first: queued.value ?? "",
          second: queued.shim ?? "",
          sound: queued.sound ?? "",
          spray: queued.spray ?? "",
          seat: queued.seat ?? "",
          note: queued.note,
        }
      : {
          ...emptyDraft,
          first: kept?.value_typed ?? "",
          sound: kept?.sound ?? "",
          spray: kept?.spray ?? "",
          seat: kept?.seat ?? "",
          note: kept?.note ?? "",
        };
    const silent = (queued ? queued.mark : kept?.mark) === "none";
    // The figure was asked about when it was typed.
    keep(
      { ...was, ...seen },
      {
        ...(silent ? { mark: "none" as const } : {}),
        replaces: queued?.id ?? kept?.id ?? null,
        confirmed: ["point_missing", "far_off", "off_step"],
      },
    );
  };
  const seat = useSeat(target.injector, look);

  const noResponse = () =>
    askWhich({ ...draft, second: "" }, { mark: sheet.entry.over ? "over" : "none" });
  const word = (code: string) => keep(draft, { word: code });

  /** Take back the last thing that was typed in this browser on this sheet. */
  const undo = () => {
    const unsent = waiting.at(-1);
    if (unsent) {
      const { seq, reading } = unsent;
      // What may have reached the server is taken back there too, right behind itself.
      if (outbox.wasTried(seq) && unsent.problems.length === 0) {
        void outbox.put({ kind: "take_back", sheetId: sheet.id, readingId: reading.id });
      } else void outbox.drop(seq);
      setSaid(`${reading.injector}: taken back before it was saved.`);
      choose(unsent.reading.injector);
      return;
    }
    const live = new Map(
      sheet.rows.flatMap((r) => r.readings.map((x) => [x.id, { row: r, reading: x }] as const)),
    );
    const last = mine(sheet.id)
      .reverse()
      .map((id) => live.get(id))
      .find((x) => x !== undefined);
    if (!last) {
      setSaid("Nothing typed here is left to take back.");
      return;
    }
    void outbox.put({ kind: "take_back", sheetId: sheet.id, readingId: last.reading.id });
    const pass = hasPasses(sheet) ? `, pass ${last.reading.pass_number}` : "";
    setSaid(
      `Took back ${last.row.name || `injector ${last.row.injector}`}${pass}: ${last.reading.shown}.`,
    );
    choose(last.row.injector);
  };

  const move = (by: number) => {
    const at = sheet.rows.findIndex((r) => r.injector === target.injector);
    const next = sheet.rows[(at + by + sheet.rows.length) % sheet.rows.length];
    if (next) choose(next.injector);
  };

  const refused = waiting.find((w) => w.problems.length > 0);
  return {
    target,
    row,
    waiting,
    draft,
    setDraft: typing,
    asking: asking ?? (refused ? serverAsking(refused) : null),
    said,
    firstField,
    secondField,
    choose,
    submit,
    noResponse,
    word,
    look,
    seat,
    undo,
    move,
    again,
    pass: passNumber(row, waiting),
    repeat: () => choose(target.injector, true),
  };
}

export type Entry = ReturnType<typeof useEntry>;

/** What the server would not keep: the person decides; until then it stays in the browser. */
export function serverAsking(item: WaitingReading): Asking {
  const { reading, problems, seq } = item;
  const options: Option[] = [];
  const meant = problems[0]?.suggestion.split(" ") ?? [];
  const isPair = meant.length === 2 && meant.every((p) => /^[\d.]+$/.test(p));
  const isOne = meant.length === 1 && /^[\d.]+$/.test(meant[0] ?? "");
  const act = (work: Promise<void>) => void work;
  if (isPair || isOne) {
    const change = isPair
      ? { first: meant[0] ?? null, second: meant[1] ?? null }
      : { value: meant[0] ?? null };
    options.push({
      key: "Enter",
      label: `Use ${meant.join(" ")}`,
      act: () => act(outbox.amend(seq, change)),
    });
  }
  if (problems.every((p) => p.confirmable)) {
    const codes = [...reading.confirmed, ...problems.map((p) => p.code)];
    options.push({
      key: "M",
      label: "I meant it",
      act: () => act(outbox.amend(seq, { confirmed: codes })),
    });
  }
  if (problems.some((p) => p.code === "slot_taken" || p.code === "gone")) {
    options.push({
      key: "A",
      label: "Keep it as another pass",
      act: () => act(outbox.amend(seq, { pass_number: null, replaces: null })),
    });
  }
  options.push({ key: "T", label: "Throw mine away", act: () => act(outbox.drop(seq)) });
  const where = reading.injector ? `${reading.injector}, ` : "";
  return { text: `${where}${shownOf(reading)}: ${heading(problems)}`, options };
}
