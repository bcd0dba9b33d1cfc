/** The rules of doors: what arrives for a public address and service goes to an inside one. */
import { formatIp, formatPrefix, isIpv4 } from '#core/addr';
import type { Ip, ServiceItem, Services } from '#core/addr';
import { lookUp } from '#core/semantics';
import type { DoorRule } from '#core/semantics';
import { interfaceNamed } from '#core/site';
import type { Interface } from '#core/site';
import { both, itemMatches, quoted, serviceMatches, sideMatches, untilMatch } from './match';
import type { Match } from './match';
import { hex } from './numbers';
import { logging } from './statements';
import type { Statements } from './statements';
import type { Told } from './told';

/** One service, or a stretch that keeps its ports, as a door takes it. */
interface Piece {
  readonly item: ServiceItem;
  /** The inside port, where it is another. */
  readonly port?: number;
  /** The inside service. */
  readonly inside: ServiceItem;
}

type Ports = Extract<ServiceItem, { kind: 'ports' }>;

/** Stretches up to this are taken port by port: a statement of passing may take some of them only. */
const SHORT = 64;

/** A door's services in pieces that each lead to one thing: moved ports one by one, the rest as they are. */
function piecesOf(rule: DoorRule): Piece[] {
  const to = rule.insideServices.filter((s): s is Ports => s.kind === 'ports');
  let n = -1;
  return rule.services.flatMap((item): Piece[] => {
    if (item.kind !== 'ports') return [{ item, inside: item }];
    n++;
    const shift = to[n] ? to[n]!.first - item.first : 0;
    const single = (port: number): Piece => ({
      item: { ...item, first: port, last: port },
      port: shift === 0 ? undefined : port + shift,
      inside: { ...item, first: port + shift, last: port + shift },
    });
    if (shift !== 0 || item.last - item.first < SHORT)
      return [...Array(item.last - item.first + 1).keys()].map((k) => single(item.first + k));
    return [{ item, inside: item }];
  });
}

/** What must be matched beside a door's piece for a specification to take it; all for the whole, none where it cannot. */
function narrowings(services: Services, { inside }: Piece): readonly Match[] {
  if (takes(services, inside)) return [{ family: 'both', text: '' }];
  if (inside.kind === 'any') return serviceMatches(services);
  if (inside.kind !== 'ports') return [];
  return services.flatMap((s) =>
    s.kind === 'ports' && s.proto === inside.proto && s.first <= inside.last && s.last >= inside.first
      ? itemMatches(s)
      : [],
  );
}

/** Whether a specification takes the whole of a door's piece. */
const takes = (services: Services, inside: ServiceItem): boolean =>
  services.some((s) => {
    if (s.kind === 'any') return true;
    if (inside.kind === 'any') return false;
    if (inside.kind === 'ping' || inside.kind === 'icmp')
      return (
        s.kind === 'ping' || s.kind === 'icmp' || (s.kind === 'proto' && (s.proto === 1 || s.proto === 58))
      );
    if (inside.kind === 'proto') return s.kind === 'proto' && s.proto === inside.proto;
    if (s.kind === 'proto') return s.proto === inside.proto;
    return s.kind === 'ports' && s.proto === inside.proto && s.first <= inside.first && s.last >= inside.last;
  });

/** The set that holds the learned address of an interface; the keeper of the box fills it. */
export const momentSet = (iface: string): string => `moment/${iface}`;

/** An address where nft asks for one with a port behind it. */
const target = (address: Ip, port: number | undefined): string =>
  port === undefined
    ? formatIp(address)
    : isIpv4(address)
      ? `${formatIp(address)}:${port}`
      : `[${formatIp(address)}]:${port}`;

/** The two networks of a door that says itself whom it lets in, and moves no ports. */
function wholeOf(rule: DoorRule): { readonly outside: string; readonly inside: string } | undefined {
  const { outside, inside } = rule.statement;
  const plain = rule.services.every((s, i) => {
    const to = rule.insideServices[i];
    return s.kind !== 'ports' || (to?.kind === 'ports' && s.first === to.first);
  });
  return rule.sources &&
    plain &&
    outside &&
    'prefix' in outside.value &&
    inside?.type === 'addresses' &&
    inside.prefix
    ? { outside: formatPrefix(outside.value.prefix), inside: formatPrefix(inside.prefix) }
    : undefined;
}

