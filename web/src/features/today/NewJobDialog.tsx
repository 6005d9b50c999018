/** A new job in a few keys: vehicle, cylinders, fuel system, and go. */
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useId, useState, type SubmitEvent } from "react";
import { useNavigate } from "react-router";
import api, {
  Away,
  got,
  told,
  type Catalogue,
  type Kind,
  type NewJob,
  type ShelfView,
  type VehicleView,
} from "../../api/client";
import { setPrefs, usePrefs, type Prefs } from "../../lib/prefs";
import { newNumber, newSheetId } from "../../lib/places";
import { beginHere } from "../../lib/offline";
import { catalogueQuery, keepNewest, shelfQuery } from "../../lib/store";
import { vehiclesQuery } from "../../lib/vehicles";
import { laidOut } from "../../lib/unsent";
import { OtherDay, type Dated } from "../../ui/OtherDay";
import { BusyButton, Dialog, Trouble } from "../../ui/parts";
import { Known, Line, Plate } from "./KnownVehicle";

interface Props {
  open: boolean;
  onOpenChange: (open: boolean) => void;
  /** A visit of this vehicle that was earlier, as it stands on paper. */
  earlierOf?: VehicleView | undefined;
}

export function NewJobDialog({ open, onOpenChange, earlierOf }: Props) {
  return (
    <Dialog
      title={earlierOf ? "A visit from paper" : "New job"}
      open={open}
      onOpenChange={onOpenChange}
      note={
        earlierOf
          ? "Its sheets are then typed as they stand on paper, under its own day."
          : "Name the vehicle and go; everything else can come later."
      }
    >
      <Form earlierOf={earlierOf} />
    </Dialog>
  );
}

type System = NonNullable<NewJob["fuel_system"]>;

const SYSTEMS: [System, string][] = [
  ["port", "port"],
  ["throttle_body", "throttle body"],
  ["direct", "direct"],
  ["common_rail", "common rail"],
  ["mechanical_diesel", "mechanical diesel"],
];

type Each = NonNullable<NewJob["injectors"]>;

const ALL: System[] = SYSTEMS.map(([code]) => code);

/** How many injectors an engine has, and on which fuel systems that is met. */
const EACH: [Each, string, System[]][] = [
  ["one_each", "one a cylinder", ALL],
  ["two_each", "two a cylinder", ["port", "direct"]],
  ["one_for_all", "one for all", ["throttle_body"]],
  ["two_for_all", "two for all", ["throttle_body"]],
  ["port_and_direct", "port and direct", ["port", "direct"]],
];

/** What is typed of a new job; a vehicle that is known brings the rest. */
interface Wanted {
  name: string;
  known: VehicleView | null;
  plate: string;
  complaint: string;
  cylinders: number;
  banks: number;
  each: Each;
  system: System;
  layout: number | null;
  /** Where the visit was on another day. */
  dated: Dated | null;
}

const TODAY_UNSAID: Dated = { day: "", because: "" };

const BLANK: Wanted = {
  name: "",
  known: null,
  plate: "",
  complaint: "",
  cylinders: 4,
  banks: 1,
  each: "one_each",
  system: "port",
  layout: null,
  dated: null,
};

interface PartProps {
  wanted: Wanted;
  put: (change: Partial<Wanted>) => void;
}

/** Where a job on this fuel system can begin. */
function beginnings(wanted: Wanted, prefer: string, catalogue: Catalogue | undefined) {
  const of = wanted.known?.fuel_system ?? wanted.system;
  const system = catalogue?.systems.find((s) => s.code === of);
  // A browser that chose long ago kept the sheet's code instead of the way.
  const begin: Prefs["begin"] =
    prefer === "outside" || prefer === system?.outside ? "outside" : "straight";
  return { begin, first: system?.[begin], words: system?.straight_words ?? "sheet" };
}

