/**
 * Reads a provider's sheet as people get it: free text, a mail, a table. Says what it found, lacks and contradicts.
 * Every value of the statement stands on the sheet: what is not there is missing, never made up.
 */
import {
  broadcastOf,
  contains,
  formatIp,
  formatPrefix,
  hostRange,
  isIpv4,
  networkOf,
  parseIpv4,
  parsePrefix,
  rangeContains,
} from '#core/addr';
import type { Ip, Ipv4, Ipv6, Prefix, Range } from '#core/addr';
import { layOut, printString } from '#core/notation';
import { plain } from './labels';
import { scan } from './scan';
import type { Odd, Scanned, Value } from './scan';
import { sectionsOf } from './sections';

/** What a sheet says. Absent: it does not say. */
export interface SheetFound {
  readonly kind: 'static' | 'dhcp' | 'pppoe';
  readonly address?: string;
  readonly length?: number;
  readonly gateway?: string;
  /** The gateway is reached on the link itself, outside the subnet. */
  readonly onlink?: boolean;
  /** Further addresses on the link: single ones with their length, and ranges. */
  readonly also?: readonly string[];
  /** The address that a DHCP server or a session always gives. */
  readonly reserved?: string;
  readonly names?: readonly string[];
  /** The provider's block or subnet, where it is named. */
  readonly network?: string;
  /** Addresses the customer may use. */
  readonly usable?: string;
  /** A further block, routed to the customer. */
  readonly block?: string;
  readonly time?: readonly string[];
  readonly vlan?: number;
  readonly user?: string;
  readonly secret?: string;
  readonly mtu?: number;
  /** Everything of IPv6 that is written. */
  readonly ipv6?: readonly string[];
  readonly address6?: string;
  readonly gateway6?: string;
  /** How IPv6 addresses are learned, as the notation says it. */
  readonly auto6?: 'slaac' | 'dhcpv6' | 'slaac and dhcpv6';
}

/** One thing on the sheet that does not fit another, or is no value. */
export interface Contradiction {
  readonly code:
    | 'gateway-outside'
    | 'gateway-is-address'
    | 'gateway-twice'
    | 'address-not-host'
    | 'address-twice'
    | 'mask-twice'
    | 'usable-outside'
    | 'address-outside-network'
    | 'address-outside-usable'
    | 'vlan-twice'
    | 'user-twice'
    | 'secret-twice'
    | 'mtu-twice'
    | 'routed-elsewhere'
    | 'block-not-network'
    | Odd['code'];
  readonly values: Readonly<Record<string, string>>;
}

export interface Handoff {
  readonly found: SheetFound;
  /** Names of fields: `address`, `length`, `gateway`, `names`, `user`, `secret`. */
  readonly missing: readonly string[];
  readonly contradictions: readonly Contradiction[];
  /** The statement it would write. */
  readonly statement: string;
  /** Where the sheet speaks of several circuits: each of them; the first stands above too. */
  readonly circuits?: readonly Handoff[];
}

export interface HandoffOptions {
  /** The name of the interface, its port and zone. */
  readonly name?: string;
  readonly port?: string;
  readonly zone?: string;
}

/** Reads a sheet. Never throws; an empty sheet misses everything. */
export function readHandoff(text: string, options: HandoffOptions = {}): Handoff {
  const { name = 'uplink' } = options;
  const circuits = sectionsOf(text).map((section, i) =>
    readCircuit(section, i === 0 ? options : { ...options, name: `${name}-${i + 1}`, port: `p${i + 1}` }),
  );
  const [first] = circuits;
  return circuits.length > 1 ? { ...first!, circuits } : first!;
}

