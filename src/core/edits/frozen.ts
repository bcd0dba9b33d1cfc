/** Promises that hold a reach as it is now, kept together between two comments so that they can be taken away again. */
import { parseDocument } from '#core/notation';
import type { FileChange } from '#core/notation';
import { documentOf } from '#core/site';
import type { Site } from '#core/site';
import { homeOf } from './change';

const FIRST = '# frozen reach: thaw it from the Proof view, or take these lines out';
const LAST = '# end of the frozen reach';

/** Writes promises at the end of the file that holds promises. Lines that cannot be read are left out. */
export function freezeReach(site: Site, promises: readonly string[]): FileChange[] {
  const home = site.expects[0] ? documentOf(site, site.expects[0]) : homeOf(site, 'expect');
  const good = promises.filter((p) => !parseDocument(p, '').problems.length);
  if (!home || !good.length) return [];
  const end = home.text.length;
  const eol = home.text.includes('\r\n') ? '\r\n' : '\n';
  const before = home.text === '' || home.text.endsWith('\n') ? '' : eol;
  const text = `${before}${[FIRST, ...good, LAST].join(eol)}${eol}`;
  return [{ file: home.file, edits: [{ start: end, end, text }] }];
}

const spanIn = (text: string): { start: number; end: number } | undefined => {
  const start = text.indexOf(FIRST);
  const last = start < 0 ? -1 : text.indexOf(LAST, start);
  if (last < 0) return undefined;
  const line = text.indexOf('\n', last);
  return { start, end: line < 0 ? text.length : line + 1 };
};

/** Whether a reach is frozen in one of the files. */
export const isFrozen = (site: Site): boolean => site.documents.some((d) => spanIn(d.text));

/** Takes the frozen promises out again. */
export const thawReach = (site: Site): FileChange[] =>
  site.documents.flatMap((d) => {
    const span = spanIn(d.text);
    return span ? [{ file: d.file, edits: [{ ...span, text: '' }] }] : [];
  });
