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
  'gateway-inside': 'warning',
  'no-default-route': 'error',
  'uplink-tie': 'warning',
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

/** A likely right edit of the text. `what` names the sentence of its label. */
export interface Mend {
  readonly what: string;
  readonly values: Values;
  readonly changes: readonly FileChange[];
}

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
export interface Found {
  readonly statement: Statement;
  /** Where in the statement; its head where absent. */
  readonly at?: Span;
  readonly subject?: string;
  readonly values: Values;
  readonly others?: readonly Statement[];
  readonly mends?: readonly Mend[];
  /** Only where the contract gives a code two weights. */
  readonly severity?: Severity;
}

/** One check: one code, one pure function. */
export interface Check {
  readonly code: Code;
  readonly run: (context: Context) => Iterable<Found>;
}
