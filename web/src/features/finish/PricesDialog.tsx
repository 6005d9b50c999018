/** What it costs here: kept on the shelf, for every vehicle or for those of this name. */
import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import api, { got, told, type JobView, type ShelfView } from "../../api/client";
import { queries, shelfQuery } from "../../lib/store";
import { BusyButton, Dialog, Text, Trouble } from "../../ui/parts";
import { EVERY_VEHICLE, PRICES } from "./prices";

function keepPrices(entry: ShelfView | undefined, name: string, values: Record<string, string>) {
  const filled = Object.fromEntries(Object.entries(values).filter(([, v]) => v.trim()));
  const body = {
    what: "price" as const,
    name,
    kind: "" as const,
    unit: "" as const,
    values: filled,
  };
  return entry
    ? got(api.PUT("/api/shelf/{entry_id}", { params: { path: { entry_id: entry.id } }, body }))
    : got(api.POST("/api/shelf", { body }));
}

export default function PricesDialog({ job, close }: { job: JobView; close: () => void }) {
  const shelf = useQuery(shelfQuery);
  const [name, setName] = useState(EVERY_VEHICLE);
  return (
    <Dialog
      title="What it costs"
      open
      onOpenChange={close}
      note="Kept on the shelf. What stays empty there is taken from the prices of every vehicle."
    >
      <div className="mb-3 flex flex-wrap gap-2" role="group" aria-label="For which vehicles">
        {[EVERY_VEHICLE, job.vehicle.name].map((one) => (
          <button
            key={one}
            className="choice"
            aria-pressed={name === one}
            onClick={() => setName(one)}
          >
            {one}
          </button>
        ))}
      </div>
      {shelf.data && (
        <Form
          key={name}
          number={job.number}
          name={name}
          entry={shelf.data.find((e) => e.what === "price" && e.name === name)}
          done={close}
        />
      )}
    </Dialog>
  );
}

interface FormProps {
  number: string;
  name: string;
  entry: ShelfView | undefined;
  done: () => void;
}

function Form({ number, name, entry, done }: FormProps) {
  const [values, setValues] = useState<Record<string, string>>(entry?.values ?? {});
  const keep = useMutation({
    mutationFn: () => keepPrices(entry, name, values),
    onSuccess: () => {
      void queries.invalidateQueries({ queryKey: ["shelf"] });
      void queries.invalidateQueries({ queryKey: ["job", number] });
      done();
    },
  });
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault();
        keep.mutate();
      }}
    >
      {PRICES.map(([key, label]) => (
        <Text
          key={key}
          label={label}
          numeric={key !== "currency"}
          value={values[key] ?? ""}
          onChange={(text) => setValues({ ...values, [key]: text })}
        />
      ))}
      <Trouble text={keep.isError ? told(keep.error) : null} />
      <BusyButton className="slab-knob" busy={keep.isPending}>
        Keep
      </BusyButton>
    </form>
  );
}
