/** What could be typed next: statement kinds, clause words, names of things, and the words a clause takes. */
import type { Offer } from './clause';
import { KINDS, kindOf } from './grammar';
import type { Kind } from './grammar';
import { CLAUSES, clauseOffers, headerOffer } from './kinds';

/** A proposal: `insert` replaces the text from `start` to the caret. */
export interface Completion {
  readonly insert: string;
  readonly start: number;
  readonly about: 'kind' | 'clause' | 'name' | 'word';
}

/** The names that exist, by the kind that declares them. */
export type KnownNames = Readonly<Partial<Record<Kind, readonly string[]>>>;

/**
 * Proposals for the caret at `offset` of a statement's text (one logical line, or the start of one), best first.
 * `names` are the names in use. Never proposes what is already typed whole.
 */
export function complete(statement: string, offset: number, names: KnownNames): Completion[] {
  const before = statement.slice(0, offset);
  const word = /[^\s,>]*$/.exec(before)![0];
  const start = offset - word.length;
  const list = (items: readonly string[], about: Completion['about']): Completion[] =>
    [...new Set(items)]
      .filter((item) => item.startsWith(word) && item !== word)
      .map((item) => ({ insert: item, start, about }));
  const first = /^([a-z]+)[\s:]/.exec(before)?.[1];
  const kind = first === undefined ? undefined : kindOf(first);
  if (!kind)
    return before.trim() === word
      ? list(
          KINDS.map((k) => `${k} `),
          'kind',
        )
      : [];
  const offered = (offer: Offer | undefined) => [
    ...list(offer?.names?.flatMap((k) => names[k] ?? []) ?? [], 'name'),
    ...list(offer?.words ?? [], 'word'),
  ];
  const colon = kind === 'expect' ? -1 : before.search(/[^:]:(\s|$)/);
  if (colon < 0) return offered(headerOffer(kind));
  const clause = before.slice(
    before.lastIndexOf(',') + 1 > colon + 2 ? before.lastIndexOf(',') + 1 : colon + 2,
  );
  const words = clause.trim().split(/\s+/).filter(Boolean);
  const typed = word === '' ? words : words.slice(0, -1);
  if (typed.length === 0) {
    const present = new Set([...before.matchAll(/[,:]\s*([a-z0-9]+)\s/g)].map((m) => m[1]));
    return list(
      CLAUSES[kind].filter((c) => !present.has(c)),
      'clause',
    );
  }
  const offers = clauseOffers(kind, typed[0]!);
  return offered(offers?.[typed[typed.length - 1]!] ?? offers?.['*']);
}
