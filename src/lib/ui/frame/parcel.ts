/** How a site travels in files: what each is called, and which part of the site it is when it comes back. */
import type { Files } from '#core/change';

type File = Files[number];

/** What a file holds: the draft, what the box runs, or what it starts with. */
type Part = 'draft' | 'running' | 'startup';

const MARKS: Readonly<Record<Exclude<Part, 'draft'>, string>> = { running: '.running', startup: '.startup' };

const two = (n: number): string => String(n).padStart(2, '0');

/** The day, as files are sorted by: 2026-11-29, where somebody is. */
export const dayOf = (at: Date): string =>
  `${at.getFullYear()}-${two(at.getMonth() + 1)}-${two(at.getDate())}`;

/** A site's name as a file name begins with. */
export const slugOf = (site: string): string =>
  site
    .toLowerCase()
    .normalize('NFKD')
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-+|-+$/g, '')
    .slice(0, 40) || 'site';

/** `tidewater-kiln-2026-11-29.box.gate`, and `….box.running.gate` for what the box runs. */
export function parcelName(site: string, at: Date, file: string, part: Part): string {
  const base = file.replace(/\.gate$/, '').replace(STAMP, '');
  return `${slugOf(site)}-${dayOf(at)}.${base}${part === 'draft' ? '' : MARKS[part]}.gate`;
}

const STAMP = /^[a-z0-9-]*\d{4}-\d{2}-\d{2}\./;

export interface Unpacked {
  /** The name of the site, from the files' names. */
  readonly name: string;
  readonly draft: Files;
  readonly running: Files;
  readonly startup: Files;
}

/** Files as they come back: by what they hold, with the names that they had in the site. */
export function unpack(files: readonly File[]): Unpacked {
  const parts: Record<Part, File[]> = { draft: [], running: [], startup: [] };
  for (const { name, text } of files) {
    const part = (['running', 'startup'] as const).find((p) => name.endsWith(`${MARKS[p]}.gate`)) ?? 'draft';
    const bare = part === 'draft' ? name : name.replace(new RegExp(`\\${MARKS[part]}\\.gate$`), '.gate');
    parts[part].push({ name: bare.replace(STAMP, ''), text });
  }
  const first = files[0]?.name ?? 'site.gate';
  const stamped = /^([a-z0-9-]*?)-\d{4}-\d{2}-\d{2}\./.exec(first)?.[1];
  const name = stamped || (parts.draft[0] ?? parts.running[0])?.name.replace(/\.gate$/, '') || 'site';
  return { name, ...parts };
}
