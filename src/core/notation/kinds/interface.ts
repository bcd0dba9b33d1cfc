/** A layer-3 interface. */
import { formatIp, isIpv4 } from '#core/addr';
import type { Ip } from '#core/addr';
import { ANSWERABLE } from '../ast';
import type {
  Address6Source,
  AddressSource,
  AlsoItem,
  AnswersClause,
  At,
  GatewayClause,
  Ref,
  VirtualClause,
  Who,
} from '../ast';
import { NONE, defineKind, flag, joined, listOf, once, repeated } from '../clause';
import type { Offer } from '../clause';
import { placeOf } from '../lexer';
import type { Span } from '../lexer';
import type { Problems, Words } from '../reader';
import {
  NOTE,
  PLACES,
  POOL_WORDS,
  addressList,
  isAddress6,
  keeps,
  mac,
  mtu,
  notIpv6,
  option,
  readAddress,
  readPool,
} from './shared';

/** What an interface runs over: one port for `on` and `pppoe`, the members for `bridge`, none for `loopback`. */
interface Carrier {
  readonly by: 'on' | 'bridge' | 'pppoe' | 'loopback';
  readonly ports: readonly Ref[];
  readonly tag?: At<number>;
  readonly pcp?: At<number>;
  readonly user?: string;
  readonly secret?: string;
  readonly at: Span;
}

const PORTS: Offer = { names: ['port'] };
const GATEWAYS = { words: ['learned', 'none'] };

export const INTERFACE = defineKind({
  kind: 'interface',
  header: {},
  clauses: {
    on: once(readOn, { on: PORTS, '*': { words: ['tag', 'pcp'] } }),
    bridge: once(readBridge, { '*': { ...PORTS, words: ['tag'] } }),
    pppoe: once(readPppoe, {
      pppoe: { words: ['on'] },
      on: PORTS,
      '*': { words: ['tag', 'user', 'secret'] },
    }),
    loopback: once((_, at): Carrier => ({ by: 'loopback', ports: [], at })),
    zone: once((w) => w.ref('a zone'), { zone: { names: ['zone'] } }),
    table: once((w) => w.ref('a table'), { table: { names: ['table'] } }),
    off: flag,
    address: once(readIpv4, { address: { words: ['by dhcp', 'by pppoe'] } }),
    also: repeated((w) => listOf(w, 'an address', () => w.also())),
    virtual: once(readVirtual, { '*': { words: ['id', 'with'] } }),
    address6: repeated(readAddress6, {
      address6: { words: ['by slaac', 'by dhcpv6', 'from'] },
      from: { names: ['interface'] },
    }),
    gateway: once(readGateway, { gateway: GATEWAYS }),
    gateway6: once(readGateway, { gateway6: GATEWAYS }),
    block: once((w) => {
      const prefix = w.network();
      const routed = !!w.eat('routed');
      return prefix && { value: { prefix: prefix.value, routed }, at: prefix.at };
    }),
    priority: once((w) => w.number(1, 9999)),
    share: once((w) => w.number(1, 16)),
    'on-demand': flag,
    watch: repeated(readWatch, { '*': { words: ['every', 'lost'] } }),
    settle: once((w) => w.duration()),
    names: repeated(
      (w, at) =>
        w.eat('learned')
          ? { learned: true, addresses: [], at }
          : { learned: false, addresses: w.addressList(), at },
      { names: { words: ['learned'] } },
    ),
    lends: repeated((w, at) => readPool(w, at), { lends: {}, '*': { words: POOL_WORDS } }),
    relays: addressList,
    option,
    keeps,
    answers: repeated(readAnswers, { from: PLACES, '*': { words: [...ANSWERABLE, 'from'] } }),
    advertises: flag,
    mtu,
    mss: once(readMss, { mss: { words: ['auto', 'off'] } }),
    mac,
    guard: flag,
    ...NOTE,
  },
  make: ({ values: v, problems }) => {
    const carrier = v.on ?? v.bridge ?? v.pppoe ?? v.loopback;
    for (const other of [v.bridge, v.pppoe, v.loopback])
      if (other && carrier && other !== carrier)
        problems.syntax(
          other.at,
          `\`${other.by}\` beside \`${carrier.by}\``,
          'one of `on`, `bridge`, `pppoe`, `loopback`',
        );
    const lonely =
      carrier?.by === 'pppoe' || carrier?.by === 'loopback' ? carrier.by : v['on-demand'] && 'on-demand';
    if (v.virtual && lonely)
      problems.syntax(
        v.virtual.at,
        `\`virtual\` beside \`${lonely}\``,
        'an interface on ports that is always up, as the other box is on the same wire',
      );
    return {
      carrier,
      zone: v.zone,
      table: v.table,
      off: v.off,
      address: v.address,
      /** Secondary addresses, in order. */
      also: notTooMany(joined(v.also), problems),
      /** What it shares with the twin of the box. */
      virtual: v.virtual,
      address6: joined(v.address6),
      gateway: v.gateway,
      gateway6: v.gateway6,
      block: v.block,
      priority: v.priority,
      /** Its part of the new flows that uplinks of one table and priority share. */
      share: v.share,
      onDemand: v['on-demand'],
      watch: v.watch.length ? v.watch.flatMap((w) => w.addresses) : NONE,
      /** Seconds between two watch pings. */
      watchEvery: v.watch.reduce((every, w) => w.every ?? every, 5),
      /** Watch pings lost in a row that make the uplink dead. */
      watchLost: v.watch.reduce((lost, w) => w.lost ?? lost, 3),
      /** Seconds of good answers before a dead uplink is used again. */
      settle: v.settle?.value ?? 30,
      names: joinNames(v.names),
      lends: v.lends,
      /** DHCP servers elsewhere that are asked for the clients here. */
      relays: joined(v.relays),
      options: v.option,
      keeps: v.keeps,
      answers: v.answers,
      advertises: v.advertises,
      mtu: v.mtu,
      mss: v.mss,
      mac: v.mac,
      guard: v.guard,
    };
  },
});

