/** A vehicle with its years, as the server tells it. */
import api, { got } from "../../api/client";
import type { components } from "../../api/schema";

export type Years = components["schemas"]["YearsView"];

export function yearsQuery(id: number) {
  return {
    queryKey: ["years", id],
    queryFn: () =>
      got(api.GET("/api/vehicles/{vehicle_id}/years", { params: { path: { vehicle_id: id } } })),
  };
}
