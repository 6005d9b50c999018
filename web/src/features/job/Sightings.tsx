/** What somebody found by eye, hand or ear: told, taken back, and the form for the next one. */
import { useState } from "react";
import { told, type JobView } from "../../api/client";
import { BusyButton, Dialog, Text, Trouble } from "../../ui/parts";
import { InjectorButtons, NotedList } from "../finish/Noted";
import { notes, useNote } from "../finish/useFinish";

const OWN = "other";

export default function Sightings({ job }: { job: JobView }) {
  const [open, setOpen] = useState(false);
  return (
    <section aria-label="Found by eye or hand" className="my-3">
      {job.finishing.sightings.length > 0 && <Told job={job} />}
      {!job.closed && (
        <button className="knob min-h-11" onClick={() => setOpen(true)}>
          I found something by eye or hand
        </button>
      )}
      <Dialog
        title="Found by eye or hand"
        note="It counts as found: it ends the search for what it explains, can be put right, and stands in the report."
        open={open}
        onOpenChange={setOpen}
      >
        <FoundForm job={job} done={() => setOpen(false)} />
      </Dialog>
    </section>
  );
}

/** What was found so far; each can be taken back. */
function Told({ job }: { job: JobView }) {
  const note = useNote(job);
  return (
    <>
      <h2 className="mb-1 text-lg font-bold">Found by eye or hand</h2>
      <NotedList
        things={job.finishing.sightings.map((s) => ({
          id: s.id,
          words: s.words,
          beside: [s.how, s.by].filter(Boolean).join(" · "),
        }))}
        closed={job.closed}
        takeBack={(s) => note.mutate([notes.unsee(s.id, s.words)])}
      />
      <Trouble text={note.isError ? told(note.error) : null} />
    </>
  );
}

interface Draft {
  fault: string;
  injector: string;
  words: string;
  how: string;
  explains: string[];
}

const BLANK: Draft = { fault: "", injector: "", words: "", how: "", explains: [] };

/** Why it cannot be kept yet; empty when it can. */
function lacking(draft: Draft, needsOne: boolean): string {
  if (draft.fault === "") return "Choose what was found.";
  if (draft.fault === OWN && draft.words.trim() === "") return "Say in your own words what it is.";
  return needsOne && draft.injector === "" ? "Mark the injector it was found at." : "";
}

function FoundForm({ job, done }: { job: JobView; done: () => void }) {
  const [draft, setDraft] = useState(BLANK);
  const note = useNote(job);
  const put = (change: Partial<Draft>) => setDraft({ ...draft, ...change });
  const chosen = job.finishing.can_be_found.find((f) => f.code === draft.fault);
  const own = draft.fault === OWN;
  const atOne = chosen?.at_one ?? false;
  const why = lacking(draft, atOne);
  const keep = () => {
    const { injector, ...rest } = draft;
    const at = (atOne || own) && injector !== "" ? injector : null;
    note.mutate([notes.see({ ...rest, injector: at }, draft.words || (chosen?.words ?? ""))], {
      onSuccess: done,
    });
  };
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault();
        if (!why) keep();
      }}
    >
      <What job={job} draft={draft} put={put} />
      {own && <Text label="What it is" value={draft.words} onChange={(words) => put({ words })} />}
      {(atOne || own) && <Where job={job} draft={draft} put={put} free={own} />}
      <Text
        label="How it was seen (may stay empty)"
        value={draft.how}
        onChange={(how) => put({ how })}
      />
      <Explains job={job} draft={draft} put={put} />
      <Trouble text={note.isError ? told(note.error) : null} />
      <p className="flex flex-wrap items-center gap-3">
        <BusyButton className="slab-knob" disabled={why !== ""} busy={note.isPending}>
          Keep
        </BusyButton>
        <span className="text-sm text-soft">{why}</span>
      </p>
    </form>
  );
}

interface PartProps {
  job: JobView;
  draft: Draft;
  put: (change: Partial<Draft>) => void;
}

function What({ job, draft, put }: PartProps) {
  return (
    <label className="mb-2 block">
      <span className="label">What was found</span>
      <select
        className="field"
        value={draft.fault}
        onChange={(e) => put({ fault: e.target.value, injector: "" })}
      >
        <option value="">choose</option>
        {job.finishing.can_be_found.map(({ code, words }) => (
          <option key={code} value={code}>
            {words}
          </option>
        ))}
      </select>
    </label>
  );
}

function Where({ job, draft, put, free }: PartProps & { free: boolean }) {
  return (
    <InjectorButtons
      name="At which injector"
      labels={job.vehicle.injectors.map((i) => i.label)}
      marked={[draft.injector]}
      flip={(label) => put({ injector: draft.injector === label ? "" : label })}
    >
      <span className="label">At which injector{free ? " (may stay empty)" : ""}</span>
    </InjectorButtons>
  );
}

/** Which words of the complaint it is said to explain, beside those that go with it anyway. */
function Explains({ job, draft, put }: PartProps) {
  const { answers } = job.finishing;
  if (answers.length === 0) return null;
  const flip = (word: string) =>
    put({
      explains: draft.explains.includes(word)
        ? draft.explains.filter((w) => w !== word)
        : [...draft.explains, word],
    });
  return (
    <div role="group" aria-label="What it explains" className="mb-2">
      <span className="label">What of the complaint it explains</span>
      <span className="flex flex-wrap gap-2">
        {answers.map(({ word, words }) => (
          <button
            key={word}
            type="button"
            className="choice"
            aria-pressed={draft.explains.includes(word)}
            onClick={() => flip(word)}
          >
            {words}
          </button>
        ))}
      </span>
    </div>
  );
}
