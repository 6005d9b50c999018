/** Vehicles that are known, with the server and without it. */
import { queryOptions } from "@tanstack/react-query";
import api, { answered, Away, got, KEPT } from "../api/client";
import { queries } from "./store";

/** So many vehicles are read ahead, for a new job on one of them without the server. */
const MOST_AHEAD = 200;

/** The newest vehicles, as they are read ahead. */
export const vehiclesAheadQuery = queryOptions({
  queryKey: ["vehicles ahead"],
  queryFn: () => got(api.GET("/api/vehicles", { params: { query: { most: MOST_AHEAD } } })),
  staleTime: 60_000,
});

/** Vehicles by name or plate; without the server among those that were read ahead. */
export function vehiclesQuery(find: string) {
  return queryOptions({
    queryKey: ["vehicles", find],
    queryFn: async () => {
      const asked = await answered(api.GET("/api/vehicles", { params: { query: { find } } })).catch(
        (error: unknown) => {
          if (error instanceof Away) return undefined;
          throw error;
        },
      );
      if (asked && !asked.response.headers.has(KEPT)) return asked.data;
      const ahead = await queries.query({ ...vehiclesAheadQuery, staleTime: "static" });
      const words = find.toLowerCase().split(/\s+/).filter(Boolean);
      return ahead.filter((v) =>
        words.every((w) => `${v.name} ${v.registration}`.toLowerCase().includes(w)),
      );
    },
  });
}
