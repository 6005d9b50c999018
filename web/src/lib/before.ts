/** What earlier visits gave: where each row hung last time, and sound sets that a sheet can be held against. */
import { useQuery } from "@tanstack/react-query";
import api, { got, type BaselineView, type SheetView } from "../api/client";
import { prefsNow } from "./prefs";
import { shownUnitQuery } from "./store";

const NO_OFFERS: readonly BaselineView[] = [];

/** Earlier sound sets that a sheet can be held against; with `asked` where there may be any. */
export function useBaselines(sheet: SheetView, asked: boolean): readonly BaselineView[] {
  const offers = useQuery({
    queryKey: ["baselines", sheet.id, sheet.version],
    queryFn: () => {
      const params = { path: { sheet_id: sheet.id } };
      return got(api.GET("/api/sheets/{sheet_id}/baselines", { params }));
    },
    staleTime: Infinity,
    enabled: asked && sheet.id > 0,
    placeholderData: (old) => old,
  });
  return offers.data ?? NO_OFFERS;
}

const THEN_NOTHING: ReadonlyMap<string, string> = new Map();

/** What each row gave on the earlier set of this vehicle that the sheet is held against. */
export function useThen(sheet: SheetView): ReadonlyMap<string, string> {
  const fields = sheet.knobs.flatMap((knob) => knob.fields);
  const since = fields.find((f) => f.key === "expected.since")?.value ?? "";
  const used = useBaselines(sheet, since !== "").find((offer) => offer.used && offer.own);
  return used ? new Map(used.then.map((t) => [t.row, t.figures])) : THEN_NOTHING;
}

type LastTime = ReadonlyMap<string, { at: number; when: string }>;
const NEVER: LastTime = new Map();

/** Where each row of a sheet hung on the vehicle's visit before this one. */
export function useLastTime(id: number): LastTime {
  const last = useQuery({
    queryKey: ["last-time", id, prefsNow().unit],
    queryFn: async () => {
      const params = { path: { sheet_id: id }, query: shownUnitQuery() };
      const rows = await got(api.GET("/api/sheets/{sheet_id}/last-time", { params }));
      return new Map(rows.map((r) => [r.row, { at: r.at, when: r.when }]));
    },
    staleTime: Infinity,
  });
  return last.data ?? NEVER;
}
