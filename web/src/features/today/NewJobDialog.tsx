/** A new job in a few keys: vehicle, cylinders, fuel system, and go. */
import { useMutation, useQuery } from "@tanstack/react-query";
import { useId, useState, type SubmitEvent } from "react";
import { useNavigate } from "react-router";
import api, { got, told, type NewJob, type VehicleView } from "../../api/client";
import { setPrefs, usePrefs } from "../../lib/prefs";
import { keepNewest, shelfQuery } from "../../lib/store";
import { Dialog, Trouble } from "../../ui/parts";

interface Props {
  open: boolean;
  onOpenChange: (open: boolean) => void;
}

export function NewJobDialog({ open, onOpenChange }: Props) {
  return (
    <Dialog
      title="New job"
      open={open}
      onOpenChange={onOpenChange}
      note="Name the vehicle and go; everything else can come later."
    >
      <Form />
    </Dialog>
  );
}

/** The sheet that compares injectors first, where that is not the drop sheet. */
const STRAIGHT: Partial<Record<string, NewJob["begin_with"]>> = {
  common_rail: "correction",
  mechanical_diesel: "opening_pressure",
};
const STRAIGHT_WORDS: Partial<Record<string, string>> = {
  common_rail: "corrections",
  mechanical_diesel: "opening pressures",
};

type System = NonNullable<NewJob["fuel_system"]>;

function Form() {
  const [requestId] = useState(() => crypto.randomUUID());
  const [name, setName] = useState("");
  const [known, setKnown] = useState<VehicleView | null>(null);
  const [plate, setPlate] = useState("");
  const [complaint, setComplaint] = useState("");
  const [cylinders, setCylinders] = useState(4);
  const [banks, setBanks] = useState(1);
  const [system, setSystem] = useState<System>("port");
  const [layout, setLayout] = useState<number | null>(null);
  const { begin } = usePrefs();
  const navigate = useNavigate();
  const shelf = useQuery(shelfQuery);
  const layouts = shelf.data?.filter((e) => e.what === "layout") ?? [];
  const list = useId();
  const vehicles = useQuery({
    queryKey: ["vehicles", name],
    queryFn: () => got(api.GET("/api/vehicles", { params: { query: { find: name } } })),
    enabled: name.trim().length > 1 && known === null,
  });
  const make = useMutation({
    mutationFn: () =>
      got(
        api.POST("/api/jobs", {
          body: {
            request_id: requestId,
            vehicle_id: known?.id ?? null,
            vehicle_name: name,
            registration: plate,
            fuel_system: system,
            cylinders,
            banks,
            complaint,
            codes: [],
            gauge_id: null,
            layout_id: known ? null : layout,
            begin_with: begin === "pressure_drop" ? (STRAIGHT[of] ?? begin) : begin,
          },
        }),
      ),
    onSuccess: (sheet) => {
      keepNewest(sheet);
      void navigate(`/jobs/${encodeURIComponent(sheet.job_number)}/${sheet.key}`);
    },
  });

  const of = known?.fuel_system ?? system;
  const go = (e: SubmitEvent) => {
    e.preventDefault();
    if (!make.isPending) make.mutate();
  };

  return (
    <form onSubmit={go} className="grid gap-3">
      <div>
        <label className="label" htmlFor={`${list}-name`}>
          Vehicle
        </label>
        {known ? (
          <p className="flex items-center gap-3 rounded-lg border border-hair bg-field p-2">
            <span className="grow">
              <b>{known.name}</b> {known.registration}, {known.injectors.length} injectors
            </span>
            <button type="button" className="knob" onClick={() => setKnown(null)}>
              Another
            </button>
          </p>
        ) : (
          <input
            id={`${list}-name`}
            className="field"
            required
            maxLength={120}
            value={name}
            autoComplete="off"
            onChange={(e) => setName(e.target.value)}
          />
        )}
        <Known found={known ? [] : (vehicles.data ?? [])} pick={setKnown} />
      </div>
      {!known && (
        <>
          <Choice
            legend="Cylinders"
            options={[3, 4, 5, 6, 8].map((n) => [n, String(n)])}
            value={cylinders}
            pick={setCylinders}
          />
          <Choice
            legend="Banks"
            options={[
              [1, "one row"],
              [2, "two banks"],
            ]}
            value={banks}
            pick={setBanks}
          />
          <Choice<System>
            legend="Fuel system"
            options={[
              ["port", "port"],
              ["throttle_body", "throttle body"],
              ["direct", "direct"],
              ["common_rail", "common rail"],
              ["mechanical_diesel", "mechanical diesel"],
            ]}
            value={system}
            pick={setSystem}
          />
          <div>
            <label className="label" htmlFor={`${list}-plate`}>
              Plate (may stay empty)
            </label>
            <input
              id={`${list}-plate`}
              className="field"
              maxLength={40}
              value={plate}
              onChange={(e) => setPlate(e.target.value)}
            />
          </div>
        </>
      )}
      <div>
        <label className="label" htmlFor={`${list}-complaint`}>
          Complaint (may stay empty)
        </label>
        <input
          id={`${list}-complaint`}
          className="field"
          maxLength={500}
          value={complaint}
          onChange={(e) => setComplaint(e.target.value)}
        />
      </div>
      {!known && layouts.length > 0 && (
        <div>
          <label className="label" htmlFor={`${list}-layout`}>
            Layout from the shelf (cylinders, banks, feeds)
          </label>
          <select
            id={`${list}-layout`}
            className="field"
            value={layout ?? ""}
            onChange={(e) => setLayout(e.target.value === "" ? null : Number(e.target.value))}
          >
            <option value="">none: as chosen above</option>
            {layouts.map((l) => (
              <option key={l.id} value={l.id}>
                {l.name}, {Object.keys(l.values).length} injectors
              </option>
            ))}
          </select>
        </div>
      )}
      <Choice
        legend="Begin with"
        options={[
          ["walk_round", "the walk-round"],
          ["pressure_drop", `the ${STRAIGHT_WORDS[of] ?? "drop sheet"} straight away`],
        ]}
        value={begin}
        pick={(wanted) => setPrefs({ begin: wanted })}
      />
      <Trouble text={make.isError ? told(make.error) : null} />
      <button className="slab-knob" type="submit" disabled={make.isPending}>
        Go
      </button>
    </form>
  );
}

function Known({ found, pick }: { found: VehicleView[]; pick: (v: VehicleView) => void }) {
  if (found.length === 0) return null;
  return (
    <ul className="mt-1 grid gap-1" aria-label="Known vehicles">
      {found.slice(0, 4).map((v) => (
        <li key={v.id}>
          <button type="button" className="knob w-full" onClick={() => pick(v)}>
            <b>{v.name}</b> {v.registration} · {v.injectors.length} cylinders
          </button>
        </li>
      ))}
    </ul>
  );
}

interface ChoiceProps<T extends string | number> {
  legend: string;
  options: [T, string][];
  value: T;
  pick: (value: T) => void;
}

function Choice<T extends string | number>({ legend, options, value, pick }: ChoiceProps<T>) {
  const name = useId();
  return (
    <fieldset>
      <legend className="label">{legend}</legend>
      <div className="flex flex-wrap gap-2">
        {options.map(([key, words]) => (
          <label
            key={key}
            className="knob min-h-11 has-checked:bg-slab has-checked:text-slabink has-focus-visible:outline-3 has-focus-visible:outline-chalk"
          >
            <input
              type="radio"
              name={name}
              className="sr-only"
              checked={value === key}
              onChange={() => pick(key)}
            />
            {words}
          </label>
        ))}
      </div>
    </fieldset>
  );
}
