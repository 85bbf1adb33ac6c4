/** Where the outbox is kept: in the browser's database, which outlives the page, or in the page alone where the browser
 * keeps nothing. */

import { type DBSchema, type IDBPDatabase, openDB } from "idb";
import type { Entry, NewEntry } from "./entry";

export interface Shelf {
  lasting: boolean;
  all: () => Promise<Entry[]>;
  add: (entry: NewEntry) => Promise<Entry>;
  /** Puts `kept` in the place of an entry, or takes it off (null). `inform` may change the next one of its shoot, in the
   * same step. */
  settle: (entry: Entry, kept: Entry | null, inform?: Inform) => Promise<void>;
}

export type Inform = (next: Entry) => Entry | undefined;

interface Schema extends DBSchema {
  entries: { key: number; value: Entry };
}

function nextAfter(entry: Entry, entries: Entry[]): Entry | undefined {
  return entries.find(
    (one) =>
      one.id > entry.id && one.shootId === entry.shootId && one.library === entry.library && !one.refused,
  );
}

export class Database implements Shelf {
  lasting = true;
  private opened: Promise<IDBPDatabase<Schema>> | null = null;

  constructor(private name: string) {}

  private open(): Promise<IDBPDatabase<Schema>> {
    this.opened ??= openDB<Schema>(this.name, 1, {
      upgrade: (database) => database.createObjectStore("entries", { keyPath: "id", autoIncrement: true }),
      // The browser may close a database that is in use, under memory pressure for one.
      terminated: () => {
        this.opened = null;
      },
    });
    return this.opened;
  }

  async all() {
    return (await this.open()).getAll("entries");
  }

  async add(entry: NewEntry) {
    const id = await (await this.open()).add("entries", entry as Entry);
    return { ...entry, id };
  }

  async settle(entry: Entry, kept: Entry | null, inform?: Inform) {
    const change = (await this.open()).transaction("entries", "readwrite");
    if (kept) await change.store.put(kept);
    else await change.store.delete(entry.id);
    const next = inform && nextAfter(entry, await change.store.getAll(IDBKeyRange.lowerBound(entry.id)));
    const informed = next && inform?.(next);
    if (informed) await change.store.put(informed);
    await change.done;
  }
}

export class Memory implements Shelf {
  lasting = false;
  private entries: Entry[] = [];
  private count = 0;

  async all() {
    return [...this.entries];
  }

  async add(entry: NewEntry) {
    this.count++;
    const added = { ...entry, id: this.count };
    this.entries.push(added);
    return added;
  }

  async settle(entry: Entry, kept: Entry | null, inform?: Inform) {
    this.entries = this.entries.flatMap((one) => (one.id !== entry.id ? [one] : kept ? [kept] : []));
    const next = nextAfter(entry, this.entries);
    const informed = next && inform?.(next);
    if (informed) this.entries = this.entries.map((one) => (one.id === informed.id ? informed : one));
  }
}
