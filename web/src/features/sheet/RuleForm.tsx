/** The rule that decides on a sheet: one of Plumb's with its limits, or one of the shop's. */
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { SheetView } from "../../api/client";
import { shelfQuery } from "../../lib/store";
import { Text } from "../../ui/parts";
import { Keep, ShelfList, type Change, type Save } from "./Conditions";

type Rule = NonNullable<Change["rule"]>;

export const RULE_FIELDS: Record<string, [key: string, label: string][]> = {
  flow_index: [["tolerance_percent", "Tolerance, % of flow"]],
  plain_mean: [["limit", "Limit"]],
  ends_left_out: [
    ["limit", "More than this: repeat"],
    ["reject", "This or more: reject"],
  ],
  suspect_left_out: [
    ["tolerance_percent", "Tolerance, % of the others' mean"],
    ["suspect", "Suspect (empty: the farthest)"],
  ],
  commonest_drop: [["limit", "Limit"]],
  end_pressure: [["limit", "Limit"]],
  within_each_other: [["limit", "Limit"]],
  modified_z: [["score", "Score"]],
  extreme_studentized: [["alpha", "α"]],
  analysis_of_means: [["alpha", "α"]],
};
export const PRESSURE_FIELDS = new Set(["limit", "reject"]);

const orNull = (text: string) => (text.trim() === "" ? null : text.trim());

export function RuleForm({ sheet, save }: { sheet: SheetView; save: Save }) {
  const now = sheet.rule;
  const [name, setName] = useState(now.code);
  const [limits, setLimits] = useState<Record<string, string>>(now.limits);
  const [source, setSource] = useState(now.source);
  const shelf = useQuery(shelfQuery);
  const spec = sheet.rules.find((r) => r.code === name);
  const fields = RULE_FIELDS[name] ?? [];
  const ours = (shelf.data ?? [])
    .filter((e) => e.what === "rule" && (e.unit === "" || e.unit === sheet.gauge.unit))
    .map((e) => ({
      id: e.id,
      name: e.name,
      what: e.values.source ?? "",
      take: () => save({ rule: { ...e.values, label: e.name } as unknown as Rule }),
    }));
  return (
    <>
      <ShelfList entries={ours} />
      <form
        onSubmit={(e) => {
          e.preventDefault();
          const made = Object.fromEntries(fields.map(([key]) => [key, orNull(limits[key] ?? "")]));
          save({ rule: { name, ...made, source: source.trim() } as unknown as Rule });
        }}
      >
        <label className="label" htmlFor="rule-name">
          Rule that decides on this sheet
        </label>
        <select
          id="rule-name"
          className="field mb-1"
          value={name}
          onChange={(e) => {
            setName(e.target.value);
            setLimits({});
          }}
        >
          {sheet.rules.map((r) => (
            <option key={r.code} value={r.code}>
              {r.title}
            </option>
          ))}
        </select>
        <p className="mb-2 text-sm text-soft">
          {spec?.decides} Without a figure of your own: {spec?.limits}.
        </p>
        {fields.map(([key, label]) => (
          <Text
            key={key}
            label={PRESSURE_FIELDS.has(key) ? `${label}, ${sheet.gauge.unit}` : label}
            value={limits[key] ?? ""}
            numeric={key !== "suspect"}
            onChange={(text) => setLimits({ ...limits, [key]: text })}
          />
        ))}
        <Text label="Source of the limit" value={source} onChange={setSource} />
        <Keep />
      </form>
    </>
  );
}