/** Open a job; without the server it waits in this browser. The address of its first sheet. */
async function opened(job: NewJob, known: VehicleView | null, shelf: ShelfView[]): Promise<string> {
  try {
    const sheet = await got(api.POST("/api/jobs", { body: job }));
    keepNewest(sheet);
    return `/jobs/${encodeURIComponent(sheet.job_number)}/${sheet.key}`;
  } catch (error) {
    if (!(error instanceof Away)) throw error;
    const sheetId = newSheetId();
    const layout = shelf.find((e) => e.id === job.layout_id);
    const vehicle = known ?? (layout ? laidOut(job, layout.values) : null);
    return beginHere({ kind: "job", number: newNumber(sheetId), sheetId, job, vehicle });
  }
}

function useMake(wanted: Wanted) {
  const client = useQueryClient();
  const prefer = usePrefs().begin;
  const [requestId] = useState(() => crypto.randomUUID());
  const navigate = useNavigate();
  const { known } = wanted;
  const body: Omit<NewJob, "begin_with"> = {
    request_id: requestId,
    vehicle_id: known?.id ?? null,
    vehicle_name: wanted.name,
    registration: wanted.plate,
    fuel_system: wanted.system,
    cylinders: wanted.cylinders,
    banks: wanted.banks,
    injectors: wanted.each,
    distance: null,
    distance_unit: "km",
    complaint: wanted.complaint,
    codes: [],
    gauge_id: null,
    layout_id: known ? null : wanted.layout,
    day: wanted.dated?.day ?? "",
    day_because: wanted.dated?.because ?? "",
  };
  return useMutation({
    mutationFn: async () => {
      // Enter may come before the catalogue has: it is waited for, the key is never dropped.
      const { first } = beginnings(
        wanted,
        prefer,
        await client.query({ ...catalogueQuery, staleTime: "static" }),
      );
      const layouts = client.getQueryData<ShelfView[]>(shelfQuery.queryKey) ?? [];
      return opened({ ...body, begin_with: first as Kind }, known, layouts);
    },
    onSuccess: (address) => void navigate(address),
  });
}

function Form({ earlierOf }: Pick<Props, "earlierOf">) {
  const [wanted, setWanted] = useState<Wanted>(
    earlierOf ? { ...BLANK, known: earlierOf, dated: TODAY_UNSAID } : BLANK,
  );
  const put = (change: Partial<Wanted>) => setWanted({ ...wanted, ...change });
  const { begin, words } = beginnings(wanted, usePrefs().begin, useQuery(catalogueQuery).data);
  const make = useMake(wanted);
  const go = (e: SubmitEvent) => {
    e.preventDefault();
    if (!make.isPending) make.mutate();
  };
  return (
    <form onSubmit={go} className="grid gap-3">
      <Vehicle wanted={wanted} put={put} />
      {!wanted.known && <Engine wanted={wanted} put={put} />}
      <Named wanted={wanted} put={put} />
      {!wanted.known && <Layout wanted={wanted} put={put} />}
      <WhenItWas wanted={wanted} put={put} />
      <Choice
        legend="Begin with"
        options={[
          ["outside", "the walk-round"],
          ["straight", `the ${words} straight away`],
        ]}
        value={begin}
        pick={(next) => setPrefs({ begin: next })}
      />
      <Trouble text={make.isError ? told(make.error) : null} />
      <BusyButton className="slab-knob" type="submit" busy={make.isPending}>
        Go
      </BusyButton>
    </form>
  );
}

/** The visit is now, unless somebody says otherwise. */
function WhenItWas({ wanted: { dated }, put }: PartProps) {
  if (dated) return <OtherDay dated={dated} put={(now) => put({ dated: now })} />;
  return (
    <button
      type="button"
      className="knob justify-self-start"
      onClick={() => put({ dated: TODAY_UNSAID })}
    >
      It was on another day
    </button>
  );
}

