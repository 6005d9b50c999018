/** The vehicle and its engine: cylinders, injectors with their banks, feeds and sets. */
import { useMutation } from "@tanstack/react-query";
import { lazy, Suspense, useState, type SubmitEvent } from "react";
import api, { got, told, type VehicleView } from "../../api/client";
import { BusyButton, Dialog, Text, Trouble } from "../../ui/parts";
import { useSeatsChanged } from "./seats";

const Layouts = lazy(() => import("./Layouts"));

interface Props {
  vehicle: VehicleView;
  open: boolean;
  onOpenChange: (open: boolean) => void;
}

type Known = VehicleView["injectors"][number];
/** An injector as it is to be; `was` is the label it has now, empty for a new one. */
type Seat = Known & { was: string };

interface Engine {
  name: string;
  registration: string;
  distance_unit: string;
  cylinders: string;
  firing: string;
  boosted: boolean;
  seats: Seat[];
}

interface PartProps {
  engine: Engine;
  put: (change: Partial<Engine>) => void;
}

export default function EngineDialog({ vehicle, open, onOpenChange }: Props) {
  return (
    <Dialog
      wide
      title="Vehicle and engine"
      open={open}
      onOpenChange={onOpenChange}
      note="Injectors that share a fuse or a driver get the same feed, for example 1+4. Those on a rail of their own get a set of their own, and are never compared with the others. One that was read is retired when it is taken away: its sheets keep it."
    >
      <Form vehicle={vehicle} done={() => onOpenChange(false)} />
    </Dialog>
  );
}

function asItIs(vehicle: VehicleView): Engine {
  return {
    name: vehicle.name,
    registration: vehicle.registration,
    distance_unit: vehicle.distance_unit,
    cylinders: String(vehicle.cylinders),
    firing: vehicle.firing_order.join(" "),
    boosted: vehicle.boosted,
    seats: vehicle.injectors.map((i) => ({ ...i, was: i.label })),
  };
}

function useSave(vehicle: VehicleView, onSuccess: () => void) {
  return useMutation({
    mutationFn: ({ cylinders, firing, seats, distance_unit, ...rest }: Engine) =>
      got(
        api.PUT("/api/vehicles/{vehicle_id}/engine", {
          params: { path: { vehicle_id: vehicle.id } },
          body: {
            seen: vehicle.injectors.map((i) => i.label),
            ...rest,
            distance_unit: distance_unit as "km",
            cylinders: Number(cylinders),
            firing_order:
              firing.trim() === ""
                ? []
                : firing
                    .trim()
                    .split(/[\s,-]+/)
                    .map(Number),
            injectors: seats.map((s) => ({ ...s, label: s.label.trim() })),
          },
        }),
      ),
    onSuccess,
  });
}

function Form({ vehicle, done }: { vehicle: VehicleView; done: () => void }) {
  const [engine, setEngine] = useState(() => asItIs(vehicle));
  const save = useSave(vehicle, useSeatsChanged(done));
  const put = (change: Partial<Engine>) => setEngine({ ...engine, ...change });
  const go = (e: SubmitEvent) => {
    e.preventDefault();
    save.mutate(engine);
  };
  return (
    <form onSubmit={go}>
      <Vehicle engine={engine} put={put} />
      <Injectors engine={engine} put={put} />
      <Trouble text={save.isError ? told(save.error) : null} />
      <BusyButton className="slab-knob" busy={save.isPending}>
        Keep
      </BusyButton>
      <Suspense>
        <Layouts vehicle={vehicle} done={done} />
      </Suspense>
    </form>
  );
}

