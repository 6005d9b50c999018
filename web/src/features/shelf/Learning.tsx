/** Whether closed jobs count into how common faults are, and what they have said so far. */
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import api, { got, told, type LearningView } from "../../api/client";
import { Trouble } from "../../ui/parts";

const query = { queryKey: ["learning"], queryFn: () => got(api.GET("/api/learning")) };

export function Learning() {
  const client = useQueryClient();
  const learning = useQuery(query);
  const set = useMutation({
    mutationFn: (on: boolean) => got(api.PUT("/api/learning", { body: { on } })),
    onSuccess: (now) => {
      client.setQueryData(["learning"], now);
      void client.invalidateQueries({ queryKey: ["job"] });
      void client.invalidateQueries({ queryKey: ["jobs"] });
    },
  });
  const now = learning.data;
  return (
    <section className="mb-4" aria-labelledby="learning">
      <h2 id="learning" className="mb-1 text-lg font-bold">
        Learning from this shop
      </h2>
      <p className="mb-2 text-soft">
        How common each fault is comes from common practice. Closed jobs whose repair confirmed a
        cause count beside it, the more of them the more, up to the newest 2,000 of a fuel system.
      </p>
      <Trouble text={learning.isError ? told(learning.error) : null} />
      <Trouble text={set.isError ? told(set.error) : null} />
      {now && (
        <>
          <label className="flex min-h-11 items-center gap-2">
            <input
              type="checkbox"
              className="size-5"
              checked={now.on}
              aria-disabled={set.isPending || undefined}
              onChange={(e) => set.isPending || set.mutate(e.target.checked)}
            />
            Closed jobs count
          </label>
          <Met now={now} />
        </>
      )}
    </section>
  );
}

/** What closed jobs have confirmed so far. */
function Met({ now }: { now: LearningView }) {
  return (
    <>
      <p className="text-sm text-soft">
        {now.jobs === 0
          ? "No closed job has a confirmed cause yet."
          : `${now.jobs} closed ${now.jobs === 1 ? "job has" : "jobs have"} a confirmed cause.`}
      </p>
      <ul className="text-sm">
        {now.faults.map((f) => (
          <li key={`${f.fuel_system} ${f.fault}`} className="border-t border-hair py-1">
            <b>{f.words}</b>, {f.fuel_system.replaceAll("_", " ")}: {f.cases} of your own, now{" "}
            {f.per_hundred} in a hundred; your own jobs are {f.own_percent} % of that.
          </li>
        ))}
      </ul>
    </>
  );
}
