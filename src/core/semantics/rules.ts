/** What the box does with a packet, stated once as data: ordered regions with their actions. */
import { IpSet, addressesIn, isIpv4, isNptLength, nptUntranslated, specialPrefixes } from '#core/addr';
import type { Family, Ip, Ipv6, Prefix, Range, ServiceItem, Services } from '#core/addr';
import { memo } from '#core/base';
import type { Day } from '#core/base';
import { MOST_MAPPED } from '#core/notation';
import type { AnswerName, AnswersClause, StatementOf, Who } from '#core/notation';
import { addressesOf, hasEnded, interfaceNamed, networksOf, zoneNamed } from '#core/site';
import type { Interface, Prospects, Site, Wiring, Zone } from '#core/site';
import { behindInterface } from './behind';
import { sharesOf } from './share';
import type { ShareRule } from './share';

/** One statement of passing: which flows it takes. An absent set takes every address. */
export interface PassageRule {
  /** `any` or a zone's name. */
  readonly from: string;
  readonly to: string;
  readonly sources?: IpSet;
  readonly destinations?: IpSet;
  /** Hosts by their suffix; their addresses of the moment are among sources and destinations already. */
  readonly sourceSuffixes: readonly HostSuffix[];
  readonly destinationSuffixes: readonly HostSuffix[];
  /** Known hosts with names; what these lead to at the moment is among sources and destinations already. */
  readonly sourceNames: readonly string[];
  readonly destinationNames: readonly string[];
  readonly services: Services;
  readonly verdict: 'allow' | 'drop' | 'reject';
  readonly log: boolean;
  /** The last day on which it counts. */
  readonly until?: Day;
  readonly statement: StatementOf<'passage'>;
}

/** Hosts by the last 64 bits of their addresses, at an interface. */
export interface HostSuffix {
  readonly suffix: bigint;
  readonly interface: string;
}

/** One statement of leaving: whose flows it takes, by which way out, and what they show. */
export interface LeaveRule {
  /** Arrival zones or interface this is for; absent with `sources` or for any. */
  readonly arrival?: { readonly zone?: string; readonly interface?: string };
  readonly sources?: IpSet;
  /** Known hosts with names among them. */
  readonly sourceNames: readonly string[];
  /** Names of the interfaces it goes out by. */
  readonly out: ReadonlySet<string>;
  readonly family: Family;
  readonly action:
    | { readonly as: 'interface' }
    | { readonly as: 'address'; readonly address: Ip }
    /** Prefix translation (RFC 6296). */
    | { readonly as: 'prefix'; readonly from: Prefix<Ipv6>; readonly to: Prefix<Ipv6> }
    | { readonly as: 'unchanged' }
    | { readonly as: 'never' };
  readonly statement: StatementOf<'leave'>;
}

/** One door: what arrives for a public address and service goes to an inside one. */
export interface DoorRule {
  readonly name: string;
  readonly outside: Ip;
  /** The interface whose learned address of the moment `outside` is. */
  readonly moment?: string;
  readonly services: Services;
  readonly inside: Ip;
  /** The inside services, item by item with the outside ones; the same where none are written. */
  readonly insideServices: Services;
  /** The interface whose table the inside address is looked up in; the arrival's where absent. */
  readonly on?: string;
  /** Who may instead of whom the rules would let. */
  readonly sources?: IpSet;
  /** Known hosts with names among them. */
  readonly sourceNames: readonly string[];
  readonly log: boolean;
  /** The last day on which it is open. */
  readonly until?: Day;
  readonly statement: StatementOf<'door'>;
}

/** One statement of sending: which uplink new flows of somebody take. */
export interface SendRule {
  readonly arrival?: LeaveRule['arrival'];
  readonly sources?: IpSet;
  readonly sourceNames: readonly string[];
  readonly services: Services;
  readonly by: string;
  /** Where that uplink is dead: another, none at all, or the usual order. */
  readonly otherwise?: { readonly interface: string } | 'never';
  readonly statement: StatementOf<'send'>;
}

/** One service that an interface answers. */
export interface AnswerRule {
  readonly name: AnswerName;
  readonly services: Services;
  readonly sources?: IpSet;
  readonly sourceSuffixes: readonly HostSuffix[];
  readonly sourceNames: readonly string[];
  readonly clause: AnswersClause;
}

