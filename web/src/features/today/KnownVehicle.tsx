/** Fields of a new job that may bring a vehicle which is known: by its name, or by its plate. */
import { useQuery } from "@tanstack/react-query";
import { useId } from "react";
import type { VehicleView } from "../../api/client";
import { vehiclesQuery } from "../../lib/vehicles";

interface LineProps {
  label: string;
  value: string;
  most: number;
  required?: boolean;
  onChange: (text: string) => void;
}

/** A labelled line of text. */
export function Line({ label, value, most, required, onChange }: LineProps) {
  const id = useId();
  return (
    <div>
      <label className="label" htmlFor={id}>
        {label}
      </label>
      <input
        id={id}
        className="field"
        required={required}
        maxLength={most}
        value={value}
        autoComplete="off"
        onChange={(e) => onChange(e.target.value)}
      />
    </div>
  );
}

export function Known({ found, pick }: { found: VehicleView[]; pick: (v: VehicleView) => void }) {
  if (found.length === 0) return null;
  return (
    <ul className="mt-1 grid gap-1" aria-label="Known vehicles">
      {found.slice(0, 4).map((v) => (
        <li key={v.id}>
          <button type="button" className="knob w-full" onClick={() => pick(v)}>
            <b>{v.name}</b> {v.registration} · {v.injectors.length} injectors
          </button>
        </li>
      ))}
    </ul>
  );
}

/** Letters and digits alone: SM 22 is SM-22. */
const bare = (plate: string) => plate.toUpperCase().replace(/[^\p{L}\p{N}]/gu, "");

interface PlateProps {
  plate: string;
  put: (plate: string) => void;
  pick: (known: VehicleView) => void;
}

/** The plate; one that is known brings its vehicle, whatever was typed as its name. */
export function Plate({ plate, put, pick }: PlateProps) {
  const vehicles = useQuery({ ...vehiclesQuery(plate), enabled: bare(plate).length > 1 });
  const same = (vehicles.data ?? []).filter((v) => bare(v.registration) === bare(plate));
  return (
    <div>
      <Line label="Plate (may stay empty)" value={plate} most={40} onChange={put} />
      {same.length > 0 && <p className="mt-1 font-bold">This plate is known:</p>}
      <Known found={same} pick={pick} />
    </div>
  );
}