/** What the vehicle is called, in what its distance is counted, and its cylinders. */
function Vehicle({ engine, put }: PartProps) {
  return (
    <div className="mb-2 grid gap-x-3 sm:grid-cols-2">
      <Text label="Vehicle" value={engine.name} onChange={(name) => put({ name })} />
      <Text
        label="Plate"
        value={engine.registration}
        onChange={(registration) => put({ registration })}
      />
      <Text
        label="Cylinders"
        numeric
        value={engine.cylinders}
        onChange={(cylinders) => put({ cylinders })}
      />
      <Text
        label="Firing order, with spaces (empty: the usual one)"
        value={engine.firing}
        onChange={(firing) => put({ firing })}
      />
      <label className="mb-2 block">
        <span className="label">Distance in</span>
        <select
          className="field"
          value={engine.distance_unit}
          onChange={(e) => put({ distance_unit: e.target.value })}
        >
          <option value="km">km</option>
          <option value="mi">miles</option>
          <option value="h">hours of the engine</option>
        </select>
      </label>
      <label className="mb-2 flex min-h-11 items-center gap-2 self-end">
        <input
          type="checkbox"
          checked={engine.boosted}
          onChange={(e) => put({ boosted: e.target.checked })}
        />
        Boosted (turbo, supercharger)
      </label>
    </div>
  );
}

/** The lowest number that no injector is called by. */
function freeLabel(seats: Seat[]): string {
  const taken = new Set(seats.map((s) => s.label));
  return String(Array.from({ length: 33 }, (_, n) => n + 1).find((n) => !taken.has(String(n))));
}

function Injectors({ engine, put }: PartProps) {
  const { seats } = engine;
  const change = (at: number, to: Partial<Seat>) =>
    put({ seats: seats.map((s, n) => (n === at ? { ...s, ...to } : s)) });
  const add = () => {
    const label = freeLabel(seats);
    const cylinder = Number(label) <= Number(engine.cylinders) ? Number(label) : 0;
    put({ seats: [...seats, { was: "", label, cylinder, bank: "", feed: "", set_name: "" }] });
  };
  return (
    <fieldset className="mb-3">
      <legend className="label">Injectors, in the order of reach</legend>
      <div className="grid grid-cols-[repeat(5,minmax(0,1fr))_auto] items-center gap-1.5 text-sm">
        {["Label", "Cylinder", "Bank", "Feed", "Set"].map((name) => (
          <span key={name} className="label">
            {name}
          </span>
        ))}
        <span />
        {seats.map((seat, n) => (
          <SeatLine
            key={seat.was || `new ${n}`}
            seat={seat}
            cylinders={Number(engine.cylinders) || 1}
            change={(to) => change(n, to)}
            remove={() => put({ seats: seats.filter((_, at) => at !== n) })}
          />
        ))}
      </div>
      <button type="button" className="knob mt-2 min-h-11" onClick={add}>
        Add an injector
      </button>
    </fieldset>
  );
}

interface SeatProps {
  seat: Seat;
  cylinders: number;
  change: (to: Partial<Seat>) => void;
  remove: () => void;
}

const FIELDS = [
  ["bank", "Bank", 12],
  ["feed", "Feed", 24],
  ["set_name", "Set", 12],
] as const;

function SeatLine({ seat, cylinders, change, remove }: SeatProps) {
  const called = seat.label || "without a label";
  return (
    <div className="contents">
      <input
        className="field"
        maxLength={12}
        aria-label={`Label of injector ${called}`}
        value={seat.label}
        onChange={(e) => change({ label: e.target.value })}
      />
      <CylinderOf seat={seat} called={called} cylinders={cylinders} change={change} />
      {FIELDS.map(([key, name, most]) => (
        <input
          key={key}
          className="field"
          maxLength={most}
          aria-label={`${name} of injector ${called}`}
          value={seat[key]}
          onChange={(e) => change({ [key]: e.target.value })}
        />
      ))}
      <button
        type="button"
        className="knob min-h-11"
        aria-label={`Take injector ${called} away`}
        onClick={remove}
      >
        ✕
      </button>
    </div>
  );
}

type CylinderProps = Omit<SeatProps, "remove"> & { called: string };

/** Which cylinder it feeds, or all of them. */
function CylinderOf({ seat, called, cylinders, change }: CylinderProps) {
  const numbers = Array.from({ length: Math.max(cylinders, seat.cylinder) }, (_, n) => n + 1);
  return (
    <select
      className="field"
      aria-label={`Cylinder of injector ${called}`}
      value={seat.cylinder}
      onChange={(e) => change({ cylinder: Number(e.target.value) })}
    >
      <option value={0}>all</option>
      {numbers.map((n) => (
        <option key={n} value={n}>
          {n}
        </option>
      ))}
    </select>
  );
}
