import "fake-indexeddb/auto";
import { openDB } from "idb";
import { beforeEach, expect, test, vi } from "vitest";
import { Away, Broke, refused, Refused, type NewJob, type NewSheet } from "../api/client";
import { mayGoAgain } from "./aside";
import { Outbox, type Errand } from "./outbox";
import { newNumber } from "./places";

const errand = (id: string): Errand => ({ kind: "take_back", sheetId: 1, readingId: id });
let name = "";
let count = 0;

beforeEach(() => {
  count += 1;
  name = `outbox-${count}`;
});

const settled = (box: Outbox) => vi.waitFor(() => expect(box.link).toBe("idle"));
const ids = (box: Outbox) => box.waiting().map((w) => (w.kind === "take_back" ? w.readingId : ""));

test("what was sent leaves, in the order it was typed", async () => {
  const sent: string[] = [];
  const box = new Outbox((e) => {
    sent.push(e.kind === "take_back" ? e.readingId : "");
    return Promise.resolve(undefined);
  }, name);
  await Promise.all(["a", "b", "c"].map((id) => box.put(errand(id))));
  await vi.waitFor(() => expect(sent).toEqual(["a", "b", "c"]));
  await settled(box);
  expect(box.waiting()).toEqual([]);
});

test("without the server it waits, and a new visit sends it", async () => {
  const away = new Outbox(() => Promise.reject(new Away("no")), name);
  await away.put(errand("a"));
  await vi.waitFor(() => expect(away.link).toBe("away"));
  expect(ids(away)).toEqual(["a"]);
  expect(away.wasTried(away.waiting()[0]?.seq ?? 0)).toBe(true);

  const sent: Errand[] = [];
  const later = new Outbox((e) => {
    sent.push(e);
    return Promise.resolve(undefined);
  }, name);
  await later.open();
  await settled(later);
  expect(sent).toMatchObject([{ readingId: "a" }]);
  expect(later.waiting()).toEqual([]);
});

test("it goes up by itself once the server is back", async () => {
  let up = false;
  const box = new Outbox(
    () => (up ? Promise.resolve(undefined) : Promise.reject(new Away("no"))),
    name,
  );
  await box.put(errand("a"));
  await vi.waitFor(() => expect(box.link).toBe("away"));
  up = true;
  await vi.waitFor(() => expect(box.waiting()).toEqual([]), 3000);
});

test("what the server wants a person to decide stays and holds up nothing else", async () => {
  const problem = {
    path: "second",
    rule: "off",
    value: "",
    code: "off_step",
    suggestion: "",
    confirmable: true,
  };
  const box = new Outbox((e) => {
    const refused = e.kind === "take_back" && e.readingId === "a";
    return refused
      ? Promise.reject(new Refused(422, "t", "", [problem]))
      : Promise.resolve(undefined);
  }, name);
  await box.put(errand("a"));
  await box.put(errand("b"));
  await vi.waitFor(() => expect(ids(box)).toEqual(["a"]));
  expect(box.waiting()[0]?.problems).toEqual([problem]);
  await box.drop(box.waiting()[0]?.seq ?? 0);
  expect(box.waiting()).toEqual([]);
});

test("an answered question is sent again with the answer", async () => {
  const seen: (string[] | undefined)[] = [];
  const box = new Outbox((e) => {
    if (e.kind !== "reading") return Promise.resolve(undefined);
    seen.push(e.reading.confirmed);
    return e.reading.confirmed.length > 0
      ? Promise.resolve(undefined)
      : Promise.reject(new Refused(422, "t", "why", []));
  }, name);
  const reading = {
    id: "x",
    injector: "1",
    first: "50.3",
    second: "26",
    note: "",
    by: "",
    confirmed: [],
  };
  await box.put({ kind: "reading", sheetId: 1, reading });
  await vi.waitFor(() => expect(box.waiting()[0]?.problems).toHaveLength(1));
  await box.amend(box.waiting()[0]?.seq ?? 0, { confirmed: ["off_step"] });
  await settled(box);
  expect(seen).toEqual([[], ["off_step"]]);
  expect(box.waiting()).toEqual([]);
});

