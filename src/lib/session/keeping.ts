/**
 * What the browser keeps besides its database: small settings, and a journal of edits that the database had no time for.
 * Any of it may be refused (private windows, full or blocked storage); then it is done without.
 */
import * as v from 'valibot';
import type { StoredSite } from './db';

/** Settings by name; a browser that keeps none says nothing and forgets. */
export const remembered = {
  get(name: string): string | null {
    try {
      return localStorage.getItem(name);
    } catch {
      return null;
    }
  },
  set(name: string, value: string): boolean {
    try {
      localStorage.setItem(name, value);
      return true;
    } catch {
      return false;
    }
  },
  remove(name: string): void {
    try {
      localStorage.removeItem(name);
    } catch {
      // Nothing was kept.
    }
  },
  /** The names of all settings of this browser, ours and others'. */
  names(): string[] {
    try {
      return Array.from({ length: localStorage.length }, (_, i) => localStorage.key(i) ?? '');
    } catch {
      return [];
    }
  },
};

/** A name that nobody else has. A page that is not secure has no such function, but bytes of chance. */
export const newId = (): string =>
  isSecureContext
    ? crypto.randomUUID()
    : [...crypto.getRandomValues(new Uint8Array(16))].map((b) => b.toString(16).padStart(2, '0')).join('');

const JournalSchema = v.object({
  /** Absent in what earlier versions wrote. */
  name: v.optional(v.string(), 'Kept'),
  files: v.array(v.object({ name: v.string(), text: v.string() })),
  updated: v.number(),
});
type JournalEntry = v.InferOutput<typeof JournalSchema>;
const JOURNAL = 'jolly-gate journal ';
const journalName = (id: string): string => JOURNAL + id;

function journalOf(id: string): JournalEntry | undefined {
  try {
    const read = v.safeParse(JournalSchema, JSON.parse(remembered.get(journalName(id)) ?? ''));
    return read.success ? read.output : undefined;
  } catch {
    return undefined;
  }
}

/** Writes the files of a site at once, for when the window goes before the database is done. */
export const writeJournal = (site: StoredSite): boolean =>
  remembered.set(
    journalName(site.id),
    JSON.stringify({ name: site.name, files: site.files, updated: site.updated }),
  );

/** Where this browser keeps the token of the server's live boxes. */
export const LIVE_TOKEN = 'jolly-gate live';

/** The database has it: the journal is not needed any more. */
export const clearJournal = (id: string): void => remembered.remove(journalName(id));

/** What only the journal has: the database, whose sites are `known`, never had it or does not answer. */
export const onlyJournalled = (known: ReadonlySet<string>): readonly (JournalEntry & { id: string })[] =>
  remembered
    .names()
    .filter((name) => name.startsWith(JOURNAL))
    .map((name) => name.slice(JOURNAL.length))
    .filter((id) => !known.has(id))
    .flatMap((id) => {
      const entry = journalOf(id);
      return entry ? [{ ...entry, id }] : [];
    });

/** A site with what its journal has that the database has not; what can be undone is as the database knows it. */
export function withJournal(site: StoredSite): StoredSite {
  const entry = journalOf(site.id);
  if (!entry || entry.updated <= site.updated) return site;
  // Steps of undo are made for the text before: one that leads back to it is put behind them.
  const steps = site.files.flatMap((f) => {
    const now = entry.files.find((x) => x.name === f.name);
    if (!now || now.text === f.text) return [];
    const whole = (was: string, is: string) => [
      { file: f.name, edits: [{ start: 0, end: was.length, text: is }] },
    ];
    return [
      {
        label: 'the last edit before the window closed',
        at: entry.updated,
        forward: whole(f.text, now.text),
        back: whole(now.text, f.text),
      },
    ];
  });
  return {
    ...site,
    files: entry.files,
    undo: [...site.undo, ...steps],
    redo: [],
    updated: entry.updated,
  };
}
