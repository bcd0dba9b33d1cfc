/** What a Site is made of: the statements of all files together, names resolved, as immutable values. */
import type { DhcpOption, Ip, Ipv4, Mac, Prefix, Range } from '#core/addr';
import type { Day } from '#core/base';
import type { AnswersClause, Document, Span, Statement, StatementOf } from '#core/notation';

/** A zone with its place in the order of trust. */
export interface Zone {
  readonly name: string;
  /** 0 is the outermost. */
  readonly trust: number;
  readonly upstream: boolean;
  readonly dmz: boolean;
  readonly management: boolean;
  /** What happens between two of its interfaces when no passage says otherwise. */
  readonly within: 'allow' | 'drop';
  /** The tint that it asks for, 1–6. */
  readonly tint?: number;
  readonly statement: StatementOf<'zone'>;
}

/** A static address of an interface. */
export interface OwnAddress {
  readonly prefix: Prefix;
  readonly at: Span;
  readonly primary: boolean;
  /** Shared with the twin: only the active one of both has it. */
  readonly virtual?: boolean;
}

/** A pool of a DHCP server. */
export interface Pool {
  readonly ranges: readonly Range[];
  /** How long a lease lasts. */
  readonly seconds: number;
  /** The gateway that it tells; the interface's own address where absent. */
  readonly gateway?: Ip;
  /** The resolvers that it tells; none: the box, or those of the box. */
  readonly names: readonly Ip[];
}

export interface Reserved {
  readonly address: Ip;
  readonly mac: Mac;
  readonly label?: string;
}

/** A layer-3 interface with its references resolved. */
export interface Interface {
  readonly name: string;
  readonly statement: StatementOf<'interface'>;
  /** Ports it uses, in order; none for a loopback or where the carrier could not be read. */
  readonly ports: readonly string[];
  /** The 802.1Q tag, absent for untagged. */
  readonly tag?: number;
  /** The priority code of its tagged frames, 0–7. */
  readonly pcp: number;
  readonly zone?: Zone;
  readonly table: string;
  readonly off: boolean;
  /** Static addresses of both families, the primary IPv4 address first. */
  readonly addresses: readonly OwnAddress[];
  /** What it shares with the twin of the box (RFC 9568); absent where its primary address is not written. */
  readonly shared?: {
    readonly id: number;
    readonly addresses: readonly Ipv4[];
    /** The twin's own address on this interface. */
    readonly other?: Ipv4;
  };
  /** How the primary IPv4 address is got when it is not written. */
  readonly dynamic?: 'dhcp' | 'pppoe';
  /** Where the IPv4 default route leads, its default already applied (`learned` with dhcp and pppoe). */
  readonly gateway:
    | {
        readonly by: 'address';
        readonly address: Ip;
        /** Reached on the link itself, outside the subnets. */
        readonly onlink: boolean;
      }
    | { readonly by: 'learned' | 'none' };
  /** How IPv6 addresses are got beside those that are written. */
  readonly auto6: {
    readonly slaac: boolean;
    readonly dhcpv6: boolean;
    /** A /64 of what is delegated on an uplink, by its number. */
    readonly from: readonly { readonly interface: string; readonly subnet: number }[];
  };
  /** Whether it speaks IPv6 at all: it has any `address6`. */
  readonly speaks6: boolean;
  /** As `gateway`, for IPv6; `learned` from router advertisements with any `address6 by`. */
  readonly gateway6: Interface['gateway'];
  /** Not off, and in an upstream zone or with a gateway of either family. */
  readonly uplink: boolean;
  readonly priority: number;
  /** Its part, 1 to 16, of what uplinks of its table and priority share. */
  readonly share?: number;
  /** It rests, and is neither dialled nor asked, until no other uplink of its table lives. */
  readonly onDemand: boolean;
  /** What carries it; absent where that could not be read. */
  readonly carrier?: 'on' | 'bridge' | 'pppoe' | 'loopback';
  /** Of a PPPoE session. */
  readonly login?: { readonly user: string; readonly secret?: string };
  /** Public addresses that the provider gives it beside its own subnet. */
  readonly block?: { readonly prefix: Prefix; readonly routed: boolean };
  /** Far addresses that are pinged through it; seconds between two pings, losses that make it dead, seconds until it is used again. */
  readonly watch: {
    readonly addresses: readonly Ip[];
    readonly every: number;
    readonly lost: number;
    readonly settle: number;
  };
  /** Whether it refuses flows from sources that have no business there. */
  readonly guard: boolean;
  readonly advertises: boolean;
  /** Octets, where it says so itself. */
  readonly mtu?: number;
  readonly mss?: number | 'auto' | 'off';
  readonly mac?: Mac;
  /** What the box answers to packets that arrive on it. */
  readonly answers: readonly AnswersClause[];
  /** Of its DHCP server, used up in this order. */
  readonly pools: readonly Pool[];
  /** DHCP servers elsewhere that are asked for the clients here (RFC 2131 §4.1). */
  readonly relays: readonly Ipv4[];
  /** What its DHCP server tells beside, in the order written; with `only`, whom. */
  readonly options: readonly (DhcpOption & { readonly only?: Range })[];
  /** Addresses that only one station gets, in a pool or outside. */
  readonly reserved: readonly Reserved[];
  /** Resolvers used through it: written ones, and whether learned ones count. */
  readonly names: { readonly learned: boolean; readonly addresses: readonly Ip[] };
}

