/** What the server would not keep, of whatever sheet: what was said, and what can be done with it. */
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import type { SheetView } from "../api/client";
import { asAnotherPass, heading, mayGoAgain, shownOf, takesAnotherPass } from "../lib/aside";
import { nameOf, stood, withChange } from "../lib/conditions";
import type { Waiting } from "../lib/outbox";
import { saidOn } from "../lib/notes";
import { isUnsent } from "../lib/places";
import { jobQuery, outbox, sheetQuery, thereQuery, useOutbox } from "../lib/store";
import { Dialog } from "./parts";

export function ToDecide() {
  const [open, setOpen] = useState(false);
  const { waiting } = useOutbox();
  const aside = waiting.filter((w) => w.problems.length > 0);
  return (
    <>
      <button className="knob" onClick={() => setOpen(true)}>
        Look at {aside.length === 1 ? "it" : "them"}
      </button>
      <Dialog
        title="What the server did not keep"
        note="It stays in this browser until you decide. Everything else was sent."
        open={open && aside.length > 0}
        onOpenChange={setOpen}
        wide
      >
        <ul className="grid gap-3">
          {aside.map((item) => (
            <Item key={item.seq} item={item} leave={() => setOpen(false)} />
          ))}
        </ul>
      </Dialog>
    </>
  );
}

interface ItemProps {
  item: Waiting;
  leave: () => void;
}

/** What an errand is about, in words. */
function whatOf(item: Waiting, sheet: SheetView | undefined): string {
  if (item.kind === "take_back") return "Taking a reading back";
  if (item.kind === "job") {
    return `A new job: ${item.vehicle?.name ?? item.job.vehicle_name}`;
  }
  if (item.kind === "sheet") return `A new sheet on job ${item.number}`;
  if (item.kind === "note") return `On job ${item.number}: ${item.note.words}`;
  if (item.kind === "engine_run") return "A run of the engine";
  if (item.kind === "change") {
    const keys = Object.keys(item.was);
    return keys.map((k) => (sheet ? nameOf(sheet, k) : k)).join(", ");
  }
  const row = item.reading.injector;
  const named = sheet?.rows.find((r) => r.injector === row)?.name ?? "";
  const where = row === "" ? "" : `${named === "" ? `Injector ${row}` : named}: `;
  return where + shownOf(item.reading);
}

const onJob = (sheet: SheetView) =>
  isUnsent(sheet.job_number) ? "" : `on job ${sheet.job_number}, `;

/** One that stepped aside: where it belongs, what it was, what was said. */
function Item({ item, leave }: ItemProps) {
  const beneath = outbox.beneath(item).length;
  const sheet = useQuery({
    ...sheetQuery(item.sheetId),
    refetchInterval: false,
    enabled: item.sheetId !== 0,
  }).data;
  return (
    <li className="grid gap-2 rounded-lg border border-hair bg-field p-3">
      <p>
        <b>{whatOf(item, sheet)}</b>
        {sheet && `, ${onJob(sheet)}${sheet.title}`}
        {item.by && <span className="text-soft"> by {item.by.name}</span>}
      </p>
      <p className="border-l-4 border-chalk pl-2">{heading(item.problems)}</p>
      {item.kind === "change" && <SideBySide item={item} />}
      {item.kind === "note" && item.note.was && <TakeYours item={item} />}
      <p className="flex flex-wrap gap-2">
        {sheet && item.kind === "reading" && (
          <Link
            className="knob"
            to={`/jobs/${encodeURIComponent(sheet.job_number)}/${sheet.key}`}
            onClick={leave}
          >
            Change it on its sheet
          </Link>
        )}
        {mayGoAgain(item) && (
          <button className="knob" onClick={() => void outbox.again(item.seq)}>
            Send it again
          </button>
        )}
        {takesAnotherPass(item) && (
          <button className="knob" onClick={() => void outbox.amend(item.seq, asAnotherPass)}>
            Keep it as another pass
          </button>
        )}
        <button className="knob" onClick={() => void outbox.drop(item.seq)}>
          Throw it away{beneath > 0 && `, and the ${beneath} entered on it`}
        </button>
      </p>
    </li>
  );
}

/** What is complained of, over what somebody else made of it meanwhile. */
function TakeYours({ item }: { item: Extract<Waiting, { kind: "note" }> }) {
  const job = useQuery(jobQuery(item.number)).data;
  if (!job || !item.problems.some((p) => p.code === "changed_meanwhile")) return null;
  return (
    <button
      className="knob justify-self-start"
      onClick={() => void outbox.insistOnSaid(item.seq, saidOn(job))}
    >
      Take yours
    </button>
  );
}

const told = (text = "") => (text === "" ? "empty" : text);
type ChangeItem = Extract<Waiting, { kind: "change" }>;

/** A change beside what somebody else made of the same meanwhile; one of them stays. */
function SideBySide({ item }: { item: ChangeItem }) {
  const there = useQuery(thereQuery(item.sheetId)).data;
  if (!there || !item.problems.some((p) => p.code === "changed_meanwhile")) return null;
  const now = stood(there, item.change);
  const mine = stood(withChange(there, item.change), item.change);
  return (
    <>
      <table className="w-full text-left">
        <thead>
          <tr className="text-sm text-soft">
            <th className="pr-3">What</th>
            <th className="pr-3">It was</th>
            <th className="pr-3">Yours</th>
            <th>There now</th>
          </tr>
        </thead>
        <tbody>
          {Object.entries(item.was).map(([key, was]) => (
            <tr key={key} className="border-t border-hair align-top">
              <th className="pr-3 font-normal">{nameOf(there, key)}</th>
              <td className="pr-3">{told(was)}</td>
              <td className="pr-3 font-bold">{told(mine[key])}</td>
              <td>{told(now[key])}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <button className="knob justify-self-start" onClick={() => void outbox.insist(item.seq, now)}>
        Take yours
      </button>
    </>
  );
}