function readCircuit(text: string, options: HandoffOptions): Handoff {
  const scanned = scan(text);
  const contradictions: Contradiction[] = scanned.odd.map(({ code, written }) => ({
    code,
    values: { written, mask: written },
  }));
  const once = (field: 'vlan' | 'mtu' | 'user' | 'secret') => {
    const [first, second] = scanned.words.get(field) ?? [];
    if (second !== undefined) {
      // Of two secrets only that there are two is told.
      const values: Readonly<Record<string, string>> = field === 'secret' ? {} : { first: first!, second };
      contradictions.push({ code: `${field}-twice`, values });
    }
    return first;
  };
  const [vlan, mtu, user, secret] = [once('vlan'), once('mtu'), once('user'), once('secret')];
  const { kind, own, also, gateway, onlink, length, net, range, routed, names, time } = four(
    text,
    scanned,
    contradictions,
  );
  const isStatic = kind === 'static';
  const found: SheetFound = {
    kind,
    ...(isStatic && own !== undefined ? { address: formatIp(own) } : {}),
    ...(isStatic && length !== undefined ? { length } : {}),
    ...(isStatic && gateway !== undefined ? { gateway: formatIp(gateway) } : {}),
    ...(isStatic && onlink ? { onlink: true } : {}),
    ...(isStatic && also.length ? { also } : {}),
    ...(!isStatic && own !== undefined ? { reserved: formatIp(own) } : {}),
    ...(names.length ? { names: names.map(formatIp) } : {}),
    ...(net ? { network: formatPrefix(net) } : {}),
    ...(range ? { usable: `${formatIp(range.first)}-${formatIp(range.last)}` } : {}),
    ...(routed && networkOf(routed).address === routed.address ? { block: formatPrefix(routed) } : {}),
    ...(time.length ? { time: time.map(formatIp) } : {}),
    ...(vlan === undefined ? {} : { vlan: Number(vlan) }),
    ...(user === undefined ? {} : { user }),
    ...(secret === undefined ? {} : { secret }),
    ...(mtu === undefined ? {} : { mtu: Number(mtu) }),
    ...six(text, scanned),
  };
  return { found, missing: missingOf(found), contradictions, statement: statementFor(found, options) };
}

/** What a line of its kind cannot do without, and the sheet does not say. */
function missingOf(found: SheetFound): string[] {
  if (found.kind === 'dhcp') return [];
  const lacks = (...fields: readonly ('address' | 'length' | 'gateway' | 'gateway6' | 'user' | 'secret')[]) =>
    fields.filter((f) => found[f] === undefined);
  if (found.kind === 'pppoe') return lacks('user', 'secret');
  // Who has a whole IPv6 line needs no IPv4 one.
  const only6 = found.address === undefined && found.gateway === undefined && found.address6 !== undefined;
  const four = only6 ? lacks('gateway6').map(() => 'gateway') : lacks('address', 'length', 'gateway');
  return [...four, ...(found.names?.length ? [] : ['names'])];
}

/** What rows that somebody wrote lack, and what in them does not fit. */
export function judge(found: SheetFound): Pick<Handoff, 'missing' | 'contradictions'> {
  const contradictions: Contradiction[] = [];
  if (found.kind === 'static') {
    const net = found.network === undefined ? undefined : parsePrefix(found.network);
    const [first, last] = (found.usable?.split('-') ?? []).map(parseIpv4);
    check(contradictions, {
      address: found.address === undefined ? undefined : parseIpv4(found.address),
      gateway: found.gateway === undefined ? undefined : parseIpv4(found.gateway),
      length: found.length,
      net: net && isIpv4(net.address) ? (net as Prefix<Ipv4>) : undefined,
      range: first !== undefined && last !== undefined ? { first, last } : undefined,
      onlink: found.onlink === true,
    });
  }
  return { missing: missingOf(found), contradictions };
}

const NO_DHCP =
  /(?:\bno|without|kein|ohne|sans|sin|geen|zonder|bez|senza|sem|ingen|inget|utan|not use|statt|instead of) dhcp\b|\bdhcp\b(?:[ -]?(?:server|client))? ?[:=]? ?(?:no\b|off|disabled|none|nein|aus\b|non\b|nicht|is not|not |nee\b|nie\b|ne\b)/;
const BY_DHCP =
  /\b(?:hand-?off|hand-?over|address(?:ing|es)?|assign\w*|assigned|access|zugang|zugangsart|ubergabe|ubergabeart|adressvergabe|adresszuweisung|type|typ|tipo|config\w*|konfiguration|mode|modus|methode|method|wan|ip|protocol|protokoll|oplevering|levering|affectation|attribution|asignacion|entrega|przydzial|adresacja|assegnazione|consegna|atribuicao|pridelovani|tilldelning)\b[^\n:=.;]{0,20}(?:[:=|\t]|\bis\b|\bvia\b|\bby\b|\bper\b|\bpar\b|\bpor\b|\bprzez\b|\btramite\b|\bmet\b|\bpres\b|\bgenom\b)\s*dhcp\b|\b(?:by|via|per|par|por|przez|tramite|pres|genom|using|mit|avec|con|met|com) dhcp\b/;