test("it is seen before it is stored, and taking it back at once leaves nothing behind", async () => {
  const box = new Outbox(() => Promise.reject(new Away("no")), name);
  const kept = box.put(errand("a"));
  expect(ids(box)).toEqual(["a"]);
  await box.drop(box.waiting()[0]?.seq ?? 0);
  await kept;
  const later = new Outbox(() => Promise.reject(new Away("no")), name);
  await later.open();
  expect(later.waiting()).toEqual([]);
});

test("one that the server breaks at steps aside after five times, and the others go up at once", async () => {
  const sent: string[] = [];
  let breaks = true;
  const box = new Outbox((e) => {
    const id = e.kind === "take_back" ? e.readingId : "";
    sent.push(id);
    return id === "a" && breaks
      ? Promise.reject(new Broke("Something broke."))
      : Promise.resolve(undefined);
  }, name);
  await box.put(errand("a"));
  await box.put(errand("b"));
  await box.put(errand("c"));
  await vi.waitFor(() => expect(ids(box)).toEqual(["a"]));
  expect(sent.indexOf("c")).toBeLessThan(5);
  for (let tries = 2; tries <= 5; tries += 1) {
    box.wake();
    await vi.waitFor(() => expect(sent.filter((id) => id === "a")).toHaveLength(tries));
  }
  await vi.waitFor(() => expect(box.waiting()[0]?.problems[0]?.rule).toBe("Something broke."));
  expect(sent.filter((id) => id === "a")).toHaveLength(5);
  box.wake();
  expect(box.waiting().map(mayGoAgain)).toEqual([true]);

  // It is still there after a new visit, and goes up when a person says so.
  const later = new Outbox(() => Promise.resolve(undefined), name);
  await later.open();
  await settled(later);
  expect(ids(later)).toEqual(["a"]);
  breaks = false;
  await later.again(later.waiting()[0]?.seq ?? 0);
  await vi.waitFor(() => expect(later.waiting()).toEqual([]));
});

test.each([
  [503, Away],
  [507, Away],
  [429, Away],
  [500, Broke],
  [413, Refused],
  [409, Refused],
])("%i is told apart", (status, kind) => {
  const error = refused(status, { title: "t", detail: "d", problems: [] });
  expect(error.constructor).toBe(kind);
});

const job = (sheetId: number): Errand => ({
  kind: "job",
  number: newNumber(sheetId),
  sheetId,
  job: { vehicle_name: "Torvik Lundy 1.8", request_id: "r" } as NewJob,
  vehicle: null,
});
const sheet = (number: string, sheetId: number): Errand => ({
  kind: "sheet",
  number,
  sheetId,
  sheet: { kind: "hold", request_id: "s" } as NewSheet,
});
const on = (sheetId: number, id: string): Errand => ({ kind: "take_back", sheetId, readingId: id });

/** A server that numbers jobs from 7 and sheets from 70, and what came to it. */
function server(came: Errand[], up: () => boolean = () => true) {
  return (e: Errand) => {
    if (!up()) return Promise.reject(new Away("no"));
    came.push(e);
    const ids: Record<string, number> = { job: 70, sheet: 71 };
    const sheetId = ids[e.kind];
    return Promise.resolve(sheetId ? { number: "7", sheetId, key: `s${sheetId - 69}` } : undefined);
  };
}

test("a job that began here goes up first, and what is on it under the real names", async () => {
  let up = false;
  const came: Errand[] = [];
  const away = new Outbox(
    server(came, () => up),
    name,
  );
  await away.put(job(-1));
  await away.put(on(-1, "a"));
  await away.put(sheet("new-1", -2));
  await away.put(on(-2, "b"));
  expect(away.numberOf("new-1")).toBeUndefined();

  up = true;
  const box = new Outbox(server(came), name);
  const placed: number[] = [];
  box.onPlaced = (place) => {
    placed.push(place.sheetId);
    // Nothing that waits on it goes by the old name when the screens are told.
    expect(box.waiting().some((w) => w.sheetId === place.was)).toBe(false);
  };
  await box.open();
  await vi.waitFor(() => expect(box.waiting()).toEqual([]));
  const told = came.map((e) => [e.kind, e.kind === "sheet" ? e.number : e.sheetId]);
  expect(told).toEqual([
    ["job", -1],
    ["take_back", 70],
    ["sheet", "7"],
    ["take_back", 71],
  ]);
  expect(placed).toEqual([70, 71]);
  expect([box.numberOf("new-1"), box.bornAs("7"), box.originOf(71)]).toEqual(["7", "new-1", -2]);

  // A page that was left open enters something more by the old names.
  const later = new Outbox(server(came), name);
  await later.open();
  await later.put(on(-2, "c"));
  await later.put(sheet("new-1", -3));
  await vi.waitFor(() => expect(later.waiting()).toEqual([]));
  expect(came.slice(4)).toMatchObject([{ sheetId: 71 }, { number: "7" }]);
});

