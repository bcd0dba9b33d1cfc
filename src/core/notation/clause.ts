/**
 * What a clause is, stated once: how it is read, whether it repeats, what can be typed in it. A kind of statement is a
 * table of clauses, in the order in which a freshly written statement has them; the types of what is read follow.
 */
import type { At, Clause, StatementBase } from './ast';
import type { Kind, NamedKind } from './grammar';
import type { Span } from './lexer';
import type { Problems, Words } from './reader';

/** What can be typed at a place: words, and names of what other statements make. */
export interface Offer {
  readonly words?: readonly string[];
  readonly names?: readonly Kind[];
}

/** Offers by the word that was typed last, the clause's own name among them; `*` behind any other word of it. */
export type Offers = Readonly<Record<string, Offer>>;

export interface ClauseOf<T, Repeats extends boolean = boolean> {
  /** Reads the words behind the clause's name; `at` is the whole clause. What cannot be used is absent. */
  readonly read: (words: Words, at: Span) => T | undefined;
  /** Whether it may stand more than once, its values joined in order. */
  readonly repeats: Repeats;
  readonly offers: Offers;
}

/** A clause that stands once; a second is a fault. */
export const once = <T>(
  read: (words: Words, at: Span) => T | undefined,
  offers: Offers = {},
): ClauseOf<T, false> => ({ read, repeats: false, offers });

/** A clause that may repeat. */
export const repeated = <T>(
  read: (words: Words, at: Span) => T | undefined,
  offers: Offers = {},
): ClauseOf<T, true> => ({ read, repeats: true, offers });

/** A clause that is one word. */
export const flag = once((_, at): Span => at);

/** The clauses of a kind by their names. */
export type ClauseTable = Readonly<Record<string, ClauseOf<unknown>>>;

/** What reading the clauses of a table gives: a list where a clause repeats, else a value or nothing. */
export type ValuesOf<C> = {
  readonly [K in keyof C]: C[K] extends ClauseOf<infer T, infer Repeats>
    ? Repeats extends true
      ? readonly T[]
      : T | undefined
    : never;
};

/** What the maker of a statement has at hand. */
export interface Parts<C, L> {
  readonly values: ValuesOf<C>;
  /** The first clause of a kind that has one without a name. */
  readonly lead: L | undefined;
  /** All clauses as written. */
  readonly clauses: readonly Clause[];
  /** Whether one of them is no clause of the kind. */
  readonly foreign: boolean;
  /** A cursor over the words of the header. */
  readonly header: Words;
  /** Where the statement stands as a whole. */
  readonly head: Span;
  readonly problems: Problems;
}

/** One kind of statement: its table, and how its values become a statement. */
export interface KindTable<K extends Kind, C, L, B> {
  readonly kind: K;
  readonly clauses: C;
  /** Reads the first clause where it has no name of its own. */
  readonly lead?: (words: Words) => L | undefined;
  /** What can be typed in its header. */
  readonly header: Offer;
  readonly make: (parts: Parts<C, L>) => B;
}

/** States a kind; its parameters are inferred from what it is given. */
export const defineKind = <K extends Kind, C extends ClauseTable, L, B extends object>(
  table: KindTable<K, C, L, B>,
): KindTable<K, C, L, B> => table;

/** The statement that a table makes. */
export type Made<T> =
  T extends KindTable<infer K, infer _C, infer _L, infer B>
    ? StatementBase & { readonly kind: K } & (K extends NamedKind ? { readonly name: string } : unknown) &
        Readonly<B>
    : never;

/** No values; one list for all who have none. */
export const NONE: readonly never[] = [];

/** The lists of a clause that repeats, as one. */
export const joined = <T>(lists: readonly (readonly T[])[]): readonly T[] =>
  lists.length > 1 ? lists.flat() : (lists[0] ?? NONE);

/** A value with the place of the words it was read from. */
export const reads = <T>(words: Words, value: T | undefined): At<T> | undefined =>
  value === undefined ? undefined : { value, at: words.span };

/** Values up to the end of the clause, at least one. */
export function listOf<T>(words: Words, expected: string, read: () => T | undefined): T[] {
  const out: T[] = [];
  if (words.done) words.fault(expected);
  while (!words.done) {
    const value = read();
    if (value !== undefined) out.push(value);
  }
  return out;
}
