/** How good a pressure gauge is beside its step: how far it goes, what it is, and its class. */
import type { GaugeView } from "../api/client";
import { KPA_PER } from "../lib/slips";
import { Text } from "./parts";

type Known = Omit<GaugeView, "id" | "class_words">;

/** A gauge as it is sent: what is said of its class is told, and not kept. */
export function typedGauge(gauge: Known) {
  const { name, step, lead, percent, counts, address, command, class_percent, span } = gauge;
  const typed = { name, step, lead, percent, counts, address, command, class_percent, span };
  return { ...typed, unit: gauge.unit as "psi", reads: gauge.reads as "" | "dial" | "digital" };
}

/** Without its full scale a class says nothing: what is no longer asked is not sent either. */
const NOTHING_KNOWN = { span: "", class_percent: "", reads: "" };

interface Props {
  gauge: GaugeView;
  put: (change: Partial<Known>) => void;
}

export function GaugeClass({ gauge, put }: Props) {
  if (!(gauge.unit in KPA_PER)) return null;
  return (
    <>
      <Text
        label={`Full scale, ${gauge.unit} (empty: not known)`}
        value={gauge.span}
        onChange={(span) => put(span ? { span } : NOTHING_KNOWN)}
        numeric
      />
      {gauge.span !== "" && (
        <>
          <label className="mb-2 block">
            <span className="label">It is</span>
            <select
              className="field"
              value={gauge.reads || "dial"}
              onChange={(e) => put({ reads: e.target.value })}
            >
              <option value="dial">a dial (class 1.6 where nobody knows it)</option>
              <option value="digital">digital (0.5 where nobody knows it)</option>
            </select>
          </label>
          <Text
            label="Class, % of full scale (empty: not known)"
            value={gauge.class_percent}
            onChange={(class_percent) => put({ class_percent })}
            numeric
          />
        </>
      )}
    </>
  );
}
