/** Who is here, on the head of every screen: change of person, one's own PIN, and the way to people. */
import { useEffect, useState } from "react";
import { Link } from "react-router";
import { told, type Here } from "../../api/client";
import { untouchedFor } from "../../lib/touched";
import { BusyButton, Dialog, Trouble } from "../../ui/parts";
import { Secret } from "./forms";
import { mayDo, signOut, useChangeOwn } from "./people";

const A_MINUTE_MS = 60_000;

/** After so long without a touch the names stand there again; what was typed is kept. */
function useIdle(minutes: number): void {
  useEffect(() => {
    const clock = setInterval(() => {
      // Without the server nobody could come in again: the page stays as it is.
      if (untouchedFor() > minutes * A_MINUTE_MS) signOut().catch(() => undefined);
    }, A_MINUTE_MS / 2);
    return () => clearInterval(clock);
  }, [minutes]);
}

export default function Who({ here }: { here: Here }) {
  const [open, setOpen] = useState(false);
  const [error, setError] = useState<unknown>(null);
  useIdle(here.idle_minutes);
  const change = () => {
    setError(null);
    signOut().catch(setError);
  };
  return (
    <>
      <button className="knob font-bold" aria-haspopup="dialog" onClick={() => setOpen(true)}>
        {here.person?.name}
      </button>
      {open && (
        <Dialog title={here.person?.name ?? ""} open onOpenChange={setOpen} note={placeOf(here)}>
          <Trouble text={error ? told(error) : null} />
          <button className="slab-knob mb-3 min-h-16 w-full text-lg" onClick={change}>
            {here.device ? "Somebody else" : "Sign out"}
          </button>
          <Links here={here} />
          <Own here={here} />
        </Dialog>
      )}
    </>
  );
}

function placeOf(here: Here): string {
  return here.device ? `${here.person?.role} at ${here.device}` : (here.person?.role ?? "");
}

function Links({ here }: { here: Here }) {
  return (
    <nav aria-label="People" className="mb-4 flex flex-wrap gap-2">
      <Link className="knob min-h-12" to="/people">
        {mayDo(here, "lead") ? "People and tablets" : "Where I am signed in"}
      </Link>
      {mayDo(here, "lead") && (
        <Link className="knob min-h-12" to="/journal">
          Who changed what
        </Link>
      )}
    </nav>
  );
}

/** A new PIN or password of one's own. */
function Own({ here }: { here: Here }) {
  const [now, setNow] = useState({ current: "", password: "", pin: "" });
  const keep = useChangeOwn();
  const put = (change: Partial<typeof now>) => setNow({ ...now, ...change });
  const ready = now.current !== "" && (now.pin !== "" || now.password !== "");
  return (
    <details>
      <summary className="min-h-11 py-2 font-bold">Another PIN or password</summary>
      <form
        aria-label="Another PIN or password"
        onSubmit={(e) => {
          e.preventDefault();
          keep.mutate(now, { onSuccess: () => setNow({ current: "", password: "", pin: "" }) });
        }}
      >
        <Secret
          label={here.device ? "Present PIN, or password" : "Present password"}
          value={now.current}
          onChange={(current) => put({ current })}
          kind="current-password"
        />
        <Secret
          label="New PIN: 4 to 8 digits"
          value={now.pin}
          onChange={(pin) => put({ pin: pin.replaceAll(/\D/g, "") })}
          kind="new-password"
          digits
        />
        <Secret
          label="New password: 12 characters or more"
          value={now.password}
          onChange={(password) => put({ password })}
          kind="new-password"
        />
        <Trouble text={keep.isError ? told(keep.error) : null} />
        {keep.isSuccess && <p role="status">Kept. Everywhere else you are signed out.</p>}
        <BusyButton className="knob min-h-12" disabled={!ready} busy={keep.isPending}>
          Keep
        </BusyButton>
      </form>
    </details>
  );
}