/** All rules of a site, in the order in which they are asked. */
export interface Rules {
  readonly passages: readonly PassageRule[];
  readonly leaves: readonly LeaveRule[];
  readonly doors: readonly DoorRule[];
  readonly sends: readonly SendRule[];
  /** What of the usual order is shared out, by table and priority. */
  readonly shares: readonly ShareRule[];
  /** By interface name. */
  readonly answers: ReadonlyMap<string, readonly AnswerRule[]>;
}

/** The answers by which somebody gets into the box or reads what it is told. */
export const LOGINS: ReadonlySet<AnswerName> = new Set<AnswerName>(['ssh', 'http', 'https', 'snmp']);

/** The services that each answer opens; `port` moves all but ping. */
export function answerServices(name: AnswerName, port?: number): Services {
  const at = (proto: 6 | 17, usual: number): Services => [
    { kind: 'ports', proto, first: port ?? usual, last: port ?? usual },
  ];
  switch (name) {
    case 'ping':
      return [{ kind: 'ping' }];
    case 'ssh':
      return at(6, 22);
    case 'http':
      return at(6, 80);
    case 'https':
      return at(6, 443);
    case 'dns':
      return [...at(17, 53), ...at(6, 53)];
    case 'time':
      return at(17, 123);
    case 'snmp':
      return at(17, 161);
  }
}

/**
 * Compiles the rules: what has ended is none. What is learned (`prospects`) decides what an upstream zone's subnets
 * are.
 */
export function compileRules(site: Site, wiring: Wiring, prospects: Prospects): Rules {
  const set = (whos: readonly Who[]) =>
    whos.some((w) => w.type === 'any')
      ? undefined
      : IpSet.of(whos.flatMap((w) => addressesFor(site, wiring, prospects, w).ranges));
  const passages = site.passages
    .filter((s) => s.verdict && s.from.name && s.to.name && !hasEnded(site, s))
    .map((s) =>
      s.sources.length || s.destinations.length
        ? passageRule(site, s, set)
        : memo(plain, s, () => passageRule(site, s, set)),
    );
  const answers = new Map(
    site.interfaces.map((iface) => [
      iface.name,
      iface.answers.flatMap((clause): AnswerRule[] =>
        clause.services.map((service) => ({
          name: service.name,
          services: answerServices(service.name, service.port),
          sources: clause.from ? set(clause.from) : undefined,
          sourceSuffixes: suffixesIn(clause.from ?? []),
          sourceNames: namesIn(site, clause.from ?? []),
          clause,
        })),
      ),
    ]),
  );
  const doors = site.doors.flatMap((s) => doorRule(site, prospects, s, set));
  return { passages, doors, answers, ...outwardRules(site, wiring, prospects) };
}

/** The rules of leaving and sending alone. */
export function outwardRules(
  site: Site,
  wiring: Wiring,
  prospects: Prospects,
): Pick<Rules, 'leaves' | 'sends' | 'shares'> {
  const leaves = site.leaves.flatMap((s) => leaveRule(site, wiring, prospects, s));
  const sends = site.sends.map((s): SendRule => ({
    ...whoRule(site, wiring, prospects, s.who),
    services: s.services,
    by: s.by.name,
    otherwise: s.otherwise === 'never' ? 'never' : s.otherwise && { interface: s.otherwise.name },
    statement: s,
  }));
  return { leaves, sends, shares: sharesOf(site, prospects) };
}

/** Rules of statements that name no addresses, and so mean the same in every site. */
const plain = new WeakMap<StatementOf<'passage'>, PassageRule>();

const suffixesIn = (whos: readonly Who[]): readonly HostSuffix[] =>
  whos.flatMap((w) => (w.type === 'suffix' ? [{ suffix: w.suffix, interface: w.interface.name }] : []));

/** The known hosts among some that have names. */
const namesIn = (site: Site, whos: readonly Who[]): string[] =>
  whos.flatMap((w) =>
    w.type === 'name' &&
    kindOf(site, w) === 'known' &&
    site.knowns.some((k) => k.name === w.name && k.dnsNames.length)
      ? [w.name]
      : [],
  );