/** What the sheet says of IPv4. */
function four(text: string, scanned: Scanned, contradictions: Contradiction[]) {
  const values = scanned.values.filter((v): v is Value & { address: Ipv4 } => isIpv4(v.address));
  const of = (field: Value['field']) => values.filter((v) => v.field === field);
  const lower = plain(text);
  const gateways = unique(of('gateway').map((v) => v.address));
  const [gateway] = gateways;
  const twice = (code: 'gateway-twice' | 'address-twice', first: Ipv4, second: Ipv4) =>
    contradictions.push({ code, values: { first: formatIp(first), second: formatIp(second) } });
  if (gateways.length > 1) twice('gateway-twice', gateways[0]!, gateways[1]!);
  const names = unique(scanned.values.filter((v) => v.field === 'names').map((v) => v.address));
  const time = unique(scanned.values.filter((v) => v.field === 'time').map((v) => v.address));
  const routedValue = of('routed').find((v) => v.length !== undefined);
  const routed = routedValue && { address: routedValue.address, length: routedValue.length! };
  if (routed && networkOf(routed).address !== routed.address)
    contradictions.push({ code: 'block-not-network', values: { block: formatPrefix(routed) } });
  const unlabelled = values.filter((v) => !v.field && v.address !== gateway);
  const usableValue = of('usable')[0] ?? of('network').find((v) => v.last !== undefined);
  const addressed = of('address');
  const reservedValue = of('reserved')[0];
  const network =
    of('network').find((v) => v.length !== undefined || scanned.lengths.length) ??
    of('network')[0] ??
    unlabelled.find(isNetwork);
  const said =
    addressed[0] ??
    reservedValue ??
    unlabelled.find((v) => v.length !== undefined && !isNetwork(v)) ??
    unlabelled.find((v) => v.length === undefined && v.last === undefined);
  const known = [said?.length, ...scanned.lengths, network?.length].filter((l) => l !== undefined);
  const [length] = known;
  const different = known.find((l) => l !== length);
  if (different !== undefined)
    contradictions.push({
      code: 'mask-twice',
      values: { first: `/${length}`, second: `/${different}` },
    });
  const net = network && by(network, network.length ?? length);
  const spread = usableValue ?? (said?.last === undefined ? undefined : said);
  const range = spread && rangeOf(spread, gateway);
  let own = said?.last === undefined ? said?.address : undefined;
  if (routedValue?.routedTo !== undefined) {
    own ??= routedValue.routedTo;
    if (routedValue.routedTo !== own)
      contradictions.push({
        code: 'routed-elsewhere',
        values: { block: formatPrefix(routed!), to: formatIp(routedValue.routedTo), address: formatIp(own) },
      });
  }
  // The first usable address stands on the sheet; where that is the gateway, which one is ours is not said.
  if (own === undefined && range && range.first !== gateway) own = range.first;
  const further = [
    ...addressed.slice(1).filter((v) => v.label === addressed[0]!.label && v.label !== undefined),
    ...of('further'),
  ].filter((v) => v.address !== own || v.last !== undefined);
  const other = addressed.find((v) => v.address !== own && v.last === undefined && !further.includes(v));
  if (own !== undefined && other) twice('address-twice', own, other.address);
  const onlink =
    gateway !== undefined &&
    own !== undefined &&
    gateway !== own &&
    (length === 32 || (values.some((v) => v.field === 'gateway' && v.onlink) && !isIn(own, length, gateway)));
  check(contradictions, {
    address: own,
    gateway,
    length,
    net: net ?? (own === undefined ? undefined : by({ address: own }, length)),
    range,
    onlink,
  });
  const also = further.flatMap((v) =>
    v.last !== undefined
      ? v.last >= v.address && length !== undefined
        ? [`${formatIp(v.address)}-${formatIp(v.last)}`]
        : []
      : (v.length ?? length) === undefined
        ? []
        : [`${formatIp(v.address)}/${v.length ?? length}`],
  );
  return {
    kind: kindOf(lower, scanned, said !== undefined && gateway !== undefined),
    own,
    also,
    gateway,
    onlink,
    length,
    net,
    range,
    routed,
    names,
    time,
  };
}

