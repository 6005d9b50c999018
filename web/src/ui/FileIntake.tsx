/** Choose a file, see what it would do with every problem by place, then take it in. */
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useId, useState } from "react";
import { Refused, told, type ImportView } from "../api/client";
import { Trouble } from "./parts";

interface Props {
  accept: string;
  hint: string;
  send: (text: string, preview: boolean) => Promise<ImportView>;
  done: (view: ImportView) => void;
}

export function FileIntake({ accept, hint, send, done }: Props) {
  const id = useId();
  const client = useQueryClient();
  const [text, setText] = useState<string | null>(null);
  const preview = useMutation({ mutationFn: (content: string) => send(content, true) });
  const take = useMutation({
    mutationFn: (content: string) => send(content, false),
    onSuccess: (view) => {
      void client.invalidateQueries();
      done(view);
    },
  });
  const problems =
    preview.data?.problems ??
    (take.error instanceof Refused ? take.error.problems.map((p) => `${p.path}: ${p.rule}`) : []);
  return (
    <div className="grid gap-3">
      <div>
        <label className="label" htmlFor={id}>
          {hint}
        </label>
        <input
          id={id}
          type="file"
          accept={accept}
          className="field py-2"
          onChange={(e) => {
            const file = e.target.files?.[0];
            if (!file) return;
            take.reset();
            void file.text().then((content) => {
              setText(content);
              preview.mutate(content);
            });
          }}
        />
      </div>
      <div aria-live="polite">
        {preview.isPending && <p>Reading…</p>}
        {preview.data && <p className="font-bold">{preview.data.summary}</p>}
        {problems.length > 0 && (
          <ol className="mt-2 max-h-72 list-decimal overflow-auto pl-6 text-sm">
            {problems.map((problem, n) => (
              <li key={`${n} ${problem}`}>{problem}</li>
            ))}
          </ol>
        )}
        <Trouble text={preview.isError ? told(preview.error) : null} />
        <Trouble text={take.isError ? told(take.error) : null} />
      </div>
      <button
        className="slab-knob justify-self-start"
        disabled={!preview.data?.fits || text === null || take.isPending}
        onClick={() => {
          if (text !== null) take.mutate(text);
        }}
      >
        Take it in
      </button>
    </div>
  );
}