const passageRule = (
  site: Site,
  s: StatementOf<'passage'>,
  set: (whos: readonly Who[]) => IpSet | undefined,
): PassageRule => ({
  from: s.from.name,
  to: s.to.name,
  sources: s.sources.length ? set(s.sources) : undefined,
  destinations: s.destinations.length ? set(s.destinations) : undefined,
  sourceSuffixes: suffixesIn(s.sources),
  destinationSuffixes: suffixesIn(s.destinations),
  sourceNames: namesIn(site, s.sources),
  destinationNames: namesIn(site, s.destinations),
  services: s.services,
  verdict: s.verdict!,
  log: !!s.log,
  until: s.until?.value,
  statement: s,
});

/** The address that a door or its inside stands for, or undefined where it stands for none or for several. */
function doorRule(
  site: Site,
  prospects: Prospects,
  s: StatementOf<'door'>,
  set: (whos: readonly Who[]) => IpSet | undefined,
): DoorRule[] {
  const said = s.outside?.value;
  if (!said || !s.inside || hasEnded(site, s)) return [];
  const pairs = pairServices(s.services, s.insideServices);
  if (!pairs) return [];
  const rule = (outside: Ip, inside: Ip, moment?: string): DoorRule => ({
    name: s.name,
    outside,
    moment,
    services: pairs.outside,
    inside,
    insideServices: pairs.inside,
    on: s.on?.name,
    // `from any` opens it to everybody; without `from` the rules say to whom.
    sources: s.sources.length ? (set(s.sources) ?? EVERYONE) : undefined,
    sourceNames: namesIn(site, s.sources),
    log: !!s.log,
    until: s.until?.value,
    statement: s,
  });
  if ('prefix' in said) {
    const inside = s.inside.type === 'addresses' ? s.inside.prefix : undefined;
    return mapped(inside, said.prefix).map(([to, outside]) => rule(outside, to));
  }
  const iface = 'interface' in said ? interfaceNamed(site, said.interface.name) : undefined;
  const moment = iface?.dynamic ? iface.name : undefined;
  const outside =
    'address' in said
      ? said.address
      : ((iface && addressesOf(iface, prospects).find((a) => typeof a.address === 'number')?.address) ??
        (moment === undefined ? undefined : prospects.unknown));
  const named = s.inside.type === 'name' ? s.inside.name : undefined;
  const ranges = knownRanges(
    prospects,
    site.knowns.find((k) => k.name === named),
  );
  const known = ranges.length === 1 ? ranges[0] : undefined;
  const range = s.inside.type === 'addresses' ? s.inside.range : known;
  return outside === undefined || !range || range.first !== range.last
    ? []
    : [rule(outside, range.first, moment)];
}

const EVERYONE = IpSet.all(4).union(IpSet.all(6));

type Ports = Extract<ServiceItem, { kind: 'ports' }>;

/**
 * The outside and inside services of a door, item by item of the same size; undefined where their ports are not as many
 * on both sides, protocol by protocol, or where their protocols differ. Without inside services they are the same.
 */
export function pairServices(
  outside: Services,
  inside: Services | undefined,
): { readonly outside: Services; readonly inside: Services } | undefined {
  if (!inside) return { outside, inside: outside };
  const rest = (services: Services): ServiceItem[] => services.filter((s) => s.kind !== 'ports');
  const sameKind = (x: ServiceItem, y: ServiceItem) =>
    x.kind === y.kind && (x.kind !== 'proto' || (y.kind === 'proto' && x.proto === y.proto));
  const [a, b] = [rest(outside), rest(inside)];
  if (a.length !== b.length || !a.every((x, i) => sameKind(x, b[i]!))) return undefined;
  const out = { outside: [...a], inside: [...a] };
  for (const proto of [6, 17] as const) {
    const ports = (services: Services) =>
      services.filter((s): s is Ports => s.kind === 'ports' && s.proto === proto);
    const [left, right] = [ports(outside), ports(inside)];
    let [i, j, taken, given] = [0, 0, 0, 0];
    while (i < left.length && j < right.length) {
      const [from, to] = [left[i]!, right[j]!];
      const size = Math.min(from.last - from.first + 1 - taken, to.last - to.first + 1 - given);
      const piece = (item: Ports, offset: number): Ports => ({
        ...item,
        first: item.first + offset,
        last: item.first + offset + size - 1,
      });
      out.outside.push(piece(from, taken));
      out.inside.push(piece(to, given));
      [taken, given] = [taken + size, given + size];
      if (from.first + taken > from.last) [i, taken] = [i + 1, 0];
      if (to.first + given > to.last) [j, given] = [j + 1, 0];
    }
    if (i < left.length || j < right.length) return undefined;
  }
  return out;
}

