/**
 * A site as JSON after YANG (RFC 7951): interfaces with their addresses by ietf-interfaces (RFC 8343) and ietf-ip
 * (RFC 8344), everything else by the module `jolly-gate`, clause by clause as the notation writes them.
 */
import { formatIp, isIpv4 } from '#core/addr';
import { printClauses, printHead } from '#core/notation';
import type { Statement, StatementOf } from '#core/notation';
import type { Interface, Site } from '#core/site';

/** One address of an interface. RFC 8344 §2. */
export interface YangAddress {
  readonly ip: string;
  readonly 'prefix-length': number;
}

export interface YangInterface {
  readonly name: string;
  readonly description?: string;
  /** An identity of iana-if-type (RFC 7224). */
  readonly type: string;
  readonly enabled: boolean;
  readonly 'ietf-ip:ipv4'?: { readonly mtu?: number; readonly address?: readonly YangAddress[] };
  readonly 'ietf-ip:ipv6'?: { readonly address?: readonly YangAddress[] };
  /** The clauses that say more than the leaves above. */
  readonly 'jolly-gate:clause'?: readonly string[];
}

export interface YangStatement {
  /** The key of the list: counts from 1. */
  readonly number: number;
  readonly kind: string;
  readonly head: string;
  readonly clause: readonly string[];
}

export interface YangSite {
  readonly 'ietf-interfaces:interfaces': { readonly interface: readonly YangInterface[] };
  /** All statements in their order; an interface is named only, and stands above. */
  readonly 'jolly-gate:site': { readonly statement: readonly YangStatement[] };
}

const TYPES = {
  on: 'iana-if-type:ethernetCsmacd',
  tag: 'iana-if-type:l2vlan',
  bridge: 'iana-if-type:bridge',
  pppoe: 'iana-if-type:ppp',
  loopback: 'iana-if-type:softwareLoopback',
} as const;

function typeOf({ carrier }: StatementOf<'interface'>): string {
  if (!carrier) return TYPES.on;
  return carrier.by === 'on' && carrier.tag ? TYPES.tag : TYPES[carrier.by];
}

/** What a clause says is said by a leaf of the standard models. */
function isLeaf(statement: StatementOf<'interface'>, text: string): boolean {
  const [name, value] = text.split(' ');
  if (name === 'note' || name === 'off') return true;
  if (name === 'mtu') return statement.mtu !== undefined;
  if (name === 'address') return statement.address?.value.by === 'static';
  return name === 'address6' && value !== 'by' && value !== 'from';
}

/** YANG knows no value twice in a list of settings, and said twice a clause or an address says no more. */
const once = (texts: readonly string[]): string[] => [...new Set(texts)];

function interfaceOf({ name, statement, addresses, off }: Interface): YangInterface {
  const of = (four: boolean): YangAddress[] =>
    [...new Map(addresses.filter((a) => !a.virtual).map((a) => [a.prefix.address, a])).values()]
      .filter((a) => isIpv4(a.prefix.address) === four)
      .map((a) => ({ ip: formatIp(a.prefix.address), 'prefix-length': a.prefix.length }));
  const [ipv4, ipv6] = [of(true), of(false)];
  const mtu = statement.mtu?.value;
  const clauses = once(printClauses(statement)).filter((c) => !isLeaf(statement, c));
  return {
    name,
    ...(statement.note ? { description: statement.note.value } : {}),
    type: typeOf(statement),
    enabled: !off,
    ...(ipv4.length || mtu !== undefined
      ? { 'ietf-ip:ipv4': { ...(mtu === undefined ? {} : { mtu }), address: ipv4 } }
      : {}),
    ...(ipv6.length ? { 'ietf-ip:ipv6': { address: ipv6 } } : {}),
    'jolly-gate:clause': clauses,
  };
}

/** The site as a document of its own. Every statement must be readable. */
export function writeYang(site: Site): YangSite {
  return {
    'ietf-interfaces:interfaces': { interface: site.interfaces.map(interfaceOf) },
    'jolly-gate:site': { statement: site.statements.map(statementOf) },
  };
}

function statementOf(statement: Statement, index: number): YangStatement {
  const head = printHead(statement)
    .slice(statement.kind.length + 1)
    .replace(/:$/, '');
  return {
    number: index + 1,
    kind: statement.kind,
    head,
    clause: statement.kind === 'interface' ? [] : once(printClauses(statement)),
  };
}
