/** Findings as data: codes with values and mends; the sentences are made elsewhere. */
import type { Model } from '#core/model';
import type { FileChange, Span, Statement } from '#core/notation';
import type { Reach, ReachMemory } from '#core/reach';

/** Error: will not work, or is dangerous. Warning: likely not as meant. Advice: could be better. */
export type Severity = 'error' | 'warning' | 'advice';

/** Every public code with its weight. Codes never change their meaning. */
export const SEVERITIES = {
  syntax: 'error',
  'name-unknown': 'error',
  'name-twice': 'error',
  'name-reserved': 'error',
  'range-reversed': 'error',
  'not-worked-yet': 'advice',
  'mask-missing': 'error',
  'mask-invalid': 'error',
  'address-special': 'error',
  'subnet-overlap': 'error',
  'subnet-duplicate-in-other-table': 'advice',
  'address-not-host': 'error',
  'address-duplicate': 'error',
  'mac-duplicate': 'error',
  'mask-differs': 'warning',
  'station-gateway-foreign': 'warning',
  'address-private-upstream': 'advice',
  'guard-blocks-upstream': 'warning',
  'also-other-subnet': 'advice',
  'also-not-covered': 'warning',
  'subnet-nearly-full': 'warning',
  'subnet-full': 'error',
  'port-unknown': 'error',
  'port-off': 'error',
  'interface-off': 'warning',
  'no-carrier': 'advice',
  'tag-range': 'error',
  'tag-duplicate': 'error',
  'name-tag-mismatch': 'advice',
  'tag-not-carried': 'warning',
  'tag-unclaimed': 'advice',
  'native-tag-clash': 'warning',
  'cable-twice': 'error',
  'jack-unknown': 'error',
  'switch-loop': 'error',
  'no-zone': 'error',
  'no-address': 'warning',
  'mtu-too-big': 'error',
  'mss-too-big': 'warning',
  'mss-off': 'warning',
  'secret-missing': 'warning',
  'bridge-member-busy': 'error',
  'bridge-member-twice': 'error',
  'bridge-one-member': 'advice',
  'zone-unused': 'advice',
  'table-unused': 'advice',
  'known-unused': 'advice',
  'zone-without-upstream': 'advice',
  'zone-contradiction': 'warning',
  'gateway-off-subnet': 'error',
  'gateway-is-self': 'error',
  'gateway-not-host': 'error',
  'aggregate-member-busy': 'error',
  'aggregate-one-sided': 'error',
  'aggregate-unlike': 'warning',
  'aggregate-one-member': 'advice',
  'block-unrouted': 'warning',
  'behind-unrouted': 'warning',
  'router-gateway-foreign': 'warning',
  'answers-around': 'warning',
  'gateway-inside': 'warning',
  'no-default-route': 'error',
  'uplink-tie': 'warning',
  'share-alone': 'warning',
  'name-unresolved': 'warning',
  'delegated-written': 'advice',
  'on-demand-alone': 'warning',
  'virtual-off-subnet': 'error',
  'twin-half': 'warning',
  'gateway-not-shared': 'warning',
  'public-not-shared': 'warning',
  'uplink-unwatched': 'warning',
  'watch-single': 'advice',
  'route-unreachable': 'error',
  'route-shadowed': 'warning',
  'guard-missing': 'advice',
  'no-names': 'warning',
  'names-unreachable': 'warning',
  'names-unlisted': 'advice',
  'time-missing': 'advice',
  'slaac-not-64': 'error',
  'no-default-route6': 'warning',
  'v6-open': 'warning',
  'advertises-without-address': 'error',
  'answers-open-upstream': 'error',
  'answers-on-dmz': 'warning',
  'ping-silent': 'advice',
  'no-way-in': 'error',
  'first-password': 'error',
  'plain-http': 'warning',
  'seat-cut': 'error',
  'suffix-nowhere': 'warning',
  'record-unserved': 'warning',
  'record-to-lent': 'warning',
  'option-owned': 'error',
  'option-unused': 'warning',
  'relay-unanswered': 'warning',
  'lends-outside-subnet': 'error',
  'lends-covers-box': 'error',
  'lends-covers-fixed': 'warning',
  'lends-empty': 'error',
  'lends-overlap': 'error',
  'lends-on-client': 'error',
  'lends-upstream': 'error',
  'lends-on-dmz': 'advice',
  'lends-two-servers': 'error',
  'lends-gateway-foreign': 'warning',
  'lends-no-names': 'warning',
  'lends-too-small': 'warning',
  'names-unanswered': 'error',
  'keep-outside-subnet': 'error',
  'keep-duplicate': 'error',
  'passage-shadowed': 'warning',
  'passage-empty': 'warning',
  'passage-open': 'warning',
  'passage-inward': 'advice',
  'dmz-inward': 'error',
  'upstream-inward': 'error',
  'leave-missing': 'error',
  'leave-foreign': 'error',
  'leave-shadowed': 'warning',
  'until-past': 'warning',
  'until-soon': 'advice',
  'leave-lost-on-failover': 'warning',
  'door-foreign': 'error',
  'door-clash': 'error',
  'door-ports-unequal': 'error',
  'door-to-nowhere': 'error',
  'door-ambiguous': 'error',
  'door-to-lent': 'warning',
  'door-not-listening': 'advice',
  'door-lost-on-failover': 'warning',
  'door-leaves-elsewhere': 'advice',
  'expectation-failed': 'error',
} as const satisfies Readonly<Record<string, Severity>>;

export type Code = keyof typeof SEVERITIES;

/** Values for a sentence, already as text. */
export type Values = Readonly<Record<string, string>>;

