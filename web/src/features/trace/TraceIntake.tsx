/** Choose a trace, say which column is what, send it: with progress, and a way to stop. */
import { useMutation, useQuery } from "@tanstack/react-query";
import { useEffect, useId, useRef, useState } from "react";
import api, { got, told, type SheetView, type TraceHead, type TraceView } from "../../api/client";
import { Trouble } from "../../ui/parts";
import { upload, type Upload } from "./upload";

const HEAD_BYTES = 60_000;
const UNITS = ["bar", "kPa", "MPa", "psi", "kgf/cm2"];

interface Props {
  sheet: SheetView;
  given: File | null;
  done: (view: TraceView) => void;
}

export function TraceIntake({ sheet, given, done }: Props) {
  const id = useId();
  const [file, setFile] = useState<File | null>(given);
  const [picks, setPicks] = useState<Record<string, string>>({});
  const [share, setShare] = useState(0);
  const running = useRef<Upload | null>(null);
  const head = useQuery({
    queryKey: ["trace-head", sheet.kind, file?.name, file?.size, file?.lastModified],
    enabled: file !== null,
    queryFn: async () => {
      const text = await (file ?? new Blob()).slice(0, HEAD_BYTES).text();
      return got(
        api.POST("/api/trace-columns", {
          params: { query: { kind: sheet.kind as "pressure_drop" } },
          body: text,
          bodySerializer: (body: string) => body,
          headers: { "Content-Type": "text/csv" },
        }),
      );
    },
  });
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
  const unmapped = head.data?.roles.some((r) => r.needed && !(picks[r.code] ?? r.column)) ?? true;
  const unitless = head.data?.unit_missing === true && !picks.unit;
  const ready = head.data?.fits === true && !unmapped && !unitless && file !== null;
  return (
    <div className="grid gap-3">
      <label className="block" htmlFor={id}>
        <span className="label">
          CSV with names and units in its first line, up to two million samples
        </span>
        <input
          id={id}
          type="file"
          accept=".csv,.txt,text/csv,text/plain"
          className="field py-2"
          disabled={send.isPending}
          onChange={(e) => {
            setFile(e.target.files?.[0] ?? null);
            setPicks({});
            send.reset();
          }}
        />
      </label>
      {given && file === given && <p>{given.name}</p>}
      {head.data && <Columns head={head.data} picks={picks} pick={setPicks} />}
      <div aria-live="polite">
        {head.isFetching && <p>Looking at its first lines…</p>}
        <Trouble text={head.isError ? told(head.error) : null} />
        {send.isPending && <Progress share={share} />}
        <Trouble text={send.isError ? told(send.error) : null} />
      </div>
      <div className="flex gap-2">
        <button
          type="button"
          className="slab-knob"
          disabled={!ready || send.isPending}
          onClick={() => {
            if (file) send.mutate(file);
          }}
        >
          Take it in
        </button>
        {send.isPending && (
          <button type="button" className="knob min-h-12" onClick={() => running.current?.stop()}>
            Stop
          </button>
        )}
      </div>
    </div>
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
  picks: Record<string, string>;
  pick: (picks: Record<string, string>) => void;
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
  const called = (name: string) => {
    const one = head.columns.find((c) => c.name === name);
    if (!one) return name;
    return `${one.name}${one.unit ? ` [${one.unit}]` : ""}: ${one.cells.join(", ")} …`;
  };
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
                {called(c.name)}
              </option>
            ))}
          </select>
        </label>
      ))}
      {head.unit_missing && (
        <label className="grid grid-cols-[9rem_1fr] items-center gap-2">
          <span>unit of pressure</span>
          <select
            className="field"
            value={picks.unit ?? ""}
            onChange={(e) => pick({ ...picks, unit: e.target.value })}
          >
            <option value="">choose</option>
            {UNITS.map((u) => (
              <option key={u}>{u}</option>
            ))}
          </select>
        </label>
      )}
    </fieldset>
  );
}
