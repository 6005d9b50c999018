/**
 * What was typed and is not known to be kept yet. Everything goes into the browser's own database
 * first and leaves it only when the server has answered; without the server it waits.
 */
import { openDB, type DBSchema, type IDBPDatabase } from "idb";
import {
  Away,
  Broke,
  Refused,
  type NewJob,
  type NewSheet,
  type Problem,
  type ReadingIn,
  type VehicleView,
} from "../api/client";
import { asProblem } from "./aside";
import type { Change, Stood } from "./conditions";
import type { Note } from "./notes";
import { isUnsent, moved, type Made, type Place } from "./places";

/**
 * What is to be done. A job or a sheet that the server does not know yet has a number and an id of this
 * browser's (`places.ts`), and what belongs on it names it by them.
 */
export type Errand =
  | { kind: "job"; number: string; sheetId: number; job: NewJob; vehicle: VehicleView | null }
  | { kind: "sheet"; number: string; sheetId: number; sheet: NewSheet }
  | { kind: "note"; number: string; sheetId: 0; note: Note }
  | { kind: "reading"; sheetId: number; reading: ReadingIn }
  | { kind: "take_back"; sheetId: number; readingId: string; altogether?: boolean }
  | { kind: "change"; sheetId: number; change: Change; was: Stood }
  | { kind: "engine_run"; sheetId: number };

/**
 * An errand in the outbox; `problems` are set when a person has to decide. `fails` counts how often
 * the server broke at it.
 */
export type Waiting = Errand & {
  seq: number;
  problems: Problem[];
  status: number;
  fails?: number;
  by?: Author | null;
  /** When it was entered. */
  at?: number;
};

/** Whose it is; null where nobody signs in. */
export interface Author {
  id: number;
  name: string;
}

interface Boxes extends DBSchema {
  errands: { key: number; value: Omit<Waiting, "seq"> & { seq?: number } };
  places: { key: number; value: Place };
}

/** Sends one; of a job or a sheet it tells what it became. */
export type Sender = (errand: Errand) => Promise<Made | undefined>;
/** `blocked`: another window with an older Plumb holds the browser's database as it was. */
export type Link = "idle" | "sending" | "away" | "blocked";

/** The status of what the page itself asks about: the server would refuse it in the same way. */
const ASKED = 422;
const RETRY_MS = [500, 1000, 2000, 4000];
/** So long it is remembered what a job of this browser's became: addresses of it may be open, or kept. */
const REMEMBERED_MS = 30 * 24 * 3600 * 1000;
/** So often the server may break at one errand; then it steps aside and a person decides. */
const MOST_FAILS = 5;

export class Outbox {
  private db: Promise<IDBPDatabase<Boxes>>;
  private items: Waiting[] = [];
  private loaded: Promise<void> | undefined;
  private running = false;
  private tries = 0;
  private unplaced = 0;
  private tried = new Set<number>();
  /** Those that the server broke at in this round: the others go up first. */
  private resting = new Set<number>();
  private listeners = new Set<() => void>();
  private places = new Map<number, Place>();
  /** Told at once when a job or a sheet of this browser's has become one of the server's. */
  onPlaced: (place: Place) => void = () => undefined;
  link: Link = "idle";

  constructor(
    private send: Sender,
    name = "plumb",
    private who: () => Author | null = () => null,
  ) {
    this.db = openDB<Boxes>(name, 2, {
      upgrade(db, before) {
        if (before < 1) db.createObjectStore("errands", { keyPath: "seq", autoIncrement: true });
        db.createObjectStore("places", { keyPath: "was" });
      },
      blocked: () => this.setLink("blocked"),
      // A newer Plumb in another window shall not wait for this one.
      blocking: (_now, _next, event) => (event.target as IDBDatabase).close(),
    });
  }

  /** Read what an earlier visit left, and try to send it. */
  async open(): Promise<void> {
    await this.read();
    void this.run();
  }

  /** What an earlier visit left is known. Who looks for a thing of this browser's asks for that first. */
  read(): Promise<void> {
    // A browser that keeps nothing still shows what the server has.
    this.loaded ??= this.load().catch((error: unknown) => console.error(error));
    return this.loaded;
  }

  private async load(): Promise<void> {
    const db = await this.db;
    for (const place of await db.getAll("places")) {
      if (place.at + REMEMBERED_MS < Date.now()) void db.delete("places", place.was);
      else this.places.set(place.was, place);
    }
    const left = (await db.getAll("errands")) as Waiting[];
    // What was typed meanwhile comes after it.
    this.items = [...left, ...this.items];
    // Nobody knows how far an earlier visit came with them.
    this.tried = new Set(left.map((i) => i.seq));
    this.changed();
  }

  /** All that waits, oldest first; a new array after every change. */
  waiting(): readonly Waiting[] {
    return this.items;
  }

  subscribe(listener: () => void): () => void {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  }

