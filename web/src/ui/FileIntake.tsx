/** Choose a file, see what it would do with every problem by place, then take it in. */
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useId, useState } from "react";
import { Refused, told, type ImportView } from "../api/client";
import { tooLarge } from "../lib/size";
import { BusyButton, Trouble } from "./parts";

interface Props {
  accept: string;
  hint: string;
  /** So many bytes are taken in; a larger file is not sent at all. */
  most: number | undefined;
  send: (text: string, preview: boolean) => Promise<ImportView>;
  /** So many bytes a zip has at most; it goes as it is. */
  mostWhole?: number | undefined;
  sendWhole?: ((file: File, preview: boolean) => Promise<ImportView>) | undefined;
  done: (view: ImportView) => void;
}

function refusals(error: unknown): string[] {
  return error instanceof Refused ? error.problems.map((p) => `${p.path}: ${p.rule}`) : [];
}

/** The file that was chosen: read, looked at without keeping anything, and taken in. */
function useIntake({ most, mostWhole, send, sendWhole, done }: Omit<Props, "accept" | "hint">) {
  const client = useQueryClient();
  const [text, setText] = useState<string | File | null>(null);
  const [large, setLarge] = useState<string | null>(null);
  const post = (content: string | File, preview: boolean) =>
    typeof content === "string" || !sendWhole
      ? send(content as string, preview)
      : sendWhole(content, preview);
  const preview = useMutation({ mutationFn: (content: string | File) => post(content, true) });
  const take = useMutation({
    mutationFn: (content: string | File) => post(content, false),
    onSuccess: (view) => {
      void client.invalidateQueries();
      done(view);
    },
  });
  const choose = (file: File) => {
    take.reset();
    preview.reset();
    setText(null);
    const whole = sendWhole !== undefined && /\.(zip|pdf)$/i.test(file.name);
    const large = tooLarge(file, whole ? mostWhole : most);
    setLarge(large);
    if (large) return;
    const look = (content: string | File) => {
      setText(content);
      preview.mutate(content);
    };
    if (whole) look(file);
    else void file.text().then(look);
  };
  return { text, large, preview, take, choose };
}

export default function FileIntake({ accept, hint, ...how }: Props) {
  const { text, large, preview, take, choose } = useIntake(how);
  const problems = preview.data?.problems ?? refusals(take.error);
  return (
    <div className="grid gap-3">
      <WhichFile accept={accept} hint={hint} chosen={choose} />
      <div aria-live="polite">
        <Trouble text={large} />
        {preview.isPending && <p>Reading…</p>}
        {preview.data && <p className="font-bold">{preview.data.summary}</p>}
        {problems.length > 0 && <Problems problems={problems} />}
        <Trouble text={preview.isError ? told(preview.error) : null} />
        <Trouble text={take.isError ? told(take.error) : null} />
      </div>
      <BusyButton
        className="slab-knob justify-self-start"
        disabled={!preview.data?.fits || text === null}
        busy={take.isPending}
        onClick={() => {
          if (text !== null) take.mutate(text);
        }}
      >
        Take it in
      </BusyButton>
    </div>
  );
}

interface WhichProps {
  accept: string;
  hint: string;
  chosen: (file: File) => void;
}

function WhichFile({ accept, hint, chosen }: WhichProps) {
  const id = useId();
  return (
    <div>
      <label className="label mb-1" htmlFor={id}>
        {hint}
      </label>
      <input
        id={id}
        type="file"
        accept={accept}
        className="field py-2"
        onChange={(e) => {
          const file = e.target.files?.[0];
          if (file) chosen(file);
        }}
      />
    </div>
  );
}

function Problems({ problems }: { problems: string[] }) {
  return (
    <ol className="mt-2 max-h-72 list-decimal overflow-auto pl-6 text-sm">
      {problems.map((problem, n) => (
        <li key={`${n} ${problem}`}>{problem}</li>
      ))}
    </ol>
  );
}
