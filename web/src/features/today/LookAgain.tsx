/** Vehicles whose fault was left, and whose day to be looked at again has come. */
import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { longDay } from "../../lib/clock";
import api, { got } from "../../api/client";

export function LookAgain() {
  const due = useQuery({
    queryKey: ["look-again"],
    queryFn: () => got(api.GET("/api/look-again")),
    refetchInterval: 600_000,
  });
  if (!due.data?.length) return null;
  return (
    <section
      aria-label="To be looked at again"
      className="mb-4 rounded-lg border-2 border-chalk bg-sheet p-3"
    >
      <h2 className="mb-1 text-sm font-bold text-soft">To be looked at again</h2>
      <ul>
        {due.data.map((one) => (
          <li key={one.number} className="flex flex-wrap items-baseline gap-x-3 py-0.5">
            <b>
              {one.vehicle} {one.registration}
            </b>
            <span className="flex-1 text-soft">
              due {longDay(one.look_on)}
              {one.look_at && ` or at ${one.look_at}`} · {one.words}
            </span>
            <Link className="underline" to={`/jobs/${encodeURIComponent(one.number)}/verdict`}>
              Job {one.number}
            </Link>
          </li>
        ))}
      </ul>
    </section>
  );
}
