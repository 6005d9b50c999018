/** Every key of the screens that have no entry line; a sheet with one tells its own. */
import { PRACTISING } from "../../lib/base";
import { KeyTable } from "../../ui/KeyTable";
import { Dialog } from "../../ui/parts";

const EVERYWHERE: [string, string][] = [
  ["/", "find a job"],
  ["?", "these keys"],
  ["Tab, Enter", "from one thing to the next, and take it"],
];
const ON_A_JOB: [string, string][] = [
  ["[ ]", "the sheet before, the sheet after"],
  ["V", "the verdict"],
  ["J", "the repair"],
  ["H", "on a sheet: how it is done"],
  ["Shift Enter", "go where the next step is"],
];

/** The keys of a screen, by its address and by what stands on it. */
function keysOf(path: string): [string, string][] {
  if (path === "/" && PRACTISING) return EVERYWHERE.filter(([key]) => key !== "/");
  if (path === "/") {
    return [
      ["N", "a new job"],
      ["↑ ↓", "from job to job"],
      ["Enter", "go on where it stopped"],
      ...EVERYWHERE,
    ];
  }
  if (path === "/rules") return [["← →", "on a slider: less, more"], ...EVERYWHERE];
  if (path === "/shelf") return EVERYWHERE;
  const own: [string, string][] = [["Space", "tick or untick what has the focus"]];
  return [...(path.endsWith("/verdict") ? [] : own), ...ON_A_JOB, ...EVERYWHERE];
}

export default function ScreenKeys({ path, close }: { path: string; close: () => void }) {
  return (
    <Dialog title="Keys" open onOpenChange={close}>
      <KeyTable keys={keysOf(path)} />
    </Dialog>
  );
}
