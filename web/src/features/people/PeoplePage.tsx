/** Who belongs to the shop, its paired tablets, and who is signed in where. */
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { told, type StaffView, type Role } from "../../api/client";
import { useHere } from "../../lib/here";
import { Head } from "../../ui/Head";
import { BusyButton, Dialog, shortly, Text, Trouble } from "../../ui/parts";
import {
  devicesQuery,
  mayDo,
  peopleQuery,
  ROLES,
  signInsQuery,
  useAddPerson,
  useChangePerson,
  useEndDevice,
  useEndSignIn,
  useNewCode,
  usePairing,
  type Code,
} from "./people";

const MAY: Record<Role, string> = {
  reader: "looks, and changes nothing",
  technician: "jobs, sheets, readings, repairs",
  lead: "the shelf too, tablets, opening a job again",
  owner: "people too, and everything",
};

export default function PeoplePage() {
  const here = useHere();
  const [code, setCode] = useState<Code | null>(null);
  return (
    <>
      <title>People · Plumb</title>
      <Head title="People" sub="roles, tablets, who is signed in">
        <Link className="knob" to="/">
          Today
        </Link>
      </Head>
      <main className="mx-auto max-w-5xl p-4">
        <h1 className="mb-3 text-2xl font-bold">People</h1>
        {here && !here.network && (
          <p className="mb-4 max-w-prose">
            This Plumb stays on its own machine and asks nobody to sign in; what is done here is
            done by this workshop. Started with <code>--network</code> it opens to tablets, and to
            people.
          </p>
        )}
        {mayDo(here, "owner") && <Everybody show={setCode} />}
        {mayDo(here, "lead") && here?.network && <Tablets show={setCode} />}
        {here?.network && <SignIns />}
      </main>
      {code && <CodeDialog code={code} close={() => setCode(null)} />}
    </>
  );
}

type Show = (code: Code) => void;

function Everybody({ show }: { show: Show }) {
  const people = useQuery(peopleQuery);
  const change = useChangePerson();
  const anew = useNewCode();
  const trouble = people.error ?? change.error ?? anew.error;
  return (
    <section aria-label="Everybody" className="mb-6">
      <Trouble text={trouble ? told(trouble) : null} />
      <ul className="mb-3 overflow-hidden rounded-lg border border-hair">
        {(people.data ?? []).map((p) => (
          <Person
            key={p.id}
            person={p}
            change={(values) => change.mutate({ id: p.id, ...values })}
            code={() => anew.mutate(p.id, { onSuccess: show })}
          />
        ))}
      </ul>
      <AddPerson show={show} />
    </section>
  );
}

interface PersonProps {
  person: StaffView;
  change: (values: { role?: Role; active?: boolean }) => void;
  code: () => void;
}

function Person({ person, change, code }: PersonProps) {
  const { name, role, active } = person;
  return (
    <li className="flex flex-wrap items-center gap-x-4 gap-y-2 border-b border-hair bg-sheet px-3 py-2 last:border-b-0">
      <span className="min-w-40 grow">
        <b className={active ? "" : "text-soft line-through"}>{name}</b>
        <span className="block text-sm text-soft">{active ? comesIn(person) : "has left"}</span>
      </span>
      {active && (
        <label>
          <span className="sr-only">Role of {name}</span>
          <select
            className="field"
            value={role}
            onChange={(e) => change({ role: e.target.value as Role })}
          >
            {ROLES.map((r) => (
              <option key={r} value={r}>
                {r}: {MAY[r]}
              </option>
            ))}
          </select>
        </label>
      )}
      {active && (
        <button className="knob min-h-11" aria-label={`A new code for ${name}`} onClick={code}>
          New code
        </button>
      )}
      <button
        className="knob min-h-11"
        aria-label={active ? `${name} leaves` : `${name} is back`}
        onClick={() => change({ active: !active })}
      >
        {active ? "Leaves" : "Is back"}
      </button>
    </li>
  );
}

function comesIn(person: StaffView): string {
  const by = [person.pin && "PIN", person.password && "password"].filter(Boolean).join(" and ");
  return (
    [by && `comes in by ${by}`, person.code && "a code waits"].filter(Boolean).join("; ") ||
    "has no way in: give a new code"
  );
}

