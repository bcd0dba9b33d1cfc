/** Statements as typed values with their places in the text. A value that cannot be used is absent. */
import type { Ip, Mac, Prefix, Range, Services } from '#core/addr';
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
  /** Tokens between the kind and the colon. */
  readonly header: readonly Token[];
  /** Offset behind the header's colon, or behind its last token where the colon is missing. */
  readonly headEnd: number;
  readonly clauses: readonly Clause[];
  /** Whether a comment stands inside it, so that it must not be laid out anew. */
  readonly commented: boolean;
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
  | { readonly type: 'addresses'; readonly range: Range; readonly prefix?: Prefix; readonly at: Span };

/** An interface's or station's own address: written out, or taken from a server. */
export type AddressSource =
  { readonly by: 'static'; readonly prefix: Prefix } | { readonly by: 'dhcp' } | { readonly by: 'pppoe' };

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

/** One entry of `also`: a range of secondary addresses with their length. */
export interface AlsoItem {
  readonly range: Range;
  readonly length: number;
}

export interface LendsClause {
  readonly ranges: readonly At<Range>[];
  /** Lease time in seconds. */
  readonly seconds: number;
  readonly gateway?: At<Ip>;
  readonly names: readonly At<Ip>[];
  readonly at: Span;
}

export interface KeepsClause {
  readonly address: At<Ip>;
  readonly mac: Mac;
  readonly label?: string;
  readonly at: Span;
}

/** Where a cable ends: a port of the box (with a tag for a circuit), or a jack of a switch. */
export type Plug =
  | { readonly to: 'port'; readonly port: string; readonly tag?: number; readonly at: Span }
  | { readonly to: 'jack'; readonly switch: string; readonly jack: number; readonly at: Span };

export type RouteClause = {
  readonly prefix: Prefix;
  readonly via?: At<Ip>;
  readonly interface?: Ref;
  readonly drop: boolean;
  readonly distance: number;
  readonly at: Span;
};

export interface BoxStatement extends StatementBase {
  readonly kind: 'box';
  readonly name: string;
  readonly domain?: At<string>;
  readonly names: readonly At<Ip>[];
  readonly time: readonly At<Ip>[];
  readonly servesNames: boolean;
  readonly servesTime: boolean;
  readonly admin: readonly string[];
}

export interface PortStatement extends StatementBase {
  readonly kind: 'port';
  readonly name: string;
  readonly label?: At<string>;
  readonly off?: Span;
  readonly mac?: At<Mac>;
  readonly mtu?: At<number>;
  /** Megabits a second, or auto. */
  readonly speed?: At<number | 'auto'>;
}

export interface ZoneStatement extends StatementBase {
  readonly kind: 'zone';
  readonly name: string;
  readonly upstream?: Span;
  readonly dmz?: Span;
  readonly management?: Span;
  readonly within?: At<'allow' | 'drop'>;
  readonly tint?: At<number>;
}

export interface TableStatement extends StatementBase {
  readonly kind: 'table';
  readonly name: string;
  readonly routes: readonly RouteClause[];
}

export interface InterfaceStatement extends StatementBase {
  readonly kind: 'interface';
  readonly name: string;
  /** Ports it uses: one for `on` and `pppoe`, the members for `bridge`, none for `loopback`. */
  readonly carrier?: {
    readonly by: 'on' | 'bridge' | 'pppoe' | 'loopback';
    readonly ports: readonly Ref[];
    readonly tag?: At<number>;
    readonly pcp?: At<number>;
    readonly user?: string;
    readonly secret?: string;
    readonly at: Span;
  };
  readonly zone?: Ref;
  readonly table?: Ref;
  readonly off?: Span;
  readonly address?: At<AddressSource>;
  readonly also: readonly At<AlsoItem>[];
  readonly address6: readonly At<Address6Source>[];
  readonly gateway?: At<GatewayClause>;
  readonly gateway6?: At<GatewayClause>;
  readonly block?: At<{ readonly prefix: Prefix; readonly routed: boolean }>;
  readonly priority?: At<number>;
  readonly watch: readonly At<Ip>[];
  /** Seconds between two watch pings. */
  readonly watchEvery: number;
  /** Watch pings lost in a row that make the uplink dead. */
  readonly watchLost: number;
  /** Seconds of good answers before a dead uplink is used again. */
  readonly settle: number;
  readonly names?: At<{ readonly learned: boolean; readonly addresses: readonly At<Ip>[] }>;
  readonly answers: readonly AnswersClause[];
  readonly lends: readonly LendsClause[];
  readonly keeps: readonly KeepsClause[];
  readonly advertises?: Span;
  readonly mtu?: At<number>;
  readonly mss?: At<number | 'auto' | 'off'>;
  readonly mac?: At<Mac>;
  readonly guard?: Span;
}

export interface KnownStatement extends StatementBase {
  readonly kind: 'known';
  readonly name: string;
  readonly items: readonly At<{ readonly range: Range; readonly prefix?: Prefix }>[];
  readonly behind?: Ref;
}

