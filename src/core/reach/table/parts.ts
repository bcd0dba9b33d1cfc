/** What the reach table is made of: ends, their parts, cells, and the rows that are remembered from table to table. */
import type { Ip, ServiceSet } from '#core/addr';
import type { Who } from '#core/notation';
import type { Interface } from '#core/site';
import type { Region } from '../block';

/** One row or column of the table. */
export interface ReachEnd {
  readonly kind: 'zone' | 'interface' | 'known' | 'station' | 'internet' | 'box' | 'door';
  readonly name: string;
}

/** What passes from one end to another. */
export interface Cell {
  /** All services between all addresses, some, or nothing. */
  readonly verdict: 'all' | 'some' | 'none';
  /** Services that at least one address gets through to at least one other with. */
  readonly services: ServiceSet;
  /** Services that every address gets through to every other with. */
  readonly everywhere: ServiceSet;
  /** The statements that let it pass, by what stays theirs when the text around them changes; `statementsOf` finds them. */
  readonly by: readonly Mark[];
  /** The one source address that is shown outside, where there is one. */
  readonly leavesAs?: Ip;
  /** The flows, for comparing; of each family. */
  readonly flows: Region;
}

/** A statement by its place among its like: `passage A>B N` is the Nth that counts from A to B. */
export type Mark = string;

/** A part of an end: one interface or the internet, or what is one by itself. One object each in a table. */
export interface Atom {
  readonly key: string;
  readonly who?: Who;
  /** For an interface. */
  readonly at?: Interface;
  /** For what is only gone to. */
  readonly goal?: 'box' | 'door';
  /** For a door. */
  readonly name?: string;
}

/** An end, by its parts. */
export interface Side {
  readonly key: string;
  readonly atoms: readonly Atom[];
}

/** How much of what becomes of arriving flows matters to a goal; see `Content`. */
export type Kind = 'core' | 'leaving' | 'whole' | 'byDoor' | 'box';

/** The columns of the table: every atom that something goes to, and which of them make up each destination. */
export interface Columns {
  readonly atoms: readonly Atom[];
  readonly ids: readonly number[];
  readonly kinds: readonly Kind[];
  readonly used: ReadonlySet<Kind>;
  /** Names the atoms in their order. */
  readonly key: number;
  /** For each destination the places of its atoms. */
  readonly members: readonly (readonly number[])[];
  /** Names the destinations with their members. */
  readonly shape: number;
}

/** What passes from one atom to every other, with the keys it was reckoned by. */
export interface AtomRow {
  readonly columns: Columns;
  readonly askers: Readonly<Record<Kind, number>>;
  readonly parts: readonly Part[];
}

/** Where columns stood among earlier ones. */
export interface Sides {
  /** Whether all stand where they stood. */
  readonly same: boolean;
  /** By column; absent where it is another. */
  readonly of: readonly (number | undefined)[];
  readonly changed: readonly number[];
}

/** The cells of one source, with the rows that they were joined from. */
export interface Row {
  readonly shape: number;
  readonly rows: readonly (readonly Part[])[];
  readonly cells: readonly Cell[];
}

/** What was worked out about one pair of atoms. */
export interface Part {
  readonly cell: Cell;
  /** There was somebody on both sides. */
  readonly asked: boolean;
}
