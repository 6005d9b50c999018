/** Photos of a sheet or of the whole job: taken with the camera, chosen, or dropped onto a row. */
import { useMutation, useQuery } from "@tanstack/react-query";
import { useEffect, useId, useState } from "react";
import api, { got, told, type JobView } from "../../api/client";
import type { components } from "../../api/schema";
import { photoOf, type Note } from "../../lib/notes";
import { putNotes } from "../../lib/offline";
import { keepPhotos } from "../../lib/store";
import { Trouble } from "../../ui/parts";
import { BASE } from "../../lib/base";

type Photo = components["schemas"]["PhotoView"];

interface Props {
  job: JobView;
  /** The sheet's key; empty: photos of the job as a whole, and all others are listed too. */
  sheet: string;
}

function usePhotos(number: string) {
  return useQuery({
    queryKey: ["photos", number],
    queryFn: () => got(api.GET("/api/jobs/{number}/photos", { params: { path: { number } } })),
  });
}

/** Whatever is done to photos: the answer is all of them. */
function useChange(number: string) {
  return useMutation({
    mutationFn: (send: () => Promise<Photo[]>) => send(),
    onSuccess: (all) => keepPhotos(number, all),
  });
}

/** A picture that is dropped anywhere on the screen; on a row it belongs to that row. */
function useDropped(take: (file: File, row: string) => void): void {
  useEffect(() => {
    const over = (e: DragEvent) => {
      if (e.dataTransfer?.types.includes("Files")) e.preventDefault();
    };
    const drop = (e: DragEvent) => {
      const at = e.target instanceof Element ? e.target : null;
      // A place that takes files of its own, traces say, keeps them.
      if (e.defaultPrevented || at?.closest("[role=dialog]")) return;
      const pictures = [...(e.dataTransfer?.files ?? [])].filter((f) =>
        /^image\/|heic$/i.test(f.type || f.name),
      );
      if (pictures.length === 0) return;
      e.preventDefault();
      const row = at?.closest<HTMLElement>("[data-row]")?.dataset.row ?? "";
      for (const file of pictures) take(file, row);
    };
    window.addEventListener("dragover", over);
    window.addEventListener("drop", drop);
    return () => {
      window.removeEventListener("dragover", over);
      window.removeEventListener("drop", drop);
    };
  });
}

export default function Photos({ job, sheet }: Props) {
  const photos = usePhotos(job.number);
  const change = useChange(job.number);
  const add = useMutation({ mutationFn: (photo: Note) => putNotes(job.number, [photo]) });
  const take = (file: File, row: string) => add.mutate(photoOf(file, sheet, row));
  useDropped(take);
  const mine = (photos.data ?? []).filter((p) => sheet === "" || p.sheet === sheet);
  return (
    <section aria-label="Photos" className="mt-3">
      <div className="flex flex-wrap items-center gap-3">
        <h2 className="text-sm font-bold text-soft">Photos</h2>
        {!job.closed && <Choose busy={add.isPending} take={take} />}
      </div>
      <Trouble text={add.isError ? told(add.error) : null} />
      <Trouble text={change.isError ? told(change.error) : null} />
      {mine.length > 0 && (
        <ul className="mt-2 flex flex-wrap gap-3">
          {mine.map((photo) => (
            <li key={photo.id}>
              <Print job={job} photo={photo} change={change} whose={sheet === ""} />
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}

/** The camera on a phone or tablet, a file elsewhere. */
function Choose({ busy, take }: { busy: boolean; take: (file: File, row: string) => void }) {
  const id = useId();
  return (
    <>
      <label htmlFor={id} className="knob min-h-11 focus-within:outline-3">
        {busy ? "Sending…" : "Add a photo"}
        <input
          id={id}
          type="file"
          accept="image/*,.heic"
          capture="environment"
          className="sr-only"
          aria-disabled={busy || undefined}
          onClick={(e) => busy && e.preventDefault()}
          onChange={(e) => {
            const file = e.target.files?.[0];
            if (file && !busy) take(file, "");
            e.target.value = "";
          }}
        />
      </label>
      <span className="text-sm text-soft max-md:hidden">or drop one onto a row</span>
    </>
  );
}

interface PrintProps {
  job: JobView;
  photo: Photo;
  change: ReturnType<typeof useChange>;
  /** Say which sheet it belongs to. */
  whose: boolean;
}

function Print({ job, photo, change, whose }: PrintProps) {
  const path = { number: job.number, photo_id: photo.id };
  const put = (body: { note?: string; in_report?: boolean }) =>
    change.mutate(() =>
      got(api.PATCH("/api/jobs/{number}/photos/{photo_id}", { params: { path }, body })),
    );
  const where = [whose && photo.sheet, photo.row && `row ${photo.row}`].filter(Boolean).join(", ");
  const words = photo.note || where || "photo";
  return (
    <figure className="w-44 rounded-lg border border-hair bg-sheet p-2 text-sm">
      <a href={`${BASE}/api/photos/${photo.id}`} target="_blank" rel="noreferrer">
        <img
          className="h-28 w-full rounded object-cover"
          src={`${BASE}/api/photos/${photo.id}?small=true`}
          alt={words}
        />
      </a>
      <figcaption className="mt-1">
        {where && <p className="text-soft">{where}</p>}
        <OnIt where={where} note={photo.note} put={(note) => put({ note })} />
        <label className="flex min-h-11 items-center gap-2">
          <input
            type="checkbox"
            checked={photo.in_report}
            onChange={() => put({ in_report: !photo.in_report })}
          />
          in the report
        </label>
        {!job.closed && (
          <button
            className="knob"
            aria-label={`Take away: ${words}`}
            onClick={() =>
              change.mutate(() =>
                got(api.DELETE("/api/jobs/{number}/photos/{photo_id}", { params: { path } })),
              )
            }
          >
            Take away
          </button>
        )}
      </figcaption>
    </figure>
  );
}

interface OnItProps {
  where: string;
  note: string;
  put: (note: string) => void;
}

/** What is on a photo; kept when the field is left. */
function OnIt({ where, note, put }: OnItProps) {
  const [typed, setTyped] = useState(note);
  return (
    <input
      className="field"
      aria-label={`What is on the photo ${where}`}
      placeholder="what is on it"
      value={typed}
      onChange={(e) => setTyped(e.target.value)}
      onBlur={() => typed !== note && put(typed)}
    />
  );
}
