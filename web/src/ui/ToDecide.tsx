/** What the server would not keep, of whatever sheet: what was said, and what can be done with it. */
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { asAnotherPass, heading, mayGoAgain, shownOf, takesAnotherPass } from "../lib/aside";
import type { Waiting } from "../lib/outbox";
import { outbox, sheetQuery, useOutbox } from "../lib/store";
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

/** One that stepped aside: where it belongs, what it was, what was said. */
function Item({ item, leave }: ItemProps) {
  const sheet = useQuery({ ...sheetQuery(item.sheetId), refetchInterval: false }).data;
  const row = item.kind === "reading" ? item.reading.injector : "";
  const named = sheet?.rows.find((r) => r.injector === row)?.name ?? "";
  const where = row === "" ? "" : `${named === "" ? `Injector ${row}` : named}: `;
  const what = item.kind === "reading" ? where + shownOf(item.reading) : "Taking a reading back";
  return (
    <li className="grid gap-2 rounded-lg border border-hair bg-field p-3">
      <p>
        <b>{what}</b>
        {sheet && `, on job ${sheet.job_number}, ${sheet.title}`}
      </p>
      <p className="border-l-4 border-chalk pl-2">{heading(item.problems)}</p>
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
          Throw it away
        </button>
      </p>
    </li>
  );
}
