/** Readings and plumb chart, sharing their rows; rows can be put into the order of reach. */
import { lazy, Suspense } from "react";
import type { SheetView } from "../../api/client";
import { PlumbFoot, PlumbHead, plumbScale, type Scale } from "../../ui/PlumbChart";
import { useThen } from "../../lib/before";
import { hasInjectors, rowNoun } from "./asks";
import { SheetRow, type RowProps } from "./SheetRow";
import type { Entry } from "./useEntry";

/** What moves rows is not needed to type into them. */
const CarriedRows = lazy(() => import("./CarriedRows"));

/** Grid columns for so many figures: the injector, the figures, what it reads as, the chart. */
const GRID: Record<number, string> = {
  0: "grid grid-cols-[5.6rem_minmax(0,1fr)]",
  1: "grid grid-cols-[4.4rem_4.4rem_minmax(0,1fr)] sm:grid-cols-[5.6rem_5rem_minmax(0,1fr)] md:grid-cols-[6.2rem_5rem_9rem_minmax(0,1fr)]",
  2: "grid grid-cols-[4.4rem_4rem_4.4rem_minmax(0,1fr)] sm:grid-cols-[5.6rem_4.6rem_5rem_minmax(0,1fr)] md:grid-cols-[5.6rem_4.4rem_5rem_9rem_minmax(0,1fr)]",
  3: "grid grid-cols-[4.4rem_3.7rem_3.7rem_3.7rem_minmax(0,1fr)] sm:grid-cols-[5.6rem_4.4rem_4.4rem_4.4rem_minmax(0,1fr)] md:grid-cols-[5rem_3.9rem_3.9rem_3.9rem_7.8rem_minmax(0,1fr)] xl:grid-cols-[5.6rem_4.2rem_4.2rem_4.2rem_8.6rem_minmax(0,1fr)]",
};

/** Nozzles say more: what was seen, and the shims planned. */
const NOZZLES =
  "grid grid-cols-[4.2rem_4.6rem_4.4rem_minmax(0,1fr)] sm:grid-cols-[5.2rem_5rem_4rem_minmax(0,1fr)] md:grid-cols-[4.6rem_4.6rem_3.4rem_12rem_minmax(0,1fr)]";

interface Props {
  sheet: SheetView;
  entry: Entry;
  onOrder: (labels: string[]) => void;
  onPasses: (injector: string) => void;
}

export function SheetTable({ sheet, entry, onOrder, onPasses }: Props) {
  const scale = plumbScale(sheet.scale);
  const columns = sheet.entry.shape === "stroke" ? NOZZLES : (GRID[sheet.columns.length] ?? "");
  const gave = useThen(sheet);
  const shared = { sheet, entry, scale, columns, onPasses };
  const rows = sheet.rows.map((row): RowProps => ({
    ...shared,
    row,
    gave: gave.get(row.injector),
  }));
  const still = rows.map((props) => <SheetRow key={props.row.injector} {...props} />);
  return (
    <div className="rounded-lg border border-hair bg-sheet">
      <div role="table" aria-label="Readings and where they hang">
        <TableHead sheet={sheet} scale={scale} columns={columns} />
        <div role="rowgroup">
          {hasInjectors(sheet) ? (
            <Suspense fallback={still}>
              <CarriedRows rows={rows} onOrder={onOrder} />
            </Suspense>
          ) : (
            still
          )}
        </div>
      </div>
      {sheet.columns.length > 0 && <TableFoot sheet={sheet} columns={columns} />}
    </div>
  );
}

interface HeadProps {
  sheet: SheetView;
  scale: Scale;
  columns: string;
}

function TableHead({ sheet, scale, columns }: HeadProps) {
  return (
    <div role="rowgroup">
      <div role="row" className={`${columns} h-9 items-center text-sm text-soft`}>
        <span role="columnheader" className="pl-4">
          {rowNoun(sheet)}
        </span>
        {sheet.columns.map((name) => (
          <span key={name} role="columnheader" className="text-right">
            {name}
          </span>
        ))}
        <span role="columnheader" className="pl-3">
          reads as
        </span>
        {sheet.columns.length > 0 && (
          <span role="columnheader" className="relative h-full max-md:sr-only">
            <span className="sr-only">where it hangs, {sheet.scale.unit}</span>
            <PlumbHead scale={scale} />
          </span>
        )}
      </div>
    </div>
  );
}

/** What the set agrees on, and the foot of the chart. */
function TableFoot({ sheet, columns }: Omit<HeadProps, "scale">) {
  return (
    <div className={`${columns} h-12 items-start border-t border-hair text-sm text-soft`}>
      <p
        className="self-center px-4"
        style={{ gridColumn: `1 / span ${sheet.columns.length + 2}` }}
      >
        {sheet.agreeing_shown && (
          <>
            Set agrees on <b className="figure text-ink">{sheet.agreeing_shown}</b> (
            {sheet.agreeing.join(", ")})
          </>
        )}
      </p>
      <span className="relative hidden h-full md:block">
        <PlumbFoot gives={sheet.scale.gives} />
      </span>
    </div>
  );
}