/** How the address is got: what the sheet says of it, else what it gives. */
function kindOf(lower: string, scanned: Scanned, complete: boolean): SheetFound['kind'] {
  const login = scanned.words.has('user') && (scanned.words.has('secret') || !complete);
  if (/pppoe/.test(lower.replace(/(?:no|not|without|kein|ohne|sans|sin|geen|bez|senza|sem) pppoe/g, '')))
    return 'pppoe';
  if (login && !complete) return 'pppoe';
  if (!NO_DHCP.test(lower)) {
    if (BY_DHCP.test(lower)) return 'dhcp';
    const own = scanned.values.some(
      (v) => isIpv4(v.address) && (!v.field || ['address', 'gateway', 'usable', 'network'].includes(v.field)),
    );
    if (
      !own &&
      /\bdhcp\b|automatic|automatisch|automatique|automatica|automatycznie|automaticky|automatiskt|dynami|dinamic/.test(
        lower,
      )
    )
      return 'dhcp';
  }
  return 'static';
}

/** What the sheet says of IPv6. */
function six(text: string, scanned: Scanned): Partial<SheetFound> {
  const values = scanned.values.filter((v): v is Value & { address: Ipv6 } => !isIpv4(v.address));
  const lower = plain(text);
  const slaac = /\bslaac\b|stateless|router advertisement/.test(lower);
  const dhcpv6 = /\bdhcpv6\b(?! ?-? ?(?:pd|prefix))/.test(lower);
  const auto6 = slaac && dhcpv6 ? 'slaac and dhcpv6' : slaac ? 'slaac' : dhcpv6 ? 'dhcpv6' : undefined;
  const lengthOf = (v: Value) => v.length ?? scanned.lengths6[0];
  const host = (v: Value) => {
    const length = lengthOf(v);
    const prefix = length === undefined ? undefined : { address: v.address, length };
    return prefix && (length! >= 127 || networkOf(prefix).address !== v.address) ? prefix : undefined;
  };
  const own = [...values.filter((v) => v.field === 'address'), ...values.filter((v) => !v.field)]
    .map(host)
    .find((p) => p !== undefined);
  const gateway = values.find((v) => v.field === 'gateway');
  const written = unique(
    values.filter((v) => v.field !== 'names' && v.field !== 'time').map((v) => v.address),
  );
  return {
    ...(written.length
      ? {
          ipv6: written.map((a) => {
            const length = values.find((v) => v.address === a && v.length !== undefined)?.length;
            return `${formatIp(a)}${length === undefined ? '' : `/${length}`}`;
          }),
        }
      : {}),
    ...(own ? { address6: formatPrefix(own) } : {}),
    ...(gateway ? { gateway6: formatIp(gateway.address) } : {}),
    ...(auto6 && !own ? { auto6 } : {}),
  };
}

const unique = <T extends Ip>(list: readonly T[]): T[] => [...new Set(list)];

const isNetwork = (v: { readonly address: Ip; readonly length?: number }): boolean =>
  v.length !== undefined &&
  v.length < 31 &&
  networkOf({ address: v.address, length: v.length }).address === v.address;

const by = (v: { readonly address: Ipv4 }, length: number | undefined): Prefix<Ipv4> | undefined =>
  length === undefined ? undefined : networkOf({ address: v.address, length });

const isIn = (own: Ipv4, length: number | undefined, address: Ipv4): boolean =>
  length !== undefined && contains(networkOf({ address: own, length }), address);

function rangeOf(value: Value & { address: Ipv4 }, gateway: Ipv4 | undefined): Range<Ipv4> | undefined {
  if (value.last !== undefined)
    return value.last >= value.address ? { first: value.address, last: value.last } : undefined;
  if (value.length !== undefined && isNetwork(value))
    return hostRange({ address: value.address, length: value.length });
  return value.address === gateway ? undefined : { first: value.address, last: value.address };
}

