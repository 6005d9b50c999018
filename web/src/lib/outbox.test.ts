import "fake-indexeddb/auto";
import { beforeEach, expect, test, vi } from "vitest";
import { Away, Broke, refused, Refused } from "../api/client";
import { mayGoAgain } from "./aside";
import { Outbox, type Errand } from "./outbox";

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
    return Promise.resolve();
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
    return Promise.resolve();
  }, name);
  await later.open();
  await settled(later);
  expect(sent).toMatchObject([{ readingId: "a" }]);
  expect(later.waiting()).toEqual([]);
});

test("it goes up by itself once the server is back", async () => {
  let up = false;
  const box = new Outbox(() => (up ? Promise.resolve() : Promise.reject(new Away("no"))), name);
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
    return refused ? Promise.reject(new Refused(422, "t", "", [problem])) : Promise.resolve();
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
    if (e.kind !== "reading") return Promise.resolve();
    seen.push(e.reading.confirmed);
    return e.reading.confirmed.length > 0
      ? Promise.resolve()
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
    return id === "a" && breaks ? Promise.reject(new Broke("Something broke.")) : Promise.resolve();
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
  const later = new Outbox(() => Promise.resolve(), name);
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
