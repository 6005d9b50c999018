/**
 * What was typed and is not known to be kept yet. Everything goes into the browser's own database
 * first and leaves it only when the server has answered; without the server it waits.
 */
import { openDB, type DBSchema, type IDBPDatabase } from "idb";
import { Away, Broke, Refused, type Problem, type ReadingIn } from "../api/client";
import type { Change, Stood } from "./conditions";

export type Errand =
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
}

export type Sender = (errand: Errand) => Promise<void>;
export type Link = "idle" | "sending" | "away";

/** The status of what the page itself asks about: the server would refuse it in the same way. */
const ASKED = 422;
const RETRY_MS = [500, 1000, 2000, 4000];
/** So often the server may break at one errand; then it steps aside and a person decides. */
const MOST_FAILS = 5;

export class Outbox {
  private db: Promise<IDBPDatabase<Boxes>>;
  private items: Waiting[] = [];
  private running = false;
  private tries = 0;
  private unplaced = 0;
  private tried = new Set<number>();
  /** Those that the server broke at in this round: the others go up first. */
  private resting = new Set<number>();
  private listeners = new Set<() => void>();
  link: Link = "idle";

  constructor(
    private send: Sender,
    name = "plumb",
    private who: () => Author | null = () => null,
  ) {
    this.db = openDB<Boxes>(name, 1, {
      upgrade(db) {
        db.createObjectStore("errands", { keyPath: "seq", autoIncrement: true });
      },
    });
  }

  /** Read what an earlier visit left, and try to send it. */
  async open(): Promise<void> {
    const db = await this.db;
    this.items = (await db.getAll("errands")) as Waiting[];
    // Nobody knows how far an earlier visit came with them.
    this.tried = new Set(this.items.map((i) => i.seq));
    this.changed();
    void this.run();
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
    const value = { ...errand, by, at: Date.now(), problems: asked, status };
    this.unplaced -= 1;
    const early = this.unplaced;
    this.items = [...this.items, { ...value, seq: early }];
    this.changed();
    const db = await this.db;
    const seq = await db.add("errands", value);
    const found = this.items.find((i) => i.seq === early);
    if (!found) {
      // Taken back in the same breath.
      await db.delete("errands", seq);
      return;
    }
    const placed = { ...found, seq };
    // Answered in the same breath.
    if (found.problems !== value.problems) await db.put("errands", placed);
    this.items = this.items.map((i) => (i.seq === early ? placed : i));
    this.changed();
    void this.run();
  }

  /** Whether it goes up under the name of who is here; what somebody else typed waits for them. */
  isMine(item: Pick<Waiting, "by">): boolean {
    return !item.by || item.by.id === this.who()?.id;
  }

  /** Whether it may have reached the server already, although no answer came back. */
  wasTried(seq: number): boolean {
    return this.tried.has(seq);
  }

  /** Throw away one that waits, because a person said so. */
  async drop(seq: number): Promise<void> {
    this.items = this.items.filter((i) => i.seq !== seq);
    this.changed();
    const db = await this.db;
    await db.delete("errands", seq);
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
    await this.keep({ ...found, was: { ...found.was, ...now }, problems: [], status: 0, fails: 0 });
    this.wake();
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
          (i) => i.problems.length === 0 && i.seq > 0 && !this.resting.has(i.seq) && this.isMine(i),
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
      await this.send(item);
      this.tries = 0;
      await this.drop(item.seq);
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

function asProblem(error: unknown, code = "refused"): Problem {
  return {
    path: "",
    rule: error instanceof Error ? error.message : "Something went wrong.",
    value: "",
    code,
    suggestion: "",
    confirmable: false,
  };
}