/** A WHO as a rule asks for it: by where a flow arrives for zones and interfaces, else by its source. */
function whoRule(
  site: Site,
  wiring: Wiring,
  prospects: Prospects,
  who: Who,
): Pick<LeaveRule, 'arrival' | 'sources' | 'sourceNames'> {
  const kind = who.type === 'name' ? kindOf(site, who) : undefined;
  if (who.type === 'name' && kind === 'zone') return { arrival: { zone: who.name }, sourceNames: [] };
  if (who.type === 'name' && kind === 'interface')
    return { arrival: { interface: who.name }, sourceNames: [] };
  const sources = who.type === 'any' ? undefined : addressesFor(site, wiring, prospects, who);
  return { sources, sourceNames: namesIn(site, [who]) };
}

function leaveRule(site: Site, wiring: Wiring, prospects: Prospects, s: StatementOf<'leave'>): LeaveRule[] {
  if (!s.as) return [];
  const out = new Set(outInterfaces(site, s.via.name, s.via.kind).map((i) => i.name));
  if (s.as.by === 'prefix') {
    // Each address of the network by itself, mapped to the one at the same place.
    const from = s.who.type === 'addresses' ? s.who.prefix : undefined;
    const to = s.as.prefix.value;
    if (isTranslation(to)) {
      if (!from || from.length !== to.length || isIpv4(from.address)) return [];
      const prefix = from as Prefix<Ipv6>;
      const sources = IpSet.ofPrefixes([prefix]).minus(IpSet.of(nptUntranslated(prefix)));
      return [
        {
          sources,
          sourceNames: [],
          out,
          family: 6,
          action: { as: 'prefix', from: prefix, to },
          statement: s,
        },
      ];
    }
    return mapped(from, s.as.prefix.value).map(([inside, address]) => ({
      sources: IpSet.ofAddresses([inside]),
      sourceNames: [],
      out,
      family: isIpv4(address) ? 4 : 6,
      action: { as: 'address', address },
      statement: s,
    }));
  }
  const v6 =
    (s.who.type === 'addresses' && typeof s.who.range.first === 'bigint') ||
    (s.as.by === 'address' && typeof s.as.address.value === 'bigint');
  const action: LeaveRule['action'] =
    s.as.by === 'address' ? { as: 'address', address: s.as.address.value } : { as: s.as.by };
  return [
    {
      ...whoRule(site, wiring, prospects, s.who),
      out,
      family: v6 ? 6 : 4,
      action,
      statement: s,
    },
  ];
}

/** Whether a network that is shown is one of so many addresses that prefixes are translated, not addresses mapped. */
export const isTranslation = (to: Prefix): to is Prefix<Ipv6> =>
  !isIpv4(to.address) && isNptLength(to.length);

/** Pairs of addresses of two networks of one length, in order; none where they are not alike. */
function mapped(inside: Prefix | undefined, outside: Prefix): (readonly [Ip, Ip])[] {
  if (!inside || inside.length !== outside.length) return [];
  const shown = addressesIn(outside, MOST_MAPPED);
  return addressesIn(inside, MOST_MAPPED).flatMap((a, i) =>
    shown[i] === undefined ? [] : [[a, shown[i]] as const],
  );
}

/** The interfaces that a `via` means: one interface, or all of a zone. A name may be of either; zones come first. */
export function outInterfaces(site: Site, name: string, kind?: string): Interface[] {
  if (kind !== 'interface' && !!zoneNamed(site, name))
    return site.interfaces.filter((i) => i.zone?.name === name);
  const iface = interfaceNamed(site, name);
  return iface ? [iface] : [];
}

/** Of which kind a name is, in the notation's order of looking. */
export function kindOf(
  site: Site,
  who: Extract<Who, { type: 'name' }>,
): 'zone' | 'interface' | 'known' | 'door' | 'station' | 'far' | undefined {
  const has = {
    zone: () => !!zoneNamed(site, who.name),
    interface: () => !!interfaceNamed(site, who.name),
    known: () => site.knowns.some((k) => k.name === who.name),
    door: () => site.doors.some((d) => d.name === who.name),
    station: () => site.stations.some((s) => s.name === who.name),
    far: () => site.fars.some((f) => f.name === who.name),
  };
  const kinds = Object.keys(has) as (keyof typeof has)[];
  return kinds.find((kind) => (!who.kind || who.kind === kind) && has[kind]());
}