/** What can be done about a finding, with the values that its label is made of. */
export interface MendValues {
  replace: { readonly text: string };
  rename: { readonly text: string };
  'make-zone': { readonly name: string };
  'move-subnet': { readonly name: string; readonly to: string };
  'use-address': { readonly address: string };
  'set-length': { readonly length: string };
  'set-station-length': { readonly station: string; readonly length: string };
  'set-station-gateway': { readonly station: string; readonly address: string };
  'remove-guard': { readonly name: string };
  'name-too': { readonly added: string };
  'second-subnet': { readonly net: string; readonly range: string };
  widen: { readonly length: string; readonly fixed: string };
  'port-on': { readonly port: string };
  'interface-on': { readonly name: string };
  merge: { readonly name: string; readonly into: string };
  'use-tag': { readonly tag: string };
  'carry-tag': { readonly switch: string; readonly tag: string };
  'set-zone': { readonly zone: string };
  'by-pppoe': Record<never, never>;
  'by-dhcp': Record<never, never>;
  'set-mtu': { readonly mtu: string };
  'set-mss': { readonly mss: string };
  'drop-interface': { readonly name: string };
  'leave-bridge': { readonly port: string; readonly name: string };
  'leave-aggregate': { readonly name: string; readonly port: string };
  'plug-aggregate': { readonly switch: string; readonly name: string };
  'aggregate-by': { readonly mode: string };
  'switch-links': { readonly switch: string; readonly mode: string };
  'box-serves-names': { readonly names: string };
  'option-not': { readonly code: string };
  'relay-to': { readonly address: string; readonly station: string };
  once: { readonly port: string };
  'plain-port': { readonly port: string };
  'use-secret': { readonly user: string };
  'by-dhcpv6': Record<never, never>;
  'learn-gateway6': Record<never, never>;
  'number-from': { readonly text: string };
  'make-upstream': { readonly zone: string };
  'remove-word': { readonly word: string };
  'use-gateway': { readonly address: string; readonly circuit?: string };
  onlink: { readonly address: string };
  'route-block': { readonly circuit: string; readonly block: string; readonly address: string };
  'gateway-to-pool': { readonly address: string };
  'remove-gateway': { readonly name: string };
  'write-instead': { readonly text: string };
  'share-both': { readonly name: string; readonly other: string };
  'share-beside': { readonly name: string; readonly other: string };
  'set-priority': { readonly name: string; readonly priority: string };
  'add-watch': { readonly address: string };
  'add-guard': { readonly name: string };
  'use-names': { readonly addresses: string };
  'use-time': { readonly addresses: string };
  'answer-not': { readonly services: string; readonly name: string };
  'answer-ping': { readonly names: string };
  'answer-login': { readonly name: string };
  'https-instead': { readonly name: string };
  'use-range': { readonly range: string };
  'lend-not': { readonly name: string };
  'serve-names': { readonly name: string };
  'answer-dns': { readonly name: string };
  'remove-keep': { readonly who: string };
  'move-before': { readonly line: string };
  'remove-statement': { readonly line: string };
  'add-leave': { readonly text: string };
  'leave-instead': { readonly text: string };
  'inside-services': { readonly services: string };
  'public-resolver': { readonly text: string };
  'answer-elsewhere': { readonly services: string; readonly name: string; readonly other: string };
  'door-at': { readonly address: string };
  'door-at-interface': { readonly name: string };
  'door-on': { readonly name: string };
  'keep-for': { readonly address: string; readonly who: string };
  'add-statement': { readonly text: string };
  'leave-as-interface': { readonly name: string };
}

export type MendCode = keyof MendValues;

/** A likely right edit of the text. `what` says what is done. */
export type Mend = {
  [W in MendCode]: {
    readonly what: W;
    readonly values: MendValues[W];
    readonly changes: readonly FileChange[];
  };
}[MendCode];

export interface Finding {
  /** The same for the same fault as long as it is there, whatever is edited elsewhere; no two of a site share one. */
  readonly id: string;
  readonly code: Code;
  readonly severity: Severity;
  /** `interface/studio`. */
  readonly subject: string;
  readonly file: string;
  readonly at: Span;
  readonly values: Values;
  /** Other statements that take part. */
  readonly others: readonly Statement[];
  readonly mends: readonly Mend[];
}

/** What only life knows; absent where nobody asked the box. */
export interface Observed {
  /** Ports that the box reported. */
  readonly ports?: readonly string[];
  /** Whether the box still has the password it came with. */
  readonly factoryPassword?: boolean;
}

/** All that a check may look at. */
export interface Context extends Model {
  /** What passes between any two places, with every uplink live. */
  readonly reach: Reach;
  /** What was reckoned of the reach of earlier sites. */
  readonly memory: ReachMemory;
  readonly observed: Observed;
}

/** What a check reports; the runner adds code, weight and place. */
export interface Found<V extends Values = Values> {
  readonly statement: Statement;
  /** Where in the statement; its head where absent. */
  readonly at?: Span;
  readonly subject?: string;
  readonly values: V;
  readonly others?: readonly Statement[];
  readonly mends?: readonly Mend[];
  /** Only where the contract gives a code two weights. */
  readonly severity?: Severity;
}

/** One check: one code, one pure function. */
export interface Check<C extends Code = Code, F extends Found = Found> {
  readonly code: C;
  readonly run: (context: Context) => Iterable<F>;
}

/** States a check. The values that its findings carry are known by their names from what it yields. */
export const check = <C extends Code, F extends Found>(stated: Check<C, F>): Check<C, F> => stated;

/** The values that the findings of a check carry. */
export type ValuesOfCheck<K> = K extends Check<Code, infer F> ? F['values'] : never;
