import { expect, test } from "vitest";
import type { BlanksView, JobView, SheetView, VehicleView } from "../api/client";
import type { Errand, Waiting } from "./outbox";
import { laidOut, unsentJob, unsentSheet, withUnsent, type Known } from "./unsent";

const injectors = (n: number) =>
  Array.from({ length: n }, (_, i) => ({
    label: String(i + 1),
    cylinder: i + 1,
    bank: i % 2 ? "B" : "A",
    feed: "",
    set_name: "",
  }));
const row = (injector: string) => ({ injector, cylinder: 0, bank: "", feed: "", count: 0 });
const knot = (kind: string) => ({ sheet_id: 0, key: "", kind, title: kind, state: "next" });

/** The blanks of an engine of sixteen cylinders. */
const BLANKS = {
  job: {
    vehicle: { injectors: injectors(16) },
    route: [knot("scan"), knot("drop")],
    next: { kind: "scan" },
  },
  sheets: [
    {
      kind: "scan",
      rows: [row("idle, long"), ...injectors(16).map((i) => row(`misfires ${i.label}`))],
    },
    { kind: "drop", rows: injectors(16).map((i) => row(i.label)) },
  ],
} as unknown as BlanksView;

const waiting = (errand: Errand, seq: number): Waiting => ({
  ...errand,
  seq,
  problems: [],
  status: 0,
  at: 0,
  by: { id: 3, name: "Ines K." },
});
const job = {
  kind: "job",
  number: "new-1",
  sheetId: -1,
  job: {
    vehicle_name: "Brannock Tern",
    fuel_system: "port",
    cylinders: 6,
    banks: 2,
    injectors: "one_each",
    begin_with: "drop",
  },
  vehicle: null,
} as unknown as Errand;
const second = {
  kind: "sheet",
  number: "new-1",
  sheetId: -2,
  sheet: { kind: "scan" },
} as unknown as Errand;

const asked: unknown[] = [];
const known: Known = {
  waiting: [waiting(job, 1), waiting(second, 2)],
  blanks: (...of) => {
    asked.push(of);
    return Promise.resolve(BLANKS);
  },
};
const nobody = () => Promise.reject(new Error("not asked"));
const labels = (sheet: SheetView) => sheet.rows.map((r) => r.injector);

test("a new job has its own injectors, both sheets on the route, and its author", async () => {
  const shown = await unsentJob("new-1", known);
  expect(asked.at(-1)).toEqual(["port", "one_each", 2]);
  expect(shown.vehicle.injectors.map((i) => i.label).join("")).toBe("123456");
  expect(shown.route.map((k) => [k.kind, k.sheet_id])).toEqual([
    ["scan", -2],
    ["drop", -1],
  ]);
  expect([shown.by, shown.next, shown.vehicle.name]).toEqual(["Ines K.", null, "Brannock Tern"]);
});

test("its sheets have the rows of so many cylinders", async () => {
  expect(labels(await unsentSheet(-1, known, nobody)).join("")).toBe("123456");
  const scan = await unsentSheet(-2, known, (n) => unsentJob(n, known));
  expect(labels(scan)).toEqual(["idle, long", ...[1, 2, 3, 4, 5, 6].map((n) => `misfires ${n}`)]);
});

test("on a vehicle that is known the rows are its own", async () => {
  const vehicle = {
    fuel_system: "port",
    cylinders: 4,
    injectors: [
      { label: "left 2", cylinder: 2, bank: "", feed: "f", set_name: "" },
      { label: "left 1", cylinder: 1, bank: "", feed: "", set_name: "" },
    ],
  } as unknown as VehicleView;
  const of = { ...job, vehicle } as Errand;
  const sheet = await unsentSheet(-1, { ...known, waiting: [waiting(of, 1)] }, nobody);
  expect(sheet.rows.map((r) => [r.injector, r.cylinder, r.feed])).toEqual([
    ["left 2", 2, "f"],
    ["left 1", 1, ""],
  ]);
  expect(asked.at(-1)).toEqual(["port", "one_each", 1]);
});

test("a sheet that waits stands on its job: in its place, a repeat behind", () => {
  const there = {
    number: "7",
    route: [{ ...knot("drop"), sheet_id: 70, key: "s1" }, knot("scan")],
  };
  const errands = ["drop", "scan"].map((kind, n) =>
    waiting({ kind: "sheet", number: "7", sheetId: -n - 1, sheet: { kind } } as never, n + 1),
  );
  const shown = withUnsent(there as unknown as JobView, errands);
  expect(shown.route.map((k) => [k.kind, k.sheet_id])).toEqual([
    ["drop", 70],
    ["scan", -2],
    ["drop", -1],
  ]);
  expect(withUnsent(there as unknown as JobView, [])).toBe(there);
});

test("a layout of the shelf brings labels, banks and feeds", () => {
  const made = laidOut({ vehicle_name: "Torvik" } as never, {
    "1": "bank A, feed front",
    "2": "bank B",
  });
  expect(made.injectors.map((i) => [i.label, i.cylinder, i.bank, i.feed])).toEqual([
    ["1", 1, "A", "front"],
    ["2", 2, "B", ""],
  ]);
});

test("what was thrown away says so", async () => {
  await expect(unsentSheet(-9, known, nobody)).rejects.toThrow("thrown away");
});