function readOn(w: Words, at: Span): Carrier | undefined {
  const port = w.ref('a port');
  const tag = w.eat('tag') ? w.tag() : undefined;
  const pcp = w.eat('pcp') ? w.number(0, 7) : undefined;
  return port && { by: 'on', ports: [port], tag, pcp, at };
}

function readBridge(w: Words, at: Span): Carrier {
  const ports: Ref[] = [];
  while (!w.done && !w.is('tag')) {
    const port = w.ref('a port');
    if (port) ports.push(port);
  }
  const tag = w.eat('tag') ? w.tag() : undefined;
  return { by: 'bridge', ports, tag, at };
}

function readPppoe(w: Words, at: Span): Carrier | undefined {
  if (!w.want('on')) return undefined;
  const port = w.ref('a port');
  const tag = w.eat('tag') ? w.tag() : undefined;
  const user = w.eat('user') ? w.string() : undefined;
  const secret = w.eat('secret') ? w.string() : undefined;
  return port && { by: 'pppoe', ports: [port], tag, user: user?.value, secret: secret?.value, at };
}

function readIpv4(w: Words): At<AddressSource> | undefined {
  const address = readAddress(w);
  if (address?.value.by === 'static' && !isIpv4(address.value.prefix.address))
    return w.problems.syntax(
      address.at,
      formatIp(address.value.prefix.address),
      'an IPv4 address with its length; IPv6 addresses stand in `address6`',
    );
  return address;
}

/** Secondary addresses that one interface may have; more is a slip of the keys. */
const MOST_ADDRESSES = 4096;

/** The secondary addresses, as far as they are not too many. */
function notTooMany(all: readonly At<AlsoItem>[], problems: Problems): readonly At<AlsoItem>[] {
  if (!all.length) return all;
  let count = 0;
  const kept = all.filter(({ value: { range } }) => {
    count += Number(range.last) - Number(range.first) + 1;
    return count <= MOST_ADDRESSES;
  });
  const extra = all[kept.length];
  if (extra)
    problems.syntax(extra.at, `${count} secondary addresses`, `at most ${MOST_ADDRESSES} on one interface`);
  return kept;
}