export interface DoorLines {
  /** Of the chain that all that arrives is asked by. */
  readonly lines: readonly string[];
  /** Chains that it jumps to, where statements of passing decide. */
  readonly chains: readonly { readonly name: string; readonly lines: readonly string[] }[];
}

export function doorLines(told: Told, statements: Statements): DoorLines {
  const { live, numbers, dev, site, rules } = told;
  const lines: string[] = [];
  const chains: { name: string; lines: string[] }[] = [];
  const outer = live.filter((i) => i.zone?.upstream);
  for (const [nth, rule] of rules.doors.entries()) {
    const whole = wholeOf(rule);
    // Two networks that are mapped are one line, where nothing asks for their addresses one by one.
    if (whole && rules.doors[nth - 1]?.statement === rule.statement) continue;
    if (isIpv4(rule.outside) !== isIpv4(rule.inside)) continue;
    const [word, family] = isIpv4(rule.inside) ? (['ip', 4] as const) : (['ip6', 6] as const);
    const at = rule.moment === undefined ? formatIp(rule.outside) : `@${momentSet(rule.moment)}`;
    const asked: readonly Match[] = [
      { family, text: `${word} daddr ${whole?.outside ?? at} ${untilMatch(rule.until, true)}` },
    ];
    // A door that says where its inside is looks it up in the table of that interface.
    const table = interfaceNamed(site, rule.on)?.table;
    const mark = table === undefined ? 0 : numbers.ofTable(table);
    const way = table === undefined ? '' : `ct mark set ct mark or ${hex(mark * 0x10000)} `;
    const says = statements.tells(rule.statement, '', rule.log);
    for (const [n, piece] of piecesOf(rule).entries()) {
      const heads = both(asked, itemMatches(piece.item));
      const leads = whole
        ? `prefix to ${word} daddr map { ${whole.outside} : ${whole.inside} }`
        : `to ${target(rule.inside, piece.port)}`;
      const to = `${says.hit}${way}dnat ${word} ${leads}${says.comment}`;
      if (rule.sources) {
        for (const m of both(heads, sideMatches('saddr', rule.sources, [], rule.sourceNames)))
          lines.push(...logging(says, m.text), `${m.text}${to}`);
        continue;
      }
      for (const m of heads) {
        const fromOutside = `iifname @outer ${m.text}`;
        if (outer.length) lines.push(...logging(says, fromOutside), `${fromOutside}${to}`);
        for (const arrival of live) {
          if (arrival.zone?.upstream || arrival.carrier === 'loopback') continue;
          const order = insideOrder(arrival, rule, piece, family);
          if (!order.some((o) => o.allow)) continue;
          const name = `door/${rule.name}/${n}/${arrival.name}`;
          chains.push({
            name,
            lines: order.flatMap(({ match, allow }) => {
              const head = `${match}${m.text}`;
              return allow ? [...logging(says, head), `${head}${to}`] : [`${head}return`];
            }),
          });
          lines.push(`iifname ${quoted(dev(arrival))} ${m.text}jump ${name}`);
        }
      }
    }
  }
  return { lines, chains };

  /** What the statements of passing say of a door's flow from an inside interface, in their order. */
  function insideOrder(
    arrival: Interface,
    rule: DoorRule,
    piece: Piece,
    family: 4 | 6,
  ): { match: string; allow: boolean }[] {
    const table = interfaceNamed(site, rule.on)?.table ?? arrival.table;
    const route = lookUp(told.routes, table, rule.inside);
    const departure = live.find((i) => i.name === route?.interface);
    const [from, to] = [arrival.zone, departure?.zone];
    if (!departure || !from || !to) return [];
    const out: { match: string; allow: boolean }[] = [];
    for (const p of rules.passages) {
      if ((p.from !== 'any' && p.from !== from.name) || (p.to !== 'any' && p.to !== to.name)) continue;
      if (p.destinations && !p.destinations.has(rule.inside)) continue;
      const only: readonly Match[] = [{ family, text: '' }];
      for (const m of both(
        both(only, sideMatches('saddr', p.sources, [], p.sourceNames)),
        narrowings(p.services, piece),
      )) {
        const allow = p.verdict === 'allow';
        out.push({ match: `${m.text}${untilMatch(p.until, allow)}`, allow });
      }
    }
    if (from.name === to.name) out.push({ match: '', allow: from.within === 'allow' });
    return out;
  }
}