/** The plate of a new vehicle, and what is complained of. */
function Named({ wanted, put }: PartProps) {
  return (
    <div className="grid gap-3 sm:grid-cols-2">
      {!wanted.known && (
        <Plate
          plate={wanted.plate}
          put={(plate) => put({ plate })}
          pick={(known) => put({ known, plate: "" })}
        />
      )}
      <Line
        label="Complaint (may stay empty)"
        value={wanted.complaint}
        most={500}
        onChange={(complaint) => put({ complaint })}
      />
    </div>
  );
}

/** A vehicle by its name, or one that is known. */
function Vehicle({ wanted, put }: PartProps) {
  const { known, name } = wanted;
  const vehicles = useQuery({
    ...vehiclesQuery(name),
    enabled: name.trim().length > 1 && known === null,
  });
  if (!known) {
    return (
      <div>
        <Line
          label="Vehicle"
          value={name}
          most={120}
          required
          onChange={(text) => put({ name: text })}
        />
        <Known found={vehicles.data ?? []} pick={(v) => put({ known: v })} />
      </div>
    );
  }
  return (
    <div>
      <p className="label">Vehicle</p>
      <p className="flex items-center gap-3 rounded-lg border border-hair bg-field p-2">
        <span className="grow">
          <b>{known.name}</b> {known.registration}, {known.injectors.length} injectors
        </span>
        <button type="button" className="knob" onClick={() => put({ known: null })}>
          Another
        </button>
      </p>
    </div>
  );
}

/** Cylinders, banks, fuel system, plate of a vehicle that is new. */
function Engine({ wanted, put }: PartProps) {
  return (
    <>
      <Cylinders wanted={wanted} put={put} />
      <Choice
        legend="Banks"
        options={[
          [1, "one row"],
          [2, "two banks"],
        ]}
        value={wanted.banks}
        pick={(banks) => put({ banks })}
      />
      <Choice
        legend="Fuel system"
        options={SYSTEMS}
        value={wanted.system}
        pick={(system) =>
          put({ system, each: system === "throttle_body" ? "one_for_all" : "one_each" })
        }
      />
      <Choice
        legend="Injectors"
        options={EACH.filter(([, , systems]) => systems.includes(wanted.system)).map(
          ([code, words]) => [code, words],
        )}
        value={wanted.each}
        pick={(each) => put({ each })}
      />
    </>
  );
}

const USUAL = [3, 4, 5, 6, 8];

/** The usual numbers at a touch; any other one is typed. */
function Cylinders({ wanted, put }: PartProps) {
  const [other, setOther] = useState<string | null>(null);
  return (
    <div className="flex flex-wrap items-end gap-2">
      <Choice
        legend="Cylinders"
        options={[...USUAL.map((n): [number, string] => [n, String(n)]), [0, "other"]]}
        value={other === null ? wanted.cylinders : 0}
        pick={(cylinders) => {
          setOther(cylinders === 0 ? "" : null);
          if (cylinders > 0) put({ cylinders });
        }}
      />
      {other !== null && (
        <label className="w-24">
          <span className="label">1 to 16</span>
          <input
            className="field"
            inputMode="numeric"
            required
            pattern="[1-9]|1[0-6]"
            value={other}
            onChange={(e) => {
              setOther(e.target.value);
              put({ cylinders: Number(e.target.value) || 4 });
            }}
          />
        </label>
      )}
    </div>
  );
}

/** A layout of the shelf, where there is one. */
function Layout({ wanted, put }: PartProps) {
  const id = useId();
  const shelf = useQuery(shelfQuery);
  const layouts = shelf.data?.filter((e) => e.what === "layout") ?? [];
  if (layouts.length === 0) return null;
  return (
    <div>
      <label className="label" htmlFor={id}>
        Layout from the shelf (cylinders, banks, feeds)
      </label>
      <select
        id={id}
        className="field"
        value={wanted.layout ?? ""}
        onChange={(e) => put({ layout: e.target.value === "" ? null : Number(e.target.value) })}
      >
        <option value="">none: as chosen above</option>
        {layouts.map((l) => (
          <option key={l.id} value={l.id}>
            {l.name}, {Object.keys(l.values).length} injectors
          </option>
        ))}
      </select>
    </div>
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
