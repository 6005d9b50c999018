/** Where a sheet has no window: the one that the shop's own sound parts give, to be taken. */
import { useQuery } from "@tanstack/react-query";
import api, { got, type SheetView } from "../../api/client";
import { toEntry } from "../../lib/keys";
import { changeTold, useSheetChange } from "../../lib/store";
import { Trouble } from "../../ui/parts";

export default function LearntWindow({ sheet }: { sheet: SheetView }) {
  const change = useSheetChange(sheet);
  const learnt = useQuery({
    queryKey: ["learnt-window", sheet.id],
    queryFn: () =>
      got(
        api.GET("/api/sheets/{sheet_id}/learnt-window", {
          params: { path: { sheet_id: sheet.id } },
        }),
      ),
    staleTime: 60_000,
  });
  const window = learnt.data;
  if (!window) return null;
  return (
    <section
      aria-label="A window of your own"
      className="mb-2 flex flex-wrap items-center gap-3 border-l-4 border-hair pl-3"
    >
      <p className="flex-1 text-sm">
        <b>No window yet. Your own:</b> {window.words}.
      </p>
      <button
        className="knob min-h-11"
        // The button goes with the answer, and who types goes on.
        onClick={() => {
          change.mutate({ put: window.put });
          toEntry();
        }}
      >
        Take it
      </button>
      <Trouble text={changeTold(change)} />
    </section>
  );
}