  /**
   * Keep an errand: seen at once, in the browser's database when the promise resolves, and sent
   * only then. Until it has its place there its number is negative. What is `asked` about it must
   * be answered before it is sent.
   */
  async put(errand: Errand, asked: Problem[] = []): Promise<void> {
    const by = this.who();
    const status = asked.length > 0 ? ASKED : 0;
    const place = this.places.get(errand.sheetId) ?? this.placeOfJob(errand);
    const value = {
      ...(place ? moved(errand, place) : errand),
      by,
      at: Date.now(),
      problems: asked,
      status,
    };
    this.unplaced -= 1;
    const early = this.unplaced;
    const first = { ...value, seq: early };
    this.items = [...this.items, first];
    this.changed();
    // Nothing is written before what was left is read, so that it is read once.
    await this.read();
    const seq = await this.add(value);
    const found = this.items.find((i) => i.seq === early);
    if (!found) {
      // Taken back in the same breath.
      await (await this.db).delete("errands", seq);
      return;
    }
    const placed = { ...found, seq };
    // Answered in the same breath, or its sheet has its real name now.
    if (found !== first) await (await this.db).put("errands", placed);
    this.items = this.items.map((i) => (i.seq === early ? placed : i));
    this.changed();
    void this.run();
  }

  /** Its place in the browser's database, where it stays also when the page goes the next moment. */
  private async add(value: Omit<Waiting, "seq">): Promise<number> {
    const writing = (await this.db).transaction("errands", "readwrite");
    const added = writing.store.add(value);
    writing.commit();
    await writing.done;
    return added;
  }

  /** Whether it goes up under the name of who is here; what somebody else typed waits for them. */
  isMine(item: Pick<Waiting, "by">): boolean {
    return !item.by || item.by.id === this.who()?.id;
  }

  /** What a sheet of this browser's has become; undefined while it waits, and for any other. */
  placeOf(sheetId: number): Place | undefined {
    return this.places.get(sheetId);
  }

  /** The number by which the server knows a job; undefined while it does not. */
  numberOf(number: string): string | undefined {
    if (!isUnsent(number)) return number;
    return [...this.places.values()].find((p) => p.job === number)?.number;
  }

  /** The id by which a sheet began: a screen that shows it stays the same when it gets its real one. */
  originOf(sheetId: number): number {
    return [...this.places.values()].find((p) => p.sheetId === sheetId)?.was ?? sheetId;
  }

  /** The number by which a job began. */
  bornAs(number: string): string {
    const first = [...this.places.values()].find((p) => p.number === number && isUnsent(p.job));
    return first?.job ?? number;
  }

  private placeOfJob(errand: Errand): Place | undefined {
    if (!ofJob(errand) || !isUnsent(errand.number)) return undefined;
    return [...this.places.values()].find((p) => p.job === errand.number);
  }

  /** What waits for one that waits: all that belongs on its job or its sheet. */
  beneath(item: Waiting): Waiting[] {
    if (item.kind !== "job" && item.kind !== "sheet") return [];
    const ofIt =
      item.kind === "job" ? this.items.filter((i) => ofJob(i) && i.number === item.number) : [];
    const ids = new Set([item, ...ofIt.filter((i) => i.kind === "sheet")].map((i) => i.sheetId));
    return this.items.filter((i) => i.seq !== item.seq && (ofIt.includes(i) || ids.has(i.sheetId)));
  }

  /** The job or the sheet that has to be there before it. */
  parentOf(item: Waiting): Waiting | undefined {
    if (item.kind === "job") return undefined;
    if (ofJob(item)) return this.items.find((i) => i.kind === "job" && i.number === item.number);
    return this.items.find(
      (i) => (i.kind === "job" || i.kind === "sheet") && i.sheetId === item.sheetId,
    );
  }

  /** Whether it may have reached the server already, although no answer came back. */
  wasTried(seq: number): boolean {
    return this.tried.has(seq);
  }

  /** Throw away one that waits, with all that belongs on it, because a person said so. */
  async drop(seq: number): Promise<void> {
    const item = this.items.find((i) => i.seq === seq);
    const gone = new Set([seq, ...(item ? this.beneath(item) : []).map((i) => i.seq)]);
    this.items = this.items.filter((i) => !gone.has(i.seq));
    this.changed();
    const db = await this.db;
    const writing = db.transaction("errands", "readwrite");
    await Promise.all([...[...gone].map((n) => writing.store.delete(n)), writing.done]);
  }

