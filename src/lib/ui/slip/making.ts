/** What a chooser can make in place, and the text that makes it. */
import { isName, isReserved } from '#core/notation';
import type { Takes } from '#core/edits';
import type { Site } from '#core/site';

/** The kind of statement that a slot names and a name alone can make. */
export const makingOf = (takes: Takes): 'zone' | 'table' | 'port' | undefined =>
  takes === 'zone' || takes === 'table' || takes === 'port' ? takes : undefined;

/** Why a thing cannot be called so; nothing where it can. */
export function nameFault(site: Site, kind: string, name: string): string {
  if (!isName(name) || isReserved(name))
    return 'up to 15 lower-case letters, digits and hyphens, a letter first, and no word of the notation';
  return site.statements.some((s) => s.subject === `${kind}/${name}`)
    ? `there is a ${kind} ${name} already`
    : '';
}
