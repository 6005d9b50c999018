/** The route: a line with a knot for each sheet; only what works is offered. */
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import api, { got, told, type JobView, type SheetView } from "../../api/client";
import { keepNewest } from "../../lib/store";
import { Trouble } from "../../ui/parts";

interface Props {
  job: JobView;
  sheet: SheetView | undefined;
}

export function RouteLine({ job, sheet }: Props) {
  const navigate = useNavigate();
  const [requestId, setRequestId] = useState(() => crypto.randomUUID());
  const drops = ["port", "throttle_body", "direct"].includes(job.vehicle.fuel_system);
  const again = useMutation({
    mutationFn: () => {
      const gauge = sheet?.conditions.gauge ?? { name: "dial", unit: "psi", step: "0.5" };
      return got(
        api.POST("/api/jobs/{number}/sheets", {
          params: { path: { number: job.number } },
          body: {
            request_id: requestId,
            gauge: { name: gauge.name || "gauge", unit: gauge.unit as "psi", step: gauge.step },
          },
        }),
      );
    },
    onSuccess: (made) => {
      setRequestId(crypto.randomUUID());
      keepNewest(made);
      void navigate(`/jobs/${encodeURIComponent(job.number)}/${made.key}`);
    },
  });
  return (
    <nav aria-label="Route">
      <h2 className="mb-3 text-sm font-bold text-soft">Route</h2>
      <ol className="flex flex-wrap gap-x-5 lg:block">
        {job.route.map((knot) => {
          const here = knot.sheet_id === sheet?.id;
          return (
            <li
              key={knot.sheet_id}
              className="relative pb-5 pl-7 lg:border-l-2 lg:border-ink lg:last:border-transparent"
            >
              <span
                aria-hidden
                className={`absolute left-0 top-1 h-4 w-4 rounded-full border-2 border-ink lg:-left-[9px] ${
                  here ? "bg-chalk ring-4 ring-wash" : knot.state === "done" ? "bg-ink" : "bg-paper"
                }`}
              />
              <Link
                to={`/jobs/${encodeURIComponent(job.number)}/${knot.key}`}
                aria-current={here ? "step" : undefined}
                className="block leading-tight"
              >
                <b>{knot.title}</b>
                <span className="block text-sm text-soft">
                  {knot.sub}
                  {knot.state === "done" ? ", done" : ""}
                </span>
              </Link>
            </li>
          );
        })}
      </ol>
      {drops && (
        <button className="knob" disabled={again.isPending} onClick={() => again.mutate()}>
          {job.route.length === 0 ? "Start the drop sheet" : "Repeat after the fix"}
        </button>
      )}
      {!drops && (
        <p className="text-sm text-soft">
          There is no drop sheet for this fuel system, and its own sheets are not built yet.
        </p>
      )}
      <Trouble text={again.isError ? told(again.error) : null} />
    </nav>
  );
}