/** Every address that may cross the internet: not special-purpose, and in no network of the box. */
export function internetSet(site: Site, prospects: Prospects): IpSet {
  const own = IpSet.ofPrefixes(site.interfaces.flatMap((i) => networksOf(i, prospects)));
  return PUBLIC4.union(PUBLIC6).minus(own);
}

const PUBLIC4 = IpSet.all(4).minus(IpSet.ofPrefixes(specialPrefixes(4)));
const PUBLIC6 = IpSet.all(6).minus(IpSet.ofPrefixes(specialPrefixes(6)));

/** The addresses a zone stands for: what is behind its interfaces, and the internet too where it is upstream. */
export function zoneSet(site: Site, prospects: Prospects, zone: Zone): IpSet {
  const inside = site.interfaces
    .filter((i) => i.zone?.name === zone.name)
    .map((i) => behindInterface(site, prospects, i))
    .reduce((a, b) => a.union(b), IpSet.empty);
  return zone.upstream ? inside.union(internetSet(site, prospects)) : inside;
}

/** What a known host stands for: the addresses that are written, and those that its names lead to at the moment. */
export const knownRanges = (
  { named }: Pick<Prospects, 'named'>,
  known: Site['knowns'][number] | undefined,
): Range[] =>
  known
    ? [
        ...known.items.map((i) => i.value.range),
        ...known.dnsNames.flatMap((n) => (named.get(n.value) ?? []).map((a) => ({ first: a, last: a }))),
      ]
    : [];

/** The addresses that a suffix makes in the networks of its interface at the moment (RFC 4291 §2.5.1: 64 bits each). */
export function suffixed(
  site: Site,
  prospects: Prospects,
  { suffix, interface: at }: Extract<Who, { type: 'suffix' }>,
): Ip[] {
  const iface = interfaceNamed(site, at.name);
  const nets = iface ? networksOf(iface, prospects) : [];
  return nets.flatMap((n) =>
    typeof n.address === 'bigint' && n.length === 64 ? [(n.address | suffix) as Ip] : [],
  );
}

/** A WHO with its suffix made into the address that it means at the moment; itself where it has none. */
export function whoNow(site: Site, prospects: Prospects, who: Who): Who {
  if (who.type !== 'suffix') return who;
  const [address] = suffixed(site, prospects, who);
  return address === undefined
    ? who
    : { type: 'addresses', range: { first: address, last: address }, at: who.at };
}

/** The addresses that a WHO stands for in a rule; empty where its name means nothing. */
export function addressesFor(site: Site, wiring: Wiring, prospects: Prospects, who: Who): IpSet {
  switch (who.type) {
    case 'any':
      return IpSet.all(4).union(IpSet.all(6));
    case 'internet':
      return internetSet(site, prospects);
    case 'addresses':
      return IpSet.of([who.range]);
    case 'suffix':
      return IpSet.ofAddresses(suffixed(site, prospects, who));
    case 'name':
      switch (kindOf(site, who)) {
        case 'zone':
          return zoneSet(site, prospects, zoneNamed(site, who.name)!);
        case 'interface':
          return behindInterface(site, prospects, interfaceNamed(site, who.name)!);
        case 'known':
          return IpSet.of(
            knownRanges(
              prospects,
              site.knowns.find((k) => k.name === who.name),
            ),
          );
        case 'station': {
          const own = [prospects.stations.get(who.name), prospects.stations6.get(who.name)];
          return IpSet.ofAddresses(own.flatMap((p) => (p ? [p.address] : [])));
        }
        case 'far':
          return IpSet.ofAddresses(wiring.fars.find((f) => f.name === who.name)?.addresses ?? []);
        case 'door': {
          const outside = site.doors.find((d) => d.name === who.name)?.outside?.value;
          if (!outside) return IpSet.empty;
          if ('address' in outside) return IpSet.ofAddresses([outside.address]);
          if ('prefix' in outside) return IpSet.ofPrefixes([outside.prefix]);
          const iface = interfaceNamed(site, outside.interface.name);
          const own = iface && addressesOf(iface, prospects)[0];
          return own ? IpSet.ofAddresses([own.address]) : IpSet.empty;
        }
        case undefined:
          return IpSet.empty;
      }
  }
}