test("a job that is refused keeps what is on it, and takes it along when it is thrown away", async () => {
  const came: Errand[] = [];
  const box = new Outbox((e) => {
    if (e.kind === "job") return Promise.reject(new Refused(404, "t", "", []));
    came.push(e);
    return Promise.resolve(undefined);
  }, name);
  await box.put(job(-1));
  await box.put(on(-1, "a"));
  await box.put(sheet("new-1", -2));
  await box.put(on(-2, "b"));
  await box.put(on(5, "elsewhere"));
  await vi.waitFor(() => expect(box.waiting()[0]?.status).toBe(404));
  await settled(box);
  expect(came).toMatchObject([{ sheetId: 5 }]);
  const [first] = box.waiting();
  expect(first && box.beneath(first).length).toBe(3);
  await box.drop(first?.seq ?? 0);
  const later = new Outbox(() => Promise.resolve(undefined), name);
  await later.open();
  expect(later.waiting()).toEqual([]);
});

test("what is entered while its job goes up finds it", async () => {
  let answer: (made: { number: string; sheetId: number; key: string }) => void = () => undefined;
  const came: Errand[] = [];
  const box = new Outbox((e) => {
    came.push(e);
    if (e.kind !== "job") return Promise.resolve(undefined);
    return new Promise((go) => {
      answer = go;
    });
  }, name);
  await box.put(job(-1));
  await vi.waitFor(() => expect(came.length).toBe(1));
  const entered = box.put(on(-1, "a"));
  answer({ number: "7", sheetId: 70, key: "s1" });
  await entered;
  await vi.waitFor(() => expect(box.waiting()).toEqual([]));
  expect(came[1]).toMatchObject({ sheetId: 70 });
});

test("a job that one person began waits for them, with what another typed on it", async () => {
  const came: Errand[] = [];
  let up = false;
  const people = [
    { id: 1, name: "Ines K." },
    { id: 2, name: "Wen L." },
  ];
  let here = people[0] ?? null;
  const box = new Outbox(
    server(came, () => up),
    name,
    () => here,
  );
  await box.put(job(-1));
  here = people[1] ?? null;
  await box.put(on(-1, "a"));
  await box.put(on(5, "elsewhere"));
  up = true;
  box.wake();
  await vi.waitFor(() => expect(came).toMatchObject([{ sheetId: 5 }]));
  await settled(box);
  expect(box.waiting().map((w) => w.by?.name)).toEqual(["Ines K.", "Wen L."]);
  here = people[0] ?? null;
  box.wake();
  await vi.waitFor(() => expect(came.map((e) => e.kind)).toEqual(["take_back", "job"]));
  here = people[1] ?? null;
  box.wake();
  await vi.waitFor(() => expect(box.waiting()).toEqual([]));
  expect(came[2]).toMatchObject({ sheetId: 70, readingId: "a" });
});

test("another window with an older Plumb is told of, and nothing typed meanwhile is lost", async () => {
  const older = await openDB(name, 1, {
    upgrade(db) {
      db.createObjectStore("errands", { keyPath: "seq", autoIncrement: true });
    },
  });
  await older.add("errands", { ...errand("old"), problems: [], status: 0 });
  const came: Errand[] = [];
  const box = new Outbox(server(came), name);
  void box.open();
  const typed = box.put(errand("new"));
  await vi.waitFor(() => expect(box.link).toBe("blocked"));
  expect(came).toEqual([]);
  older.close();
  await typed;
  await vi.waitFor(() => expect(box.waiting()).toEqual([]));
  expect(came.map((e) => e.kind === "take_back" && e.readingId)).toEqual(["old", "new"]);
  expect(box.link).toBe("idle");
});
