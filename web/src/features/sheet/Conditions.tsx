/** The conditions of a sheet, each a knob that opens to change it. The server says which there are. */
import { useEffect, useState, type ReactNode } from "react";
import type { SheetView } from "../../api/client";
import { changeTold, useSheetChange } from "../../lib/store";
import { holdsFigure, takesText, toEntry } from "../../lib/keys";
import { Chip, Trouble } from "../../ui/parts";
import { GaugeForm } from "./GaugeForm";
import { KnobForm } from "./KnobForm";
import { RuleForm } from "./RuleForm";
import type { Save } from "./fromShelf";

/** The knob that a letter opens on this sheet; none where it has no such knob. */
function knobOf(sheet: SheetView, letter: string): string | undefined {
  // A letter that types a word of the sheet is not taken from it.
  if (sheet.entry.words.some((w) => w.key === letter)) return undefined;
  if (letter === "w") return sheet.knobs.find((k) => k.window)?.name;
  if (letter === "g" && sheet.gauge.step !== "") return "Gauge";
  return letter === "u" && sheet.rule.code !== "" ? "Rule" : undefined;
}

function useKnobKeys(sheet: SheetView, open: (name: string) => void): void {
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      const at = e.target instanceof HTMLElement ? e.target : null;
      if (e.ctrlKey || e.metaKey || e.altKey || at?.closest("[role=dialog]")) return;
      if (e.defaultPrevented || at?.closest("select, textarea") || holdsFigure(at)) return;
      // While a seat is held, its letters say what the tip did.
      if (document.querySelector("section[aria-label=Seat]")) return;
      if (takesText(at)) return;
      const wanted = knobOf(sheet, e.key.toLowerCase());
      if (!wanted) return;
      e.preventDefault();
      open(wanted);
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [sheet, open]);
}

export function Conditions({ sheet }: { sheet: SheetView }) {
  const [open, setOpen] = useState<string | null>(null);
  const rule = sheet.rules.find((r) => r.chosen);
  useKnobKeys(sheet, setOpen);

  const props = { sheet, open, setOpen };
  return (
    <div className="mb-2 flex flex-wrap gap-1.5">
      {sheet.gauge.step !== "" && (
        <Condition
          {...props}
          name="Gauge"
          value={`${sheet.gauge.name || "unnamed"}, ${sheet.gauge.step} ${sheet.gauge.unit}${
            sheet.gauge.class_words && `, ${sheet.gauge.class_words}`
          }`}
          form={(save) => <GaugeForm sheet={sheet} save={save} />}
        />
      )}
      {sheet.knobs.map((knob) => (
        <Condition
          key={knob.name}
          {...props}
          name={knob.name}
          value={knob.value}
          form={(save) => <KnobForm sheet={sheet} knob={knob} save={save} />}
        />
      ))}
      {sheet.rule.code !== "" && (
        <Condition
          {...props}
          name="Rule"
          value={`${sheet.rule.title.toLowerCase()}, ${rule?.limits ?? ""}`}
          form={(save) => <RuleForm key={sheet.rule.code} sheet={sheet} save={save} />}
        />
      )}
    </div>
  );
}

interface ConditionProps {
  sheet: SheetView;
  name: string;
  value: string;
  open: string | null;
  setOpen: (name: string | null) => void;
  form: (save: Save) => ReactNode;
}

function Condition({ sheet, name, value, open, setOpen, form }: ConditionProps) {
  const change = useSheetChange(sheet);
  // What is typed on while the server is asked is no longer the form's.
  const save: Save = (made) => {
    toEntry();
    change.mutate(made, { onSuccess: () => setOpen(null) });
  };
  return (
    <Chip
      name={name}
      value={value}
      open={open === name}
      onOpenChange={(next) => {
        setOpen(next ? name : null);
        change.reset();
      }}
    >
      {form(save)}
      <Trouble text={changeTold(change)} />
    </Chip>
  );
}
