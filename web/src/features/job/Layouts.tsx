/** Layouts on the shelf: banks, feeds and sets taken from one, or kept for the next of its make. */
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import api, { got, told, type VehicleView } from "../../api/client";
import { shelfQuery } from "../../lib/store";
import { BusyButton, Text, Trouble } from "../../ui/parts";
import { useSeatsChanged } from "./seats";

function useTake(vehicle: VehicleView, onSuccess: () => void) {
  return useMutation({
    mutationFn: (layout_id: number) =>
      got(
        api.PUT("/api/vehicles/{vehicle_id}/layout", {
          params: { path: { vehicle_id: vehicle.id } },
          body: { layout_id },
        }),
      ),
    onSuccess,
  });
}

/** Take banks and feeds from a layout of the shelf, or keep these for the next of its make. */
export default function Layouts({ vehicle, done }: { vehicle: VehicleView; done: () => void }) {
  const shelf = useQuery(shelfQuery);
  const client = useQueryClient();
  const [name, setName] = useState(vehicle.name);
  const labels = vehicle.injectors
    .map((i) => i.label)
    .sort()
    .join();
  const fitting = (shelf.data ?? []).filter(
    (e) => e.what === "layout" && Object.keys(e.values).sort().join() === labels,
  );
  const take = useTake(vehicle, useSeatsChanged(done));
  const keep = useMutation({
    mutationFn: () => got(api.POST("/api/layouts", { body: { name, vehicle_id: vehicle.id } })),
    onSuccess: () => void client.invalidateQueries({ queryKey: ["shelf"] }),
  });
  return (
    <fieldset className="mt-4 border-t border-hair pt-3">
      <legend className="label">Layouts on the shelf</legend>
      <ul className="mb-2 grid gap-1">
        {fitting.map((e) => (
          <li key={e.id}>
            <button type="button" className="knob w-full" onClick={() => take.mutate(e.id)}>
              Take <b>{e.name}</b>
            </button>
          </li>
        ))}
      </ul>
      <Text label="Keep what is kept above as a layout; its name" value={name} onChange={setName} />
      <BusyButton
        type="button"
        className="knob min-h-11"
        disabled={!name.trim()}
        busy={keep.isPending}
        onClick={() => keep.mutate()}
      >
        {keep.isSuccess ? "Kept on the shelf" : "Keep as a layout"}
      </BusyButton>
      <Trouble text={take.isError ? told(take.error) : null} />
      <Trouble text={keep.isError ? told(keep.error) : null} />
    </fieldset>
  );
}
