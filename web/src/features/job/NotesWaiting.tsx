/** What was noted on a job and waits in this browser: it is not yet part of what stands beneath. */
import { useOutbox } from "../../lib/store";

export function NotesWaiting({ number }: { number: string }) {
  const { waiting } = useOutbox();
  const mine = waiting.filter((w) => w.kind === "note" && w.number === number);
  if (mine.length === 0) return null;
  return (
    <section
      aria-label="Noted, not sent yet"
      className="mb-3 border-l-4 border-chalk bg-wash px-3 py-2"
    >
      <h2 className="font-bold">Noted, not sent yet</h2>
      <ul className="text-sm">
        {mine.map((w) => (
          <li key={w.seq}>{w.kind === "note" && w.note.words}</li>
        ))}
      </ul>
    </section>
  );
}