function readVirtual(w: Words, at: Span): At<VirtualClause> | undefined {
  const addresses = w.addressList(['id', 'with']);
  const six = addresses.find((a) => !isIpv4(a.value));
  if (six) return w.problems.syntax(six.at, formatIp(six.value), 'an IPv4 address');
  const id = w.want('id') ? w.number(1, 255) : undefined;
  const other = w.eat('with') ? w.address() : undefined;
  if (other && !isIpv4(other.value))
    return w.problems.syntax(other.at, formatIp(other.value), 'an IPv4 address');
  return addresses.length && id ? { value: { addresses, id: id.value, other }, at } : undefined;
}

function readAddress6(w: Words): At<Address6Source>[] | undefined {
  if (w.eat('by')) {
    const out: At<Address6Source>[] = [];
    do {
      const by = w.oneOf(['slaac', 'dhcpv6']);
      if (by) out.push({ value: { by: by.value }, at: by.at });
      else break;
    } while (w.eat('and'));
    return out;
  }
  if (w.eat('from')) {
    const iface = w.ref('an interface');
    const subnet = w.eat('subnet') ? w.number(0, 65535) : undefined;
    return iface && [{ value: { by: 'from', interface: iface, subnet: subnet?.value ?? 0 }, at: w.span }];
  }
  return listOf(w, 'an address', () => {
    const got = w.interfaceAddress();
    if (!got) return undefined;
    return isAddress6(got)
      ? { value: { by: 'static' as const, prefix: got.value }, at: got.at }
      : notIpv6(w, got);
  });
}

function readGateway(w: Words): At<GatewayClause> | undefined {
  for (const by of ['learned', 'none'] as const) {
    const token = w.eat(by);
    if (token) return { value: { by }, at: placeOf(token) };
  }
  const address = w.address({ outside: 'finding' }, 'an address, `learned` or `none`');
  const onlink = !!w.eat('onlink');
  return address && { value: { by: 'address', address: address.value, onlink }, at: address.at };
}

function readWatch(w: Words) {
  const addresses = w.addressList(['every', 'lost']);
  const every = w.eat('every') ? w.duration()?.value : undefined;
  const lost = w.eat('lost') ? w.number(1, 100)?.value : undefined;
  return { addresses, every, lost };
}

function joinNames(
  clauses: readonly { readonly learned: boolean; readonly addresses: readonly At<Ip>[]; readonly at: Span }[],
): At<{ readonly learned: boolean; readonly addresses: readonly At<Ip>[] }> | undefined {
  const [first] = clauses;
  if (!first) return undefined;
  const value = {
    learned: clauses.some((n) => n.learned),
    addresses: clauses.flatMap((n) => n.addresses),
  };
  return { value, at: first.at };
}

function readAnswers(w: Words, at: Span): AnswersClause {
  const services: AnswersClause['services'][number][] = [];
  if (w.done || w.is('from')) w.fault(`what to answer: ${ANSWERABLE.join(', ')}`);
  while (!w.done && !w.is('from')) {
    const service = w.oneOf(ANSWERABLE);
    if (!service) continue;
    const port =
      w.peek && /^[0-9]+$/.test(w.peek.text) && service.value !== 'ping' ? w.number(1, 65535) : undefined;
    services.push({ name: service.value, port: port?.value, at: service.at });
  }
  let from: Who[] | undefined;
  // Several `from` in one clause are joined, as the clause itself may repeat.
  while (w.eat('from')) {
    from ??= [];
    if (w.done) w.fault('a zone, interface, known, address or prefix');
    while (!w.done && !w.is('from')) {
      const word = w.peek!.text;
      if ((ANSWERABLE as readonly string[]).includes(word)) {
        // Services stand before `from`: what is meant is a clause of its own, for everybody or for others.
        w.fault(
          'a zone, interface, known, address or prefix; a service is a clause of its own',
          `, answers ${word}`,
        );
        break;
      }
      const who = w.who();
      if (who) from.push(who);
    }
  }
  return { services, from, at };
}

const MSS_WORDS = ['auto', 'off'] as const;

function readMss(w: Words): At<number | 'auto' | 'off'> | undefined {
  if (w.is('auto') || w.is('off')) return w.oneOf<'auto' | 'off'>(MSS_WORDS);
  return w.number(88, 65495);
}
