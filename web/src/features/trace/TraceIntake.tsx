/** Choose a trace, say which column is what, send it: with progress, and a way to stop. */
import { useMutation, useQuery } from "@tanstack/react-query";
import { useEffect, useId, useRef, useState } from "react";
import api, {
  got,
  told,
  type SheetView,
  type TraceHead,
  type TraceView,
  type Kind,
} from "../../api/client";
import { tooLarge } from "../../lib/size";
import { catalogueQuery } from "../../lib/store";
import { BusyButton, Trouble } from "../../ui/parts";
import { upload, type Upload } from "./upload";

const HEAD_BYTES = 60_000;
const UNITS = ["bar", "kPa", "MPa", "psi", "kgf/cm2"];

interface Props {
  sheet: SheetView;
  given: File | null;
  done: (view: TraceView) => void;
}

type Picks = Record<string, string>;

/** What the first lines of a file say about its columns. */
function useColumns(sheet: SheetView, file: File | null) {
  return useQuery({
    queryKey: ["trace-head", sheet.kind, file?.name, file?.size, file?.lastModified],
    enabled: file !== null,
    queryFn: () => {
      // As it is: which coding it has, the server tells as it does when it reads the whole.
      const head = (file ?? new Blob()).slice(0, HEAD_BYTES);
      return got(
        api.POST("/api/trace-columns", {
          params: { query: { kind: sheet.kind as Kind } },
          body: "",
          bodySerializer: () => head,
          headers: { "Content-Type": "text/csv" },
        }),
      );
    },
  });
}

/** Send a file as it is, with its progress; it can be stopped. */
function useSend(sheet: SheetView, picks: Picks, done: Props["done"]) {
  const [share, setShare] = useState(0);
  const running = useRef<Upload | null>(null);
  const send = useMutation({
    mutationFn: (chosen: File) => {
      setShare(0);
      running.current = upload(sheet.id, chosen, picks, setShare);
      return running.current.done;
    },
    onSuccess: done,
  });
  // A window that is closed stops what it was sending.
  useEffect(() => () => running.current?.stop(), []);
  return { send, share, stop: () => running.current?.stop() };
}

/** Every column that is needed has been named, and so has the unit. */
function mapped(head: TraceHead | undefined, picks: Picks): boolean {
  if (!head?.fits) return false;
  const missing = head.roles.some((r) => r.needed && !(picks[r.code] ?? r.column));
  return !missing && !(head.unit_missing && !picks.unit);
}

export function TraceIntake({ sheet, given, done }: Props) {
  const [file, setFile] = useState<File | null>(given);
  const [picks, setPicks] = useState<Picks>({});
  const large = tooLarge(file, useQuery(catalogueQuery).data?.largest.trace);
  const head = useColumns(sheet, large ? null : file);
  const { send, share, stop } = useSend(sheet, picks, done);
  const choose = (chosen: File | null) => {
    setFile(chosen);
    setPicks({});
    send.reset();
  };
  return (
    <div className="grid gap-3">
      <WhichFile choose={choose} busy={send.isPending} />
      {given && file === given && <p>{given.name}</p>}
      {head.data && <Columns head={head.data} picks={picks} pick={setPicks} />}
      <div aria-live="polite">
        <Trouble text={large} />
        {head.isFetching && <p>Looking at its first lines…</p>}
        <Trouble text={head.isError ? told(head.error) : null} />
        {send.isPending && <Progress share={share} />}
        <Trouble text={send.isError ? told(send.error) : null} />
      </div>
      <div className="flex gap-2">
        <BusyButton
          type="button"
          className="slab-knob"
          disabled={!file || !mapped(head.data, picks)}
          busy={send.isPending}
          onClick={() => file && send.mutate(file)}
        >
          Take it in
        </BusyButton>
        {send.isPending && (
          <button type="button" className="knob min-h-12" onClick={stop}>
            Stop
          </button>
        )}
      </div>
    </div>
  );
}

function WhichFile({ choose, busy }: { choose: (file: File | null) => void; busy: boolean }) {
  const id = useId();
  return (
    <label className="block" htmlFor={id}>
      <span className="label mb-1">
        CSV with names and units in its first line, up to two million samples
      </span>
      <input
        id={id}
        type="file"
        accept=".csv,.txt,text/csv,text/plain"
        className="field py-2"
        disabled={busy}
        onChange={(e) => choose(e.target.files?.[0] ?? null)}
      />
    </label>
  );
}

function Progress({ share }: { share: number }) {
  const percent = Math.round(100 * share);
  return (
    <label className="block">
      <span className="label">
        {percent < 100 ? `Reading, ${percent} %` : "Read; looking for what is in it…"}
      </span>
      <progress className="h-3 w-full accent-[var(--chalk)]" max={100} value={percent} />
    </label>
  );
}

interface ColumnsProps {
  head: TraceHead;
  picks: Picks;
  pick: (picks: Picks) => void;
}

/** Which column is what; what was guessed stands there already. */
function Columns({ head, picks, pick }: ColumnsProps) {
  if (!head.fits) {
    return (
      <ul className="list-disc pl-6">
        {head.problems.map((p) => (
          <li key={p}>{p}</li>
        ))}
      </ul>
    );
  }
  return (
    <fieldset className="grid gap-2">
      <legend className="label mb-1">Which column is what</legend>
      {head.roles.map((role) => (
        <label key={role.code} className="grid grid-cols-[9rem_1fr] items-center gap-2">
          <span>{role.label}</span>
          <select
            className="field"
            value={picks[role.code] ?? role.column}
            onChange={(e) => pick({ ...picks, [role.code]: e.target.value })}
          >
            {!role.needed && <option value="-">none</option>}
            {role.needed && !role.column && <option value="">choose</option>}
            {head.columns.map((c) => (
              <option key={c.name} value={c.name}>
                {c.name}
                {c.unit ? ` [${c.unit}]` : ""}: {c.cells.join(", ")} …
              </option>
            ))}
          </select>
        </label>
      ))}
      {head.unit_missing && (
        <WhichUnit unit={picks.unit ?? ""} choose={(unit) => pick({ ...picks, unit })} />
      )}
    </fieldset>
  );
}

function WhichUnit({ unit, choose }: { unit: string; choose: (unit: string) => void }) {
  return (
    <label className="grid grid-cols-[9rem_1fr] items-center gap-2">
      <span>unit of pressure</span>
      <select className="field" value={unit} onChange={(e) => choose(e.target.value)}>
        <option value="">choose</option>
        {UNITS.map((u) => (
          <option key={u}>{u}</option>
        ))}
      </select>
    </label>
  );
}
