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
};

/** A name that nobody else has. A page that is not secure has no such function, but bytes of chance. */
export const newId = (): string =>
  isSecureContext
    ? crypto.randomUUID()
    : [...crypto.getRandomValues(new Uint8Array(16))].map((b) => b.toString(16).padStart(2, '0')).join('');

const JournalSchema = v.object({
  files: v.array(v.object({ name: v.string(), text: v.string() })),
  updated: v.number(),
});
const journalName = (id: string): string => `jolly-gate journal ${id}`;

/** Writes the files of a site at once, for when the window goes before the database is done. */
export const writeJournal = (site: StoredSite): boolean =>
  remembered.set(journalName(site.id), JSON.stringify({ files: site.files, updated: site.updated }));

/** Where this browser keeps the token of the server's live boxes. */
export const LIVE_TOKEN = 'jolly-gate live';

/** The database has it: the journal is not needed any more. */
export const clearJournal = (site: StoredSite): void => remembered.remove(journalName(site.id));

/** A site with what its journal has that the database has not; what can be undone is as the database knows it. */
export function withJournal(site: StoredSite): StoredSite {
  const text = remembered.get(journalName(site.id));
  if (text === null) return site;
  try {
    const read = v.safeParse(JournalSchema, JSON.parse(text));
    if (!read.success || read.output.updated <= site.updated) return site;
    // Steps of undo are made for the text before: one that leads back to it is put behind them.
    const steps = site.files.flatMap((f) => {
      const now = read.output.files.find((x) => x.name === f.name);
      if (!now || now.text === f.text) return [];
      const whole = (was: string, is: string) => [
        { file: f.name, edits: [{ start: 0, end: was.length, text: is }] },
      ];
      return [
        {
          label: 'the last edit before the window closed',
          at: read.output.updated,
          forward: whole(f.text, now.text),
          back: whole(now.text, f.text),
        },
      ];
    });
    return {
      ...site,
      files: read.output.files,
      undo: [...site.undo, ...steps],
      redo: [],
      updated: read.output.updated,
    };
  } catch {
    return site;
  }
}
