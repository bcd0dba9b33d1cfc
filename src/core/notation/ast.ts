/** Statements as typed values with their places in the text. A value that cannot be used is absent. */
import type { DhcpOption, Ip, Mac, Prefix, Range } from '#core/addr';
import type { Kind } from './grammar';
import type { Span, Token } from './lexer';

/** A value and where it is written. */
export interface At<T> {
  readonly value: T;
  readonly at: Span;
}

/** A clause as written: its words, the first of which names it (or is its first value, in known and door). */
export interface Clause {
  readonly name: string;
  readonly words: readonly Token[];
  readonly start: number;
  readonly end: number;
  /** Where the comma behind it stands, if one does. */
  readonly comma?: number;
}

/** What all statements have. */
export interface StatementBase {
  readonly file: string;
  /** Position among the statements of its file, from 0. */
  readonly index: number;
  /** `interface/studio`; unnamed kinds by their head and number, `passage/studio>world#2`. */
  readonly subject: string;
  readonly start: number;
  readonly end: number;
  readonly line: number;
  /** The first words of the statement, for pointing at it as a whole. */
  readonly head: Span;
  /** Its text, from `start` to `end`. The words in it are read from here when somebody asks (`written`). */
  readonly source: string;
  /** Whether any part of it could not be read. */
  readonly broken: boolean;
  readonly note?: At<string>;
}

/** A name where another statement is meant; `kind` where it was written as `KIND NAME`. */
export interface Ref {
  readonly name: string;
  readonly kind?: Kind;
  readonly at: Span;
}

/** What may stand for one or more addresses. */
export type Who =
  | { readonly type: 'any'; readonly at: Span }
  | { readonly type: 'internet'; readonly at: Span }
  | { readonly type: 'name'; readonly name: string; readonly kind?: Kind; readonly at: Span }
  | { readonly type: 'addresses'; readonly range: Range; readonly prefix?: Prefix; readonly at: Span }
  /** A host by the last 64 bits of its IPv6 address, whatever network its interface has at the moment. */
  | { readonly type: 'suffix'; readonly suffix: bigint; readonly interface: Ref; readonly at: Span };

/** An interface's or station's own address: written out, or taken from a server. */
export type AddressSource =
  | { readonly by: 'static'; readonly prefix: Prefix }
  | { readonly by: 'dhcp' }
  | { readonly by: 'pppoe' };

export type Address6Source =
  | { readonly by: 'static'; readonly prefix: Prefix }
  | { readonly by: 'slaac' }
  | { readonly by: 'dhcpv6' }
  | { readonly by: 'from'; readonly interface: Ref; readonly subnet: number };

export type GatewayClause =
  | { readonly by: 'address'; readonly address: Ip; readonly onlink: boolean }
  | { readonly by: 'learned' }
  | { readonly by: 'none' };

/** Services that the box itself can answer. */
export const ANSWERABLE = ['ping', 'ssh', 'http', 'https', 'dns', 'time', 'snmp'] as const;
export type AnswerName = (typeof ANSWERABLE)[number];

export interface AnswersClause {
  readonly services: readonly { readonly name: AnswerName; readonly port?: number; readonly at: Span }[];
  /** Absent: from anyone. */
  readonly from?: readonly Who[];
  readonly at: Span;
}

/** Addresses that the box shares with its twin on a segment, and what the twin has there as its own (RFC 9568). */
export interface VirtualClause {
  readonly addresses: readonly At<Ip>[];
  /** The number of the virtual router on its segment, 1 to 255. */
  readonly id: number;
  /** The address of the twin on this interface. */
  readonly other?: At<Ip>;
}

/** One entry of `also`: a range of secondary addresses with their length. */
export interface AlsoItem {
  readonly range: Range;
  readonly length: number;
}

export interface LendsClause {
  readonly ranges: readonly At<Range>[];
  /** The network elsewhere that it is for, of a station that lends. */
  readonly network?: At<Prefix>;
  /** Lease time in seconds. */
  readonly seconds: number;
  readonly gateway?: At<Ip>;
  readonly names: readonly At<Ip>[];
  readonly at: Span;
}

/** An option of the DHCP server, for all its clients, those of a range, or one reservation. */
export interface OptionClause {
  readonly option: DhcpOption;
  readonly what: Span;
  readonly only?: At<Range>;
  readonly at: Span;
}

export interface KeepsClause {
  readonly address: At<Ip>;
  readonly mac: Mac;
  readonly label?: string;
  readonly at: Span;
}

/** Where a cable ends: a port of the box or a jack of a switch, with the tag that frames have there. */
export type Plug =
  | { readonly to: 'port'; readonly port: string; readonly tag?: number; readonly at: Span }
  | {
      readonly to: 'jack';
      readonly switch: string;
      readonly jack: number;
      readonly tag?: number;
      readonly at: Span;
    };

/** The ports of a link aggregation (IEEE 802.1AX), and how its two ends agree on them. */
export interface OverClause {
  readonly ports: readonly Ref[];
  readonly mode: 'lacp' | 'static';
  /** Whether the other side is to speak every second, so that a silent link is left after three. */
  readonly fast: boolean;
}

/** A jack of a switch: the VLAN of its untagged frames, and those that travel tagged. */
export interface JackClause {
  readonly jack: number;
  /** Absent: untagged frames get nowhere. */
  readonly tag?: number;
  readonly carries: readonly At<number>[];
}

/** One side of a router inside: where it is, its address there, and what it does for stations of that network. */
export interface LegClause {
  /** A port with a tag may be a switch with one of its VLANs: a switch that routes. */
  readonly plug: Plug;
  readonly address: At<Prefix>;
  readonly lends?: LendsClause;
  /** DHCP servers elsewhere that it asks for the clients here. */
  readonly relays: readonly At<Ip>[];
}

export type RouteClause = {
  readonly prefix: Prefix;
  readonly via?: At<Ip>;
  readonly interface?: Ref;
  readonly drop: boolean;
  readonly distance: number;
  readonly at: Span;
};

/** What can be wrong with what is read, and the values that say it. */
export interface ReadFaults {
  /** A fault of form: `got` was met where `expected` should stand. */
  syntax: { readonly got: string; readonly expected: string };
  'name-reserved': { readonly name: string; readonly kind: string };
  'mask-missing': { readonly address: string };
  'mask-invalid': { readonly mask: string; readonly address: string };
  'tag-range': { readonly tag: string };
  'lends-empty': { readonly first: string; readonly last: string; readonly range: string };
  'range-reversed': { readonly first: string; readonly last: string; readonly range: string };
}

export type ReadCode = keyof ReadFaults;

/** What reading found wrong: a fault of form, or a value that reads but cannot be. */
export type ReadProblem = {
  [C in ReadCode]: ProblemPlace & { readonly code: C; readonly values: ReadFaults[C] };
}[ReadCode];

interface ProblemPlace {
  readonly file: string;
  readonly at: Span;
  /** `interface/studio`, or `line 7` where not even that could be read. */
  readonly subject: string;
  /** A replacement of the span that is likely meant. */
  readonly proposal?: { readonly text: string; readonly at: Span };
  /** Whether the statement as a whole cannot count (so it counts as it last could be read). */
  readonly fatal: boolean;
}