function AddPerson({ show }: { show: Show }) {
  const [name, setName] = useState("");
  const [role, setRole] = useState<Role>("technician");
  const add = useAddPerson();
  return (
    <form
      aria-label="Somebody new"
      className="flex flex-wrap items-end gap-3"
      onSubmit={(e) => {
        e.preventDefault();
        add.mutate(
          { name, role },
          {
            onSuccess: (made) => {
              setName("");
              show(made);
            },
          },
        );
      }}
    >
      <div className="grow basis-48">
        <Text label="Somebody new" value={name} onChange={setName} />
      </div>
      <label className="mb-2">
        <span className="label">Role</span>
        <select className="field" value={role} onChange={(e) => setRole(e.target.value as Role)}>
          {ROLES.map((r) => (
            <option key={r} value={r}>
              {r}: {MAY[r]}
            </option>
          ))}
        </select>
      </label>
      <BusyButton className="knob mb-2 min-h-11" disabled={name.trim() === ""} busy={add.isPending}>
        Add
      </BusyButton>
      <Trouble text={add.isError ? told(add.error) : null} />
    </form>
  );
}

function Tablets({ show }: { show: Show }) {
  const devices = useQuery(devicesQuery);
  const end = useEndDevice();
  const pair = usePairing();
  const trouble = devices.error ?? end.error ?? pair.error;
  return (
    <section aria-label="Tablets" className="mb-6">
      <h2 className="mb-1 text-lg font-bold">Tablets</h2>
      <Trouble text={trouble ? told(trouble) : null} />
      <ul className="mb-3">
        {(devices.data ?? []).map((d) => (
          <li key={d.id} className="flex flex-wrap items-center gap-3 border-b border-hair py-1.5">
            <span className="grow">
              <b className={d.ended ? "text-soft line-through" : ""}>{d.name}</b>
              <span className="block text-sm text-soft">
                paired {shortly(d.paired)}
                {d.ended ? `, ended ${shortly(d.ended)}` : `, last seen ${shortly(d.seen)}`}
              </span>
            </span>
            {!d.ended && (
              <button
                className="knob min-h-11"
                aria-label={`End ${d.name}`}
                onClick={() => end.mutate(d.id)}
              >
                End it
              </button>
            )}
          </li>
        ))}
      </ul>
      <button className="knob min-h-11" onClick={() => pair.mutate(undefined, { onSuccess: show })}>
        Pair a tablet
      </button>
    </section>
  );
}

function SignIns() {
  const signIns = useQuery(signInsQuery);
  const end = useEndSignIn();
  const trouble = signIns.error ?? end.error;
  return (
    <section aria-label="Signed in now">
      <h2 className="mb-1 text-lg font-bold">Signed in now</h2>
      <Trouble text={trouble ? told(trouble) : null} />
      <ul>
        {(signIns.data ?? []).map((s) => (
          <li key={s.id} className="flex flex-wrap items-center gap-3 border-b border-hair py-1.5">
            <span className="min-w-0 grow">
              <b>{s.person}</b> {s.device || s.where}
              <span className="block text-sm text-soft">
                since {shortly(s.begun)}, last seen {shortly(s.seen)}
              </span>
            </span>
            {s.mine ? (
              <span className="text-soft">this one</span>
            ) : (
              <button
                className="knob min-h-11"
                aria-label={`Sign out ${s.person}, ${s.device || s.where}`}
                onClick={() => end.mutate(s.id)}
              >
                Sign out
              </button>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}

/** A code is told this once. */
function CodeDialog({ code, close }: { code: Code; close: () => void }) {
  const title = code.person ? `A code for ${code.person.name}` : "Pair a tablet";
  return (
    <Dialog title={title} open onOpenChange={close}>
      {code.picture && (
        <>
          <p className="mb-2">
            Scan it with the tablet&rsquo;s camera, or open {code.address.split("#")[0]} there and
            type the code.
          </p>
          <img
            src={code.picture}
            alt={`QR code of ${code.address}`}
            className="mb-3 w-64 bg-white"
          />
        </>
      )}
      {code.person && (
        <p className="mb-2">
          It is shown this once. With it {code.person.name} comes in the first time, and chooses a
          PIN or a password.
        </p>
      )}
      <p className="figure select-all text-2xl font-bold">{code.code}</p>
      <p className="mt-2 text-soft">It works once, until {shortly(code.until)}.</p>
    </Dialog>
  );
}
