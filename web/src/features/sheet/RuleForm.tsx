/** The rule that decides on a sheet: one of Plumb's with its limits, or one of the shop's. */
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { SheetView } from "../../api/client";
import { shelfQuery } from "../../lib/store";
import { Text } from "../../ui/parts";
import { Keep, ShelfList, type Change, type FromShelf, type Save } from "./fromShelf";

type Rule = NonNullable<Change["rule"]>;

const orNull = (text: string) => (text.trim() === "" ? null : text.trim());

/** The shop's own rules that fit the sheet's unit. */
function useRules(sheet: SheetView, save: Save): FromShelf[] {
  const shelf = useQuery(shelfQuery);
  return (shelf.data ?? [])
    .filter((e) => e.what === "rule" && (e.unit === "" || e.unit === sheet.gauge.unit))
    .map((e) => ({
      id: e.id,
      name: e.name,
      what: e.values.source ?? "",
      take: () => save({ rule: { ...e.values, label: e.name } as unknown as Rule }),
    }));
}

interface WhichProps {
  sheet: SheetView;
  code: string;
  choose: (code: string) => void;
}

function WhichRule({ sheet, code, choose }: WhichProps) {
  return (
    <>
      <label className="label" htmlFor="rule-name">
        Rule that decides on this sheet
      </label>
      <select
        id="rule-name"
        className="field mb-1"
        value={code}
        onChange={(e) => choose(e.target.value)}
      >
        {sheet.rules.map((r) => (
          <option key={r.code} value={r.code}>
            {r.title}
          </option>
        ))}
      </select>
    </>
  );
}

export function RuleForm({ sheet, save }: { sheet: SheetView; save: Save }) {
  const now = sheet.rule;
  const [name, setName] = useState(now.code);
  const [limits, setLimits] = useState<Record<string, string>>(now.limits);
  const [source, setSource] = useState(now.source);
  const ours = useRules(sheet, save);
  const spec = sheet.rules.find((r) => r.code === name);
  const fields = spec?.fields ?? [];
  return (
    <>
      <ShelfList entries={ours} />
      <form
        onSubmit={(e) => {
          e.preventDefault();
          const made = Object.fromEntries(fields.map((f) => [f.key, orNull(limits[f.key] ?? "")]));
          save({ rule: { name, ...made, source: source.trim() } as unknown as Rule });
        }}
      >
        <WhichRule
          sheet={sheet}
          code={name}
          choose={(code) => {
            setName(code);
            setLimits({});
          }}
        />
        <p className="mb-2 text-sm text-soft">
          {spec?.decides} Without a figure of your own: {spec?.limits}.
        </p>
        {fields.map(({ key, label, kind }) => (
          <Text
            key={key}
            label={label}
            value={limits[key] ?? ""}
            numeric={kind === "number"}
            onChange={(text) => setLimits({ ...limits, [key]: text })}
          />
        ))}
        <Text label="Source of the limit" value={source} onChange={setSource} />
        <Keep />
      </form>
    </>
  );
}
