/** What the entry line asks the shape of a sheet's readings: its hint, its keys, its knobs. */
import type { ComponentType } from "react";
import type { SheetView } from "../../../api/client";
import type { Entry } from "../useEntry";

export interface ShapeProps {
  sheet: SheetView;
  entry: Entry;
}

export interface Shape {
  /** What stands under the line while nothing was said; `again`: the row has a reading already. */
  hint: (sheet: SheetView, again: boolean) => string;
  /** The keys of its own, for the help. */
  keys: (sheet: SheetView) => [key: string, what: string][];
  /** What its letters do. */
  acts: (props: ShapeProps) => Record<string, () => void>;
  /** The touch twins of those letters. */
  Knobs: ComponentType<ShapeProps>;
}