  /** The server has it: what belongs on it goes by the real names from now on. */
  private async place(item: Waiting, place: Place): Promise<void> {
    this.places.set(place.was, place);
    const after = this.beneath(item).map((i) => ({ ...i, ...moved(i, place) }));
    const by = new Map(after.map((i) => [i.seq, i]));
    this.items = this.items.filter((i) => i.seq !== item.seq).map((i) => by.get(i.seq) ?? i);
    this.onPlaced(place);
    this.changed();
    const db = await this.db;
    const writing = db.transaction(["errands", "places"], "readwrite");
    const errands = writing.objectStore("errands");
    await Promise.all([
      writing.objectStore("places").put(place),
      errands.delete(item.seq),
      ...after.filter((i) => i.seq > 0).map((i) => errands.put(i)),
      writing.done,
    ]);
  }

  /** Change a reading that the server asked about and send it again. */
  async amend(seq: number, change: Partial<ReadingIn>): Promise<void> {
    const found = this.items.find((i) => i.seq === seq);
    if (found?.kind !== "reading") return;
    const next: Waiting = {
      ...found,
      reading: { ...found.reading, ...change },
      problems: [],
      status: 0,
      fails: 0,
    };
    await this.keep(next);
    void this.run();
  }

  /** A change that somebody else's came before: take it all the same, over what stands there now. */
  async insist(seq: number, now: Stood): Promise<void> {
    const found = this.items.find((i) => i.seq === seq);
    if (found?.kind !== "change") return;
    await this.keep({ ...found, was: { ...found.was, ...now } });
    await this.again(seq);
  }

  /** The same of what is complained of on a job. */
  async insistOnSaid(seq: number, was: Note["was"]): Promise<void> {
    const found = this.items.find((i) => i.seq === seq);
    if (found?.kind !== "note" || !was) return;
    await this.keep({ ...found, note: { ...found.note, was } });
    await this.again(seq);
  }

  /** Send again what stepped aside, as it is. */
  async again(seq: number): Promise<void> {
    const found = this.items.find((i) => i.seq === seq);
    if (!found) return;
    await this.keep({ ...found, problems: [], status: 0, fails: 0 });
    this.wake();
  }

  /** Try now, not when the pause is over. */
  wake(): void {
    this.tries = 0;
    this.resting.clear();
    void this.run();
  }

  private async keep(item: Waiting): Promise<void> {
    const db = await this.db;
    if (item.seq > 0) await db.put("errands", item);
    this.items = this.items.map((i) => (i.seq === item.seq ? item : i));
    this.changed();
  }

  /** One sender at a time; order is kept, and one that a person must decide holds up no other. */
  private async run(): Promise<void> {
    if (this.running) return;
    this.running = true;
    try {
      for (;;) {
        const next = this.items.find(
          (i) =>
            i.problems.length === 0 &&
            i.seq > 0 &&
            !this.resting.has(i.seq) &&
            this.isMine(i) &&
            this.parentOf(i) === undefined,
        );
        if (!next) break;
        this.setLink("sending");
        if (!(await this.deliver(next))) return;
      }
      if (this.resting.size > 0) this.pause();
      else this.setLink("idle");
    } finally {
      this.running = false;
    }
  }

  private async deliver(item: Waiting): Promise<boolean> {
    this.tried.add(item.seq);
    try {
      const made = await this.send(item);
      this.tries = 0;
      const fits = made && (item.kind === "job" || item.kind === "sheet");
      const now = this.items.find((i) => i.seq === item.seq) ?? item;
      if (fits)
        await this.place(now, { ...made, was: item.sheetId, job: item.number, at: Date.now() });
      else await this.drop(item.seq);
      return true;
    } catch (error) {
      if (error instanceof Refused) {
        const problems = error.problems.length > 0 ? error.problems : [asProblem(error)];
        await this.keep({ ...item, problems, status: error.status });
        return true;
      }
      if (!(error instanceof Away)) console.error(error);
      if (error instanceof Broke || !(error instanceof Away)) {
        await this.stepAside(item, error);
        return true;
      }
      this.pause();
      return false;
    }
  }

  /** The server broke at this one: the others first, then again, and after a few times a person. */
  private async stepAside(item: Waiting, error: unknown): Promise<void> {
    const fails = (item.fails ?? 0) + 1;
    const problems = fails >= MOST_FAILS ? [asProblem(error, "failed")] : [];
    if (problems.length === 0) this.resting.add(item.seq);
    await this.keep({ ...item, fails, problems, status: problems.length > 0 ? 500 : 0 });
  }

  /** Try again in a while. */
  private pause(): void {
    this.setLink("away");
    const pause = RETRY_MS[Math.min(this.tries, RETRY_MS.length - 1)] ?? 4000;
    this.tries += 1;
    setTimeout(() => {
      this.resting.clear();
      void this.run();
    }, pause);
  }

  private setLink(link: Link): void {
    if (this.link !== link) {
      this.link = link;
      this.changed();
    }
  }

  private changed(): void {
    for (const listener of this.listeners) listener();
  }
}

/** Whether it goes straight onto a job. */
function ofJob<E extends Errand>(errand: E): errand is Extract<E, { kind: "sheet" | "note" }> {
  return errand.kind === "sheet" || errand.kind === "note";
}
