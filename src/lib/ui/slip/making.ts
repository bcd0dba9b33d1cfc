/** What a chooser can make in place. */
import type { Takes } from '#core/edits';

/** The kind of statement that a slot names and a name alone can make. */
export const makingOf = (takes: Takes): 'zone' | 'table' | 'port' | undefined =>
  takes === 'zone' || takes === 'table' || takes === 'port' ? takes : undefined;
