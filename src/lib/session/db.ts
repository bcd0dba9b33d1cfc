/** What is kept in the browser: sites with their files, history of edits, and the bench box's own stores. */
import { openDB } from 'idb';
import type { DBSchema, IDBPDatabase } from 'idb';
import * as v from 'valibot';
import type { Refusal } from '#core/change';
import { REFUSALS } from '#words';

/** Why the box may have refused an order. */
const REFUSED = Object.keys(REFUSALS) as Refusal[];
const FileSchema = v.object({ name: v.string(), text: v.string() });
const FilesSchema = v.array(FileSchema);
const EditSchema = v.object({ start: v.number(), end: v.number(), text: v.string() });
const StepSchema = v.object({
  label: v.string(),
  at: v.number(),
  /** Forward and backward edits, by file. */
  forward: v.array(v.object({ file: v.string(), edits: v.array(EditSchema) })),
  back: v.array(v.object({ file: v.string(), edits: v.array(EditSchema) })),
});
const HistorySchema = v.object({
  at: v.number(),
  note: v.string(),
  files: FilesSchema,
  before: v.optional(FilesSchema),
});
const BoxSchema = v.object({
  running: FilesSchema,
  startup: FilesSchema,
  trial: v.optional(
    v.object({
      id: v.string(),
      before: FilesSchema,
      since: v.number(),
      until: v.number(),
      note: v.string(),
    }),
  ),
  history: v.array(HistorySchema),
  passwordSet: v.boolean(),
  last: v.optional(v.object({ what: v.literal('went-back'), at: v.number() })),
});
export const SiteSchema = v.object({
  id: v.string(),
  name: v.string(),
  files: FilesSchema,
  undo: v.array(StepSchema),
  redo: v.array(StepSchema),
  box: BoxSchema,
  /** The orders that the box carried out last. */
  done: v.optional(v.array(v.object({ id: v.string(), refused: v.optional(v.picklist(REFUSED)) })), []),
  /** What the box runs as far as it was told from here; absent in what earlier versions wrote. */
  agreed: v.optional(FilesSchema),
  /** The sheet as pasted in First light, kept with the site. */
  sheet: v.optional(v.string(), ''),
  /** Rows of it that were corrected, or written without one. */
  sheetRows: v.optional(v.record(v.string(), v.string()), {}),
  firstLight: v.optional(v.boolean(), false),
  /** How the seat's PC stands, with the statement that it belongs to, and whether it reached the box before the trial. */
  desk: v.optional(
    v.object({
      of: v.string(),
      plug: v.string(),
      address: v.optional(v.string()),
      gateway: v.optional(v.string()),
      address6: v.optional(v.string()),
      gateway6: v.optional(v.string()),
    }),
  ),
  hadContact: v.optional(v.boolean(), false),
  /** What a running trial had left when this was written, milliseconds of steady time. */
  trialLeft: v.optional(v.number()),
  updated: v.number(),
});
export type StoredSite = v.InferOutput<typeof SiteSchema>;
export type UndoStep = v.InferOutput<typeof StepSchema>;

interface Schema extends DBSchema {
  sites: { key: string; value: StoredSite };
}

const NAME = 'jolly-gate';
/** Grows with every change of the stores' form; a newer one in the browser is left alone. */
const VERSION = 1;

/** What keeps the browser from keeping things, in a word. */
export type StoreTrouble = 'blocked' | 'newer' | 'quota' | 'lost' | 'unreadable' | 'unavailable';

/** How often the database is asked for, and milliseconds between. */
const TRIES = 4;
const PAUSE = 500;
/** After how long a database that says nothing counts as one that cannot keep anything now, milliseconds. */
const ANSWERS = 10_000;

/** Fails where nothing has been answered in time. */
function inTime<T>(answer: Promise<T>): Promise<T> {
  return new Promise((resolve, reject) => {
    const timer = setTimeout(() => reject(new Error('no answer')), ANSWERS);
    void answer.then(resolve, reject).finally(() => clearTimeout(timer));
  });
}

/** Whether it may be over by itself: somebody makes room. */
export const isPassing = (what: StoreTrouble): boolean => what === 'quota' || what === 'lost';

export class Store {
  /** What was put and is not answered: on a full disk a browser may never answer. */
  private unanswered?: Promise<unknown>;

  private constructor(
    private db: IDBPDatabase<Schema>,
    private readonly trouble: (what: StoreTrouble) => void,
  ) {}

  private static connect(trouble: (what: StoreTrouble) => void): Promise<IDBPDatabase<Schema>> {
    const opened = openDB<Schema>(NAME, VERSION, {
      upgrade(base) {
        base.createObjectStore('sites', { keyPath: 'id' });
      },
      blocked: () => trouble('blocked'),
      blocking: () => void opened.then((db) => db.close()),
      terminated: () => trouble('lost'),
    });
    return opened;
  }

  /**
   * Opens the database; tells what is wrong instead of throwing. One that does not answer is left alone: what it has
   * must not be written over by who could not read it.
   */
  static async open(trouble: (what: StoreTrouble) => void): Promise<Store | undefined> {
    try {
      for (let tries = 1; ; tries++)
        try {
          const store = new Store(await Store.connect(trouble), trouble);
          await inTime(store.db.count('sites'));
          return store;
        } catch (error) {
          // Another browser that has crashed just now may hold the database for a moment.
          const mayPass = error instanceof DOMException && /^(Unknown|Abort)Error$/.test(error.name);
          if (!mayPass || tries === TRIES) throw error;
          await new Promise((resolve) => setTimeout(resolve, PAUSE));
        }
    } catch (error) {
      trouble(error instanceof DOMException && error.name === 'VersionError' ? 'newer' : 'unavailable');
      return undefined;
    }
  }

  async all(): Promise<StoredSite[]> {
    const rows: unknown[] = await this.db.getAll('sites');
    return rows.flatMap((row) => {
      const read = v.safeParse(SiteSchema, row);
      if (read.success) return [read.output];
      // It stays in the database as it is: a later version may read it.
      this.trouble('unreadable');
      return [];
    });
  }

  ids(): Promise<string[]> {
    return this.db.getAllKeys('sites');
  }

  async get(id: string): Promise<StoredSite | undefined> {
    const read = v.safeParse(SiteSchema, await this.db.get('sites', id));
    return read.success ? read.output : undefined;
  }

  /** Whether it is kept now. Nothing more is given to a database that has not answered what it was given before. */
  async put(site: StoredSite): Promise<boolean> {
    try {
      await inTime(Promise.resolve(this.unanswered));
      const put = this.write(site);
      this.unanswered = put.catch(() => undefined);
      await inTime(put);
      return true;
    } catch (error) {
      const quota = error instanceof DOMException && error.name === 'QuotaExceededError';
      this.trouble(quota ? 'quota' : 'lost');
      return false;
    }
  }

  private async write(site: StoredSite): Promise<void> {
    try {
      await this.db.put('sites', site);
    } catch (error) {
      // A browser that had no room closes its database for good: it is opened again, once there is some.
      if (!(error instanceof DOMException) || error.name !== 'InvalidStateError') throw error;
      this.db = await Store.connect(this.trouble);
      await this.db.put('sites', site);
    }
  }

  async remove(id: string): Promise<void> {
    await this.db.delete('sites', id);
  }
}
