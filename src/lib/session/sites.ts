/**
 * The sites that the browser keeps, and how they are written: one at a time, the newest of each, with a journal for when
 * the window goes first. What cannot be stored lives in memory. Store, pause and journal are arguments.
 */
import type { StoredSite } from './db';

/** Where sites are kept; `Store` is one. */
export interface SiteStore {
  all(): Promise<StoredSite[]>;
  /** The ids of all sites that it has, those included that this version cannot read. */
  ids(): Promise<string[]>;
  get(id: string): Promise<StoredSite | undefined>;
  /** Whether it could be kept. */
  put(site: StoredSite): Promise<boolean>;
  remove(id: string): Promise<void>;
}

/** What is written at once, for when the window goes before the store is done. */
export interface Journal {
  write(site: StoredSite): void;
  clear(id: string): void;
}

export class Sites {
  private saving: Promise<unknown> = Promise.resolve();
  /** Counts what was to be kept, and how much of it is. */
  private version = 0;
  private keptVersion = 0;
  /** Those that could not be kept: they live in this window, all of them. */
  private inMemory: Readonly<Record<string, StoredSite>> = {};
  /** By site: what is to be written next. */
  private unsaved: Readonly<Record<string, StoredSite>> = {};

  /** `kept` is told of each site that the store has now; without a store nothing is ever kept. */
  constructor(
    private readonly store: SiteStore | undefined,
    private readonly journal: Journal,
    private readonly pause: () => Promise<unknown>,
    private readonly kept: (site: StoredSite) => void,
  ) {}

  /** Every site, as it is in this window where the store has it not. */
  async all(): Promise<readonly StoredSite[]> {
    const stored = (await this.store?.all().catch(() => [])) ?? [];
    const held = Object.values(this.inMemory);
    return [...stored.filter((s) => !held.some((m) => m.id === s.id)), ...held];
  }

  /** The ids of all sites, in the store and in this window. Throws where the store cannot say. */
  async ids(): Promise<ReadonlySet<string>> {
    return new Set([...((await this.store?.ids()) ?? []), ...Object.keys(this.inMemory)]);
  }

  async get(id: string): Promise<StoredSite | undefined> {
    return this.inMemory[id] ?? (await this.store?.get(id));
  }

  /** As the store has it, which another window may have written. */
  stored(id: string): Promise<StoredSite | undefined> {
    return this.store?.get(id) ?? Promise.resolve(undefined);
  }

  async remove(id: string): Promise<void> {
    const { [id]: _, ...others } = this.inMemory;
    this.inMemory = others;
    this.journal.clear(id);
    await this.store?.remove(id);
  }

  /** Writes a site behind what is being written; of several of one site only the newest is. Resolves once that is done. */
  save(site: StoredSite): Promise<unknown> {
    this.version++;
    this.unsaved = { ...this.unsaved, [site.id]: site };
    return (this.saving = this.saving.then(() => this.writeNext(site.id)));
  }

  /** Tries once more to keep what could not be kept. */
  again(): void {
    for (const site of Object.values(this.inMemory)) if (!this.unsaved[site.id]) void this.save(site);
  }

  private async writeNext(id: string): Promise<void> {
    // In a task of its own: copying a large site must not keep an edit from the screen.
    await this.pause();
    const newest = this.unsaved[id];
    if (!newest) return;
    const { version } = this;
    if (await this.store?.put(newest)) {
      this.keptVersion = version;
      this.journal.clear(id);
      const { [id]: _, ...others } = this.inMemory;
      this.inMemory = others;
      this.kept(newest);
    } else {
      this.inMemory = { ...this.inMemory, [id]: newest };
      // The window may go before there is room.
      this.journal.write(newest);
    }
    // What came while it was written is written by a later call, and stays wanted until then.
    if (this.unsaved[id] === newest) {
      const { [id]: _, ...others } = this.unsaved;
      this.unsaved = others;
    }
  }

  /** Resolves once everything that was to be written is. */
  settled(): Promise<unknown> {
    return this.saving;
  }

  /** Writes what is not kept yet where it is kept at once: the window may be gone in the next moment. */
  flush(): void {
    for (const site of Object.values(this.unsaved)) this.journal.write(site);
  }

  /** Whether something is kept nowhere but in this window. */
  get isUnkept(): boolean {
    return this.version > this.keptVersion;
  }
}