/** A physical port that something mentions. */
export interface Port {
  readonly name: string;
  readonly off: boolean;
  readonly mtu: number;
  readonly label: string;
  readonly mac?: Mac;
  /** Megabits a second; absent where nothing is said, or `auto`. */
  readonly speed?: number;
  /** The ports that it is made of, where it is a link aggregation (IEEE 802.1AX). */
  readonly over?: {
    readonly ports: readonly string[];
    readonly mode: 'lacp' | 'static';
    readonly fast: boolean;
  };
  /** The aggregation that it is part of: frames are that one's, and it has none of its own. */
  readonly within?: string;
  readonly statement?: StatementOf<'port'>;
}

/** A reference that cannot be followed, or a name declared twice. */
export type NameProblem = {
  readonly statement: Statement;
  readonly at: Span;
  readonly proposal?: string;
  /** Only a wiring could know the name, and there is none. */
  readonly mild: boolean;
} & (
  | {
      readonly code: 'name-unknown';
      /** `kinds`: what it could have been, as a phrase. */
      readonly values: { readonly name: string; readonly kinds: string; readonly likely: string };
    }
  | {
      readonly code: 'name-twice';
      readonly values: {
        readonly kind: string;
        readonly name: string;
        readonly line: string;
        readonly file: string;
      };
    }
);

export interface Site {
  /** The day that is asked about: what has an end is judged by it. Absent, nothing has ended. */
  readonly today?: Day;
  readonly documents: readonly Document[];
  readonly statements: readonly Statement[];
  readonly box?: StatementOf<'box'>;
  readonly ports: ReadonlyMap<string, Port>;
  /** In the order of trust, outermost first. */
  readonly zones: readonly Zone[];
  readonly interfaces: readonly Interface[];
  readonly tables: readonly StatementOf<'table'>[];
  readonly knowns: readonly StatementOf<'known'>[];
  readonly records: readonly StatementOf<'record'>[];
  readonly passages: readonly StatementOf<'passage'>[];
  readonly leaves: readonly StatementOf<'leave'>[];
  readonly sends: readonly StatementOf<'send'>[];
  readonly doors: readonly StatementOf<'door'>[];
  readonly expects: readonly StatementOf<'expect'>[];
  readonly circuits: readonly StatementOf<'circuit'>[];
  readonly switches: readonly StatementOf<'switch'>[];
  readonly routers: readonly StatementOf<'router'>[];
  readonly stations: readonly StatementOf<'station'>[];
  readonly fars: readonly StatementOf<'far'>[];
  /** It is the twin's side of a text of two boxes. */
  readonly isTwin?: boolean;
  /** Whether any statement says what is plugged in. */
  readonly wired: boolean;
  readonly nameProblems: readonly NameProblem[];
}
