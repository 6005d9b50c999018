/** Where nothing is expected of a sheet yet: what sound sets gave before, each taken by one press. */
import type { SheetView } from "../../api/client";
import { useBaselines } from "../../lib/before";
import { toEntry } from "../../lib/keys";
import { changeTold, useSheetChange } from "../../lib/store";
import { Trouble } from "../../ui/parts";

export default function Baselines({ sheet }: { sheet: SheetView }) {
  const change = useSheetChange(sheet);
  const offers = useBaselines(sheet, true);
  if (offers.length === 0) return null;
  return (
    <section
      aria-label="Sound before"
      className="mb-2 flex flex-wrap items-center gap-3 border-l-4 border-hair pl-3"
    >
      <p className="text-sm">
        <b>Sound before.</b> Take as expected:
      </p>
      {offers.map((offer) => (
        <button
          key={offer.words}
          type="button"
          className="knob min-h-11"
          // The button goes with the answer, and who types goes on.
          onClick={() => {
            change.mutate({ put: offer.put });
            toEntry();
          }}
        >
          {offer.words}
        </button>
      ))}
      <Trouble text={changeTold(change)} />
    </section>
  );
}
