/** Where the outbox is kept: in the browser's database, which outlives the page, or in the page alone where the browser
 * keeps nothing. */

import { type DBSchema, type IDBPDatabase, type IDBPObjectStore, openDB } from "idb";
import { type Entry, type NewEntry, renewed } from "./entry";

export interface Shelf {
  lasting: boolean;
  all: () => Promise<Entry[]>;
  add: (entry: NewEntry) => Promise<Entry>;
  /** Puts `kept` in the place of an entry, or takes it off (null), and changes another in the same step. */
  settle: (entry: Entry, kept: Entry | null, other?: Entry) => Promise<void>;
}

interface Schema extends DBSchema {
  entries: { key: number; value: Entry };
}

/** Outlives the browser, if not a power cut of the last second. */
const AT_ONCE = { durability: "relaxed" } as const;

export class Database implements Shelf {
  lasting = true;
  private opened: Promise<IDBPDatabase<Schema>> | null = null;

  constructor(private name: string) {}

  private open(): Promise<IDBPDatabase<Schema>> {
    this.opened ??= openDB<Schema>(this.name, 2, {
      upgrade: async (database, from, _, change) => {
        if (from < 1) database.createObjectStore("entries", { keyPath: "id", autoIncrement: true });
        else await renewAll(change.objectStore("entries"));
      },
      // A later version waits for this one to let go.
      blocking: (_, __, event) => {
        (event.target as IDBDatabase).close();
        this.opened = null;
      },
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
    const change = (await this.open()).transaction("entries", "readwrite", AT_ONCE);
    const adding = change.store.add(entry as Entry);
    // A mark is shown when this is done: it must not wait for the page to have nothing more to ask.
    change.commit();
    const [id] = await Promise.all([adding, change.done]);
    return { ...entry, id };
  }

  async settle(entry: Entry, kept: Entry | null, other?: Entry) {
    const change = (await this.open()).transaction("entries", "readwrite", AT_ONCE);
    if (kept) void change.store.put(kept);
    else void change.store.delete(entry.id);
    // Unless another window has sent it meanwhile.
    if (other && (await change.store.getKey(other.id)) !== undefined) void change.store.put(other);
    await change.done;
  }
}

/** What waits from before keepers were called so. */
async function renewAll(entries: IDBPObjectStore<Schema, "entries"[], "entries", "versionchange">) {
  for (const entry of await entries.getAll()) await entries.put(renewed(entry));
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

  async settle(entry: Entry, kept: Entry | null, other?: Entry) {
    this.entries = this.entries.flatMap((one) => {
      if (one.id === entry.id) return kept ? [kept] : [];
      return one.id === other?.id ? [other] : [one];
    });
  }
}