function check(
  out: Contradiction[],
  it: {
    readonly address?: Ipv4;
    readonly gateway?: Ipv4;
    readonly length?: number;
    readonly net?: Prefix<Ipv4>;
    readonly range?: Range<Ipv4>;
    readonly onlink: boolean;
  },
): void {
  const { address, gateway, length, net, range, onlink } = it;
  if (address !== undefined && length !== undefined) {
    const own = networkOf({ address, length });
    if (gateway !== undefined && gateway !== address && !onlink && !contains(own, gateway))
      out.push({
        code: 'gateway-outside',
        values: { gateway: formatIp(gateway), network: formatPrefix(own) },
      });
    if (length < 31 && (address === own.address || address === broadcastOf(own)))
      out.push({
        code: 'address-not-host',
        values: { address: formatIp(address), network: formatPrefix(own) },
      });
    if (net && !contains(net, address))
      out.push({
        code: 'address-outside-network',
        values: { address: formatIp(address), network: formatPrefix(net) },
      });
    if (range && (!contains(own, range.first) || !contains(own, range.last)))
      out.push({
        code: 'usable-outside',
        values: { usable: `${formatIp(range.first)}-${formatIp(range.last)}`, network: formatPrefix(own) },
      });
  } else if (address === undefined && net && gateway !== undefined && !contains(net, gateway))
    out.push({
      code: 'gateway-outside',
      values: { gateway: formatIp(gateway), network: formatPrefix(net) },
    });
  if (address !== undefined && gateway === address)
    out.push({ code: 'gateway-is-address', values: { gateway: formatIp(gateway) } });
  if (address !== undefined && range && !rangeContains(range, address))
    out.push({
      code: 'address-outside-usable',
      values: { address: formatIp(address), usable: `${formatIp(range.first)}-${formatIp(range.last)}` },
    });
}

/** The statement that a sheet's findings make; what is missing is left out. */
export function statementFor(found: SheetFound, options: HandoffOptions = {}): string {
  const { name = 'uplink', port = 'p1', zone = 'world' } = options;
  const tag = found.vlan === undefined ? '' : ` tag ${found.vlan}`;
  const clauses: string[] = [];
  if (found.kind === 'pppoe') {
    const user = found.user === undefined ? '' : ` user ${printString(found.user)}`;
    const secret = found.secret === undefined ? '' : ` secret ${printString(found.secret)}`;
    clauses.push(`pppoe on ${port}${tag}${user}${secret}`);
  } else clauses.push(`on ${port}${tag}`);
  clauses.push(`zone ${zone}`);
  if (found.kind === 'dhcp') clauses.push('address by dhcp');
  else if (found.kind === 'pppoe') clauses.push('address by pppoe');
  else if (found.address !== undefined)
    clauses.push(`address ${found.address}${found.length === undefined ? '' : `/${found.length}`}`);
  // Without a length of their own ranges lean on the address's.
  if (found.also?.length && (found.length !== undefined || !found.also.some((a) => a.includes('-'))))
    clauses.push(`also ${found.also.join(' ')}`);
  if (found.gateway !== undefined) clauses.push(`gateway ${found.gateway}${found.onlink ? ' onlink' : ''}`);
  if (found.address6 !== undefined) clauses.push(`address6 ${found.address6}`);
  else if (found.auto6 !== undefined) clauses.push(`address6 by ${found.auto6}`);
  if (found.gateway6 !== undefined) clauses.push(`gateway6 ${found.gateway6}`);
  if (found.block !== undefined) clauses.push(`block ${found.block} routed`);
  if (found.names?.length) clauses.push(`names ${found.names.join(' ')}`);
  if (found.mtu !== undefined) clauses.push(`mtu ${found.mtu}`);
  return layOut(`interface ${name}:`, clauses);
}

/** What the provider's line gives, as a sheet says: what a stand-in for it on the bench is set up by. */
export function lineTerms(found: SheetFound) {
  const { kind, address, length, gateway, names, vlan, user, secret, block } = found;
  const own = address !== undefined && length !== undefined ? parsePrefix(`${address}/${length}`) : undefined;
  const network = found.network ?? (own && formatPrefix(networkOf(own)));
  const routed = block !== undefined && address !== undefined ? { block, address } : undefined;
  return { kind, tag: vlan, user, secret, network, gateway, routed, names };
}
