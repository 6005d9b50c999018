/** The shapes of entry, by the name that the server gives them. */
import type { SheetView } from "../../../api/client";
import { burst } from "./burst";
import { pair } from "./pair";
import type { Shape } from "./shape";
import { stroke } from "./stroke";
import { value } from "./value";
import { words } from "./words";

const SHAPES: Record<string, Shape> = { burst, pair, value, stroke, words };

export function shapeOf(sheet: SheetView): Shape {
  return SHAPES[sheet.entry.shape] ?? value;
}
