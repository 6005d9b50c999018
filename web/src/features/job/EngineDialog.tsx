/** Bank and feed of each injector: who shares a fuse or a driver. */
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState, type SubmitEvent } from "react";
import api, { got, told, type VehicleView } from "../../api/client";
import { shelfQuery } from "../../lib/store";
import { Dialog, Text, Trouble } from "../../ui/parts";

interface Props {
  vehicle: VehicleView;
  open: boolean;
  onOpenChange: (open: boolean) => void;
}

type Line = VehicleView["injectors"][number];

export default function EngineDialog({ vehicle, open, onOpenChange }: Props) {
  return (
    <Dialog
      title="Banks and feeds"
      open={open}
      onOpenChange={onOpenChange}
      note="Give injectors that share a fuse or a driver the same feed, for example 1+4. Two partners bad together point at what they share first."
    >
      <Form vehicle={vehicle} done={() => onOpenChange(false)} />
    </Dialog>
  );
}

/** Where an injector sits and what feeds it shows on the sheets and in the verdict. */
function useSeatsChanged(done: () => void): () => void {
  const client = useQueryClient();
  return () => {
    void client.invalidateQueries({ queryKey: ["sheet"] });
    void client.invalidateQueries({ queryKey: ["job"] });
    done();
  };
}

/** Keep the lines that differ from what is kept. */
function useSave(vehicle: VehicleView, onSuccess: () => void) {
  return useMutation({
    mutationFn: async (lines: Line[]) => {
      for (const line of lines) {
        const old = vehicle.injectors.find((i) => i.label === line.label);
        if (old?.bank === line.bank && old.feed === line.feed) continue;
        await got(
          api.PATCH("/api/vehicles/{vehicle_id}/injectors/{label}", {
            params: { path: { vehicle_id: vehicle.id, label: line.label } },
            body: { bank: line.bank.trim(), feed: line.feed.trim() },
          }),
        );
      }
    },
    onSuccess,
  });
}

function Form({ vehicle, done }: { vehicle: VehicleView; done: () => void }) {
  const [lines, setLines] = useState<Line[]>(() =>
    [...vehicle.injectors].sort((a, b) => a.cylinder - b.cylinder),
  );
  const save = useSave(vehicle, useSeatsChanged(done));
  const put = (label: string, change: Partial<Line>) =>
    setLines(lines.map((l) => (l.label === label ? { ...l, ...change } : l)));
  const go = (e: SubmitEvent) => {
    e.preventDefault();
    save.mutate(lines);
  };
  return (
    <form onSubmit={go}>
      <div className="mb-3 grid grid-cols-[4rem_1fr_1fr] items-center gap-2">
        <span className="label">Injector</span>
        <span className="label">Bank</span>
        <span className="label">Feed</span>
        {lines.map((line) => (
          <Seat key={line.label} line={line} put={(change) => put(line.label, change)} />
        ))}
      </div>
      <Trouble text={save.isError ? told(save.error) : null} />
      <button className="slab-knob" disabled={save.isPending}>
        Keep
      </button>
      <Layouts vehicle={vehicle} done={done} />
    </form>
  );
}

function Seat({ line, put }: { line: Line; put: (change: Partial<Line>) => void }) {
  return (
    <div className="contents">
      <b className="figure text-lg">{line.label}</b>
      <input
        className="field"
        maxLength={12}
        aria-label={`Bank of injector ${line.label}`}
        value={line.bank}
        onChange={(e) => put({ bank: e.target.value })}
      />
      <input
        className="field"
        maxLength={24}
        aria-label={`Feed of injector ${line.label}`}
        value={line.feed}
        onChange={(e) => put({ feed: e.target.value })}
      />
    </div>
  );
}

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
function Layouts({ vehicle, done }: { vehicle: VehicleView; done: () => void }) {
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
      <button
        type="button"
        className="knob min-h-11"
        disabled={keep.isPending || !name.trim()}
        onClick={() => keep.mutate()}
      >
        {keep.isSuccess ? "Kept on the shelf" : "Keep as a layout"}
      </button>
      <Trouble text={take.isError ? told(take.error) : null} />
      <Trouble text={keep.isError ? told(keep.error) : null} />
    </fieldset>
  );
}