export interface PassageStatement extends StatementBase {
  readonly kind: 'passage';
  readonly from: Ref;
  readonly to: Ref;
  /** Absent where the verdict could not be read. */
  readonly verdict?: 'allow' | 'drop' | 'reject';
  readonly services: Services;
  /** Empty: every source of the zone. */
  readonly sources: readonly Who[];
  /** Empty: every destination of the zone. */
  readonly destinations: readonly Who[];
  readonly log?: Span;
}

export interface LeaveStatement extends StatementBase {
  readonly kind: 'leave';
  readonly who: Who;
  readonly via: Ref;
  readonly as?:
    | { readonly by: 'interface' }
    | { readonly by: 'address'; readonly address: At<Ip> }
    | { readonly by: 'unchanged' }
    | { readonly by: 'never' };
}

export interface SendStatement extends StatementBase {
  readonly kind: 'send';
  readonly who: Who;
  readonly services: Services;
  readonly by: Ref;
  readonly otherwise?: Ref | 'never';
}

export interface DoorStatement extends StatementBase {
  readonly kind: 'door';
  readonly name: string;
  readonly outside?: At<{ readonly address: Ip } | { readonly interface: Ref }>;
  readonly services: Services;
  readonly inside?: Who;
  readonly insideServices?: Services;
  readonly on?: Ref;
  readonly sources: readonly Who[];
  readonly log?: Span;
}

export interface ExpectStatement extends StatementBase {
  readonly kind: 'expect';
  readonly promise?:
    | {
        readonly says: 'reaches' | 'never-reaches';
        readonly from: Who;
        readonly to: Who;
        readonly services?: Services;
      }
    | { readonly says: 'leaves-as'; readonly from: Who; readonly address: Ip }
    | { readonly says: 'answers-ping'; readonly interface: Ref; readonly from: Who };
}

export interface CircuitStatement extends StatementBase {
  readonly kind: 'circuit';
  readonly name: string;
  readonly plug?: Plug;
  readonly block?: At<Prefix>;
  readonly lends?: At<{ readonly range: Range; readonly prefix: Prefix }>;
  readonly pppoe?: At<{
    readonly user: string;
    readonly secret: string;
    readonly gives: Ip;
    readonly peer: Ip;
  }>;
  readonly gateway?: At<Ip>;
  readonly names: readonly At<Ip>[];
  readonly time: readonly At<Ip>[];
  readonly routes: readonly At<{ readonly prefix: Prefix; readonly via: Ip }>[];
  readonly block6?: At<Prefix>;
  readonly lends6?: At<Prefix>;
  readonly delegates6?: At<Prefix>;
  readonly translating?: At<{ readonly as?: Ip }>;
  readonly silent: boolean;
  /** Milliseconds, one way. */
  readonly delay: number;
  /** Percent of packets lost, 0–100. */
  readonly loss: number;
  readonly deadBeyond?: Span;
  readonly down?: Span;
}

export interface SwitchStatement extends StatementBase {
  readonly kind: 'switch';
  readonly name: string;
  readonly plug?: Plug;
  readonly native: number;
  readonly carries: readonly At<number>[];
  readonly jacks: readonly At<{ readonly jack: number; readonly tag: number }>[];
}

export interface StationStatement extends StatementBase {
  readonly kind: 'station';
  readonly name: string;
  readonly plug?: Plug;
  readonly address?: At<AddressSource>;
  /** Written beside an IPv4 address, or alone. */
  readonly address6?: At<Prefix>;
  readonly gateway?: At<Ip>;
  readonly gateway6?: At<Ip>;
  readonly names: readonly At<Ip>[];
  readonly mac?: At<Mac>;
  readonly listens: Services | undefined;
  readonly silent: boolean;
  readonly seat?: Span;
  readonly off?: Span;
}

export interface FarStatement extends StatementBase {
  readonly kind: 'far';
  readonly name: string;
  readonly addresses: readonly At<Ip>[];
  readonly listens: Services | undefined;
  readonly resolves: boolean;
  readonly silent: boolean;
}

export type Statement =
  | BoxStatement
  | PortStatement
  | ZoneStatement
  | TableStatement
  | InterfaceStatement
  | KnownStatement
  | PassageStatement
  | LeaveStatement
  | SendStatement
  | DoorStatement
  | ExpectStatement
  | CircuitStatement
  | SwitchStatement
  | StationStatement
  | FarStatement;

/** A statement of one kind. */
export type StatementOf<K extends Kind> = Extract<Statement, { kind: K }>;

/** What reading found wrong: a fault of form, or a value that reads but cannot be. */
export interface ReadProblem {
  readonly code:
    | 'syntax'
    | 'name-reserved'
    | 'mask-missing'
    | 'mask-invalid'
    | 'tag-range'
    | 'lends-empty'
    | 'range-reversed';
  readonly file: string;
  readonly at: Span;
  /** `interface/studio`, or `line 7` where not even that could be read. */
  readonly subject: string;
  /** What was met and what was expected, as values for the sentence. */
  readonly values: Readonly<Record<string, string>>;
  /** A replacement of the span that is likely meant. */
  readonly proposal?: { readonly text: string; readonly at: Span };
  /** Whether the statement as a whole cannot count (so it counts as it last could be read). */
  readonly fatal: boolean;
}

/** One file, read. */
export interface Document {
  readonly file: string;
  readonly text: string;
  readonly statements: readonly Statement[];
  readonly problems: readonly ReadProblem[];
}
