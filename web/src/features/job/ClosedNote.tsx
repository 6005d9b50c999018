/** What stands in the entry line's place on a closed job. */
import { Closing } from "./Closing";

export default function ClosedNote({ number }: { number: string }) {
  return (
    <section
      aria-label="Closed"
      className="mt-3 flex flex-wrap items-center gap-3 rounded-lg border-2 border-ink bg-sheet p-3"
    >
      <p className="grow">
        <b>This job is closed.</b> It takes no figures until it is opened again.
      </p>
      <Closing job={{ number, closed: true }} />
    </section>
  );
}
