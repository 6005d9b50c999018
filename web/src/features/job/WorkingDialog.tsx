/** How it was worked out: every figure, formula and source, for the set and for each injector. */
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { told, type SheetView, type WorkingView } from "../../api/client";
import { workingQuery } from "../../lib/store";
import { Dialog, Trouble } from "../../ui/parts";

interface Props {
  sheet: SheetView;
  open: boolean;
  onOpenChange: (open: boolean) => void;
}

export function WorkingDialog({ sheet, open, onOpenChange }: Props) {
  const working = useQuery({ ...workingQuery(sheet.id), enabled: open });
  const leaning = sheet.rows.find((r) => r.tone !== "") ?? sheet.rows[0];
  const [chosen, setChosen] = useState<string | null>(null);
  const label = chosen ?? leaning?.injector ?? "";
  const lines = working.data?.injectors[label];
  const named = sheet.rows.some((r) => r.name);
  return (
    <Dialog title="How it was worked out" open={open} onOpenChange={onOpenChange} wide>
      <Trouble text={working.isError ? told(working.error) : null} />
      {working.data && (
        <>
          <h3 className="mb-1 font-bold">The set</h3>
          <Lines lines={working.data.shared} />
          <div className="mb-1 mt-4 flex flex-wrap items-center gap-2">
            <h3 className="mr-2 font-bold">{named ? "State" : "Injector"}</h3>
            {sheet.rows.map((r) => (
              <button
                key={r.injector}
                className="knob figure min-h-11 min-w-11 justify-center aria-pressed:bg-slab aria-pressed:text-slabink"
                aria-pressed={r.injector === label}
                onClick={() => setChosen(r.injector)}
              >
                {r.name || r.injector}
              </button>
            ))}
          </div>
          {lines ? <Lines lines={lines} /> : <p>No figure was read there.</p>}
        </>
      )}
    </Dialog>
  );
}

function Lines({ lines }: { lines: WorkingView["shared"] }) {
  return (
    <table className="w-full text-sm">
      <thead className="sr-only">
        <tr>
          <th>What</th>
          <th>Figure</th>
          <th>How, and who says so</th>
        </tr>
      </thead>
      <tbody>
        {lines.map((line) => (
          <tr key={line.label} className="border-b border-hair align-top">
            <th scope="row" className="py-1 pr-3 text-left font-normal">
              {line.label}
            </th>
            <td className="figure whitespace-nowrap py-1 pr-4 text-right font-bold">
              {line.figure} {line.unit}
            </td>
            <td className="py-1 text-soft">
              {[line.formula, line.source].filter(Boolean).join("; ")}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
