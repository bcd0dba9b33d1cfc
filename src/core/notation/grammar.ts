/** The words of the notation: statement kinds, what is reserved, what can be a name. Clauses are in `kinds/`. */

export const KINDS = [
  'box',
  'port',
  'zone',
  'table',
  'interface',
  'known',
  'record',
  'passage',
  'leave',
  'send',
  'door',
  'expect',
  'circuit',
  'switch',
  'router',
  'station',
  'far',
] as const;

export type Kind = (typeof KINDS)[number];

const KIND_WORDS: ReadonlyMap<string, Kind> = new Map(KINDS.map((kind) => [kind, kind]));

/** The statement kind that a word names, a colon behind it or not. */
export const kindOf = (word: string): Kind | undefined =>
  KIND_WORDS.get(word) ?? (word.endsWith(':') ? KIND_WORDS.get(word.slice(0, -1)) : undefined);

/** Kinds that describe what is plugged in; the others are told to the box. */
export const WIRING_KINDS: ReadonlySet<Kind> = new Set<Kind>([
  'circuit',
  'switch',
  'router',
  'station',
  'far',
]);

/** Whether a statement is told to the box, and does not describe what is plugged in. */
export const isOfBox = ({ kind }: { readonly kind: Kind }): boolean => !WIRING_KINDS.has(kind);

const NAMED = [
  'box',
  'port',
  'zone',
  'table',
  'interface',
  'known',
  'record',
  'door',
  'circuit',
  'switch',
  'router',
  'station',
  'far',
] as const satisfies readonly Kind[];

/** Kinds whose header is one name. */
export type NamedKind = (typeof NAMED)[number];

export const NAMED_KINDS: ReadonlySet<Kind> = new Set<Kind>(NAMED);

/** Where a bare name may mean several things, this is the order of looking (notation, "Lines and words"). */
export const NAME_ORDER: readonly Kind[] = ['zone', 'interface', 'known', 'door', 'station', 'far'];

/**
 * Kinds that came after the first edition. A file of before may use their words as names, so they are not reserved, and
 * do not stand before a name to say what it is.
 */
const LATER: ReadonlySet<Kind> = new Set<Kind>(['router', 'record']);

/** Kinds that may stand before a name. */
export const QUALIFYING_KINDS: readonly Kind[] = KINDS.filter((kind) => !LATER.has(kind));

const RESERVED: ReadonlySet<string> = new Set<string>([
  ...QUALIFYING_KINDS,
  ...'any internet main from to for via on tag in at by as and'.split(' '),
]);

/** Whether the word cannot be a name because the notation uses it. */
export const isReserved = (word: string): boolean => RESERVED.has(word);

/** Whether the word can name a thing: a lower-case letter, then up to fourteen of letters, digits and hyphens. */
export const isName = (word: string): boolean => /^[a-z][a-z0-9-]{0,14}$/.test(word);

/** Whether the word can name a far host: as isName, or a DNS name whose last label is not all digits (RFC 1123 §2.1). */
export const isFarName = (word: string): boolean =>
  isName(word) ||
  (word.length <= 253 &&
    /^[a-z0-9]([a-z0-9-]{0,61}[a-z0-9])?(\.[a-z0-9]([a-z0-9-]{0,61}[a-z0-9])?)+$/.test(word) &&
    !/\.[0-9]+$/.test(word));

/**
 * The candidate nearest to a mistyped word: at most two single-character changes away (one for words up to three
 * letters), the first of equals; undefined where none is near.
 */
export function nearest(word: string, candidates: Iterable<string>): string | undefined {
  let best: string | undefined;
  let limit = word.length <= 3 ? 2 : 3;
  for (const candidate of candidates) {
    if (Math.abs(candidate.length - word.length) >= limit) continue;
    const far = distance(word.toLowerCase(), candidate.toLowerCase());
    if (far < limit) [best, limit] = [candidate, far];
  }
  return best;
}

/** Edits (insert, delete, replace, swap of neighbours) from one word to the other. */
function distance(a: string, b: string): number {
  let before: number[] = [];
  let above = Array.from({ length: b.length + 1 }, (_, j) => j);
  for (let i = 1; i <= a.length; i++) {
    const row = [i];
    for (let j = 1; j <= b.length; j++) {
      const same = a[i - 1] === b[j - 1];
      let least = Math.min(above[j]! + 1, row[j - 1]! + 1, above[j - 1]! + (same ? 0 : 1));
      if (i > 1 && j > 1 && a[i - 1] === b[j - 2] && a[i - 2] === b[j - 1])
        least = Math.min(least, before[j - 2]! + 1);
      row.push(least);
    }
    before = above;
    above = row;
  }
  return above[b.length]!;
}

/** A text as near to a name as its characters allow; not always one. */
export const nameLike = (text: string): string =>
  text
    .toLowerCase()
    .replace(/[^a-z0-9-]+/g, '-')
    .replace(/^[^a-z]+/, '')
    .replace(/-+$/, '')
    .slice(0, 15);
