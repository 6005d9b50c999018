/** Noting what was done: to which injectors, what, with which part. */
import { useState } from "react";
import { told, type JobView } from "../../api/client";
import { BusyButton, Text, Trouble } from "../../ui/parts";
import { InjectorButtons } from "./Noted";
import { notes, useNote } from "./useFinish";

const ENGINE = "put_right";
/** What parts of one kind have in common. */
const KIND = [
  ["make", "Make"],
  ["number", "Part number"],
] as const;
/** What each part has for itself. */
const OWN = [
  ["serial", "Serial number"],
  ["code", "Adjustment code"],
  ["mark", "Mark on it"],
] as const;

const NOTHING_KNOWN = { make: "", number: "", serial: "", code: "", mark: "", note: "" };

interface Draft {
  labels: string[];
  done: string;
  cause: string;
  part: Record<string, string>;
  /** By injector. */
  own: Record<string, Record<string, string>>;
  note: string;
}
const BLANK: Draft = { labels: [], done: "", cause: "", part: {}, own: {}, note: "" };

/** Why it cannot be kept yet; empty when it can. */
function lacking({ labels, done, cause }: Draft): string {
  if (done === "") return "Say what was done.";
  if (done === ENGINE) return cause ? "" : "Say what was put right.";
  if (done === "swapped") return labels.length === 2 ? "" : "Mark the two that changed places.";
  return labels.length > 0 ? "" : "Mark the injectors it was done to.";
}

/** One repair for each injector; a swap is one of both. */
function bodiesOf({ labels, done, cause, part, own, note }: Draft) {
  const rest = { done: done as "cleaned", cause: "", note };
  if (done === ENGINE) return [{ ...rest, cause, injector: null }];
  if (done === "swapped") {
    return [{ ...rest, injector: labels[0] ?? "", swapped_with: labels[1] ?? "" }];
  }
  const fits = done === "replaced" || done === "rebuilt";
  return labels.map((injector) => {
    const known = { ...NOTHING_KNOWN, ...part, ...own[injector] };
    const told = fits && Object.values(known).some((v) => v.trim());
    return { ...rest, injector, part: told ? known : null };
  });
}

export function RepairForm({ job }: { job: JobView }) {
  const [draft, setDraft] = useState(BLANK);
  const note = useNote(job);
  const why = lacking(draft);
  const put = (change: Partial<Draft>) => setDraft({ ...draft, ...change });
  // Who types on does so on an empty form; what was refused comes back, unless something stands there by then.
  const keep = () => {
    setDraft(BLANK);
    note.mutate(bodiesOf(draft).map(notes.repair), {
      onError: () => setDraft((now) => (now === BLANK ? draft : now)),
    });
  };
  return (
    <form
      aria-label="Note a repair"
      className="rounded-lg border border-hair bg-sheet p-3"
      onSubmit={(e) => {
        e.preventDefault();
        if (!why) keep();
      }}
    >
      <Whom job={job} draft={draft} put={put} />
      <What job={job} draft={draft} put={put} />
      {(draft.done === "replaced" || draft.done === "rebuilt") && (
        <PartFields draft={draft} put={put} />
      )}
      <Text
        label="Note (may stay empty)"
        value={draft.note}
        onChange={(text) => put({ note: text })}
      />
      <Trouble text={note.isError ? told(note.error) : null} />
      <p className="flex flex-wrap items-center gap-3">
        <BusyButton className="slab-knob" disabled={why !== ""} busy={note.isPending}>
          Keep
        </BusyButton>
        <span className="text-sm text-soft">{draft === BLANK ? "" : why}</span>
      </p>
    </form>
  );
}

interface PartProps {
  draft: Draft;
  put: (change: Partial<Draft>) => void;
}

function Whom({ job, draft, put }: PartProps & { job: JobView }) {
  if (draft.done === ENGINE) return null;
  const flip = (label: string) =>
    put({
      labels: draft.labels.includes(label)
        ? draft.labels.filter((l) => l !== label)
        : [...draft.labels, label],
    });
  return (
    <InjectorButtons
      name="Which injectors"
      labels={job.vehicle.injectors.map((i) => i.label)}
      marked={draft.labels}
      flip={flip}
    />
  );
}

function What({ job, draft, put }: PartProps & { job: JobView }) {
  const { can_be_done: can, engine } = job.finishing;
  return (
    <>
      <div role="group" aria-label="What was done" className="mb-2 flex flex-wrap gap-2">
        {[...can, { code: ENGINE, words: "on the engine" }].map(({ code, words }) => (
          <button
            key={code}
            type="button"
            className="choice"
            aria-pressed={draft.done === code}
            onClick={() => put({ done: code })}
          >
            {words}
          </button>
        ))}
      </div>
      {draft.done === ENGINE && (
        <label className="mb-2 block">
          <span className="label">What was put right</span>
          <select
            className="field"
            value={draft.cause}
            onChange={(e) => put({ cause: e.target.value })}
          >
            <option value="">choose</option>
            {engine.map(({ code, words }) => (
              <option key={code} value={code}>
                {words}
              </option>
            ))}
          </select>
        </label>
      )}
    </>
  );
}

/** What is known of the parts that were put in; all of it may stay empty. */
function PartFields({ draft, put }: PartProps) {
  const own = (label: string, key: string, text: string) =>
    put({ own: { ...draft.own, [label]: { ...draft.own[label], [key]: text } } });
  const several = draft.labels.length > 1;
  return (
    <fieldset>
      <legend className="label">
        {several ? "The parts that are in now" : "The part that is in now"} (may stay empty)
      </legend>
      <div className="grid gap-x-3 sm:grid-cols-2">
        {KIND.map(([key, label]) => (
          <Text
            key={key}
            label={label}
            value={draft.part[key] ?? ""}
            onChange={(text) => put({ part: { ...draft.part, [key]: text } })}
          />
        ))}
      </div>
      {draft.labels.map((label) => (
        <div key={label} className="grid gap-x-3 sm:grid-cols-3">
          {OWN.map(([key, words]) => (
            <Text
              key={key}
              label={several ? `${words} of ${label}` : words}
              value={draft.own[label]?.[key] ?? ""}
              onChange={(text) => own(label, key, text)}
            />
          ))}
        </div>
      ))}
    </fieldset>
  );
}
