/** All kinds of statements by their tables; the types of statements are what the tables make. */
import type { Made, Offers, Offer } from '../clause';
import { KINDS } from '../grammar';
import type { Kind } from '../grammar';
import { BOX, PORT, TABLE, ZONE } from './box';
import { INTERFACE } from './interface';
import { DOOR, EXPECT, KNOWN, LEAVE, PASSAGE, RECORD, SEND } from './rules';
import { CIRCUIT, FAR, ROUTER, STATION, SWITCH } from './wiring';

export const TABLES = {
  box: BOX,
  port: PORT,
  zone: ZONE,
  table: TABLE,
  interface: INTERFACE,
  known: KNOWN,
  record: RECORD,
  passage: PASSAGE,
  leave: LEAVE,
  send: SEND,
  door: DOOR,
  expect: EXPECT,
  circuit: CIRCUIT,
  switch: SWITCH,
  router: ROUTER,
  station: STATION,
  far: FAR,
} satisfies { readonly [K in Kind]: { readonly kind: K } };

/** A statement of one kind. */
export type StatementOf<K extends Kind> = Made<(typeof TABLES)[K]>;

export type Statement = { [K in Kind]: StatementOf<K> }[Kind];

/** The clause words of each kind, in the order that a freshly written statement has them. */
export const CLAUSES = Object.fromEntries(
  KINDS.map((kind) => [kind, Object.keys(TABLES[kind].clauses)]),
) as unknown as Readonly<Record<Kind, readonly string[]>>;

/** What can be typed in the header of a kind. */
export const headerOffer = (kind: Kind): Offer => TABLES[kind].header;

/** What can be typed in a clause of a kind, by the word before the caret; none where it is no clause of it. */
export function clauseOffers(kind: Kind, clause: string): Offers | undefined {
  const clauses: Readonly<Record<string, { readonly offers: Offers }>> = TABLES[kind].clauses;
  return Object.hasOwn(clauses, clause) ? clauses[clause]!.offers : undefined;
}

/** Whether a clause of a kind may stand more than once. */
export const mayRepeat = (kind: Kind, clause: string): boolean => {
  const clauses: Readonly<Record<string, { readonly repeats: boolean }>> = TABLES[kind].clauses;
  return Object.hasOwn(clauses, clause) && clauses[clause]!.repeats;
};
