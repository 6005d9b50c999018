/** Another attempt at a sheet: one of its own, taken in the same way, so that both stand. */
import { told, type JobView, type SheetView } from "../../api/client";
import { BusyButton, Trouble } from "../../ui/parts";
import { useBegin } from "./Route";

export function TakeAgain({ job, sheet }: { job: JobView; sheet: SheetView }) {
  const begin = useBegin(job);
  if (job.closed || sheet.measured === 0 || sheet.entry.shape === "form") return null;
  const repaired = job.finishing.repairs.length > 0;
  const again = () =>
    begin.mutate({
      kind: sheet.kind,
      // After a repair the two are held against each other.
      after: repaired ? sheet.key : "",
      because: repaired ? "after the repair" : "another attempt",
    });
  return (
    <>
      <BusyButton className="knob mt-3" busy={begin.isPending} onClick={again}>
        Take it again
      </BusyButton>
      <Trouble text={begin.isError ? told(begin.error) : null} />
    </>
  );
}
