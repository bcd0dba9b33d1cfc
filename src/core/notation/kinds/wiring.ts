/** What is plugged in: circuits, switches, stations, and far hosts behind them. */
import { formatIp, isIpv4 } from '#core/addr';
import type { At, JackClause, LegClause } from '../ast';
import { defineKind, flag, joined, listOf, once, reads, repeated } from '../clause';
import type { Span } from '../lexer';
import type { Words } from '../reader';
import {
  NOTE,
  POOL_WORDS,
  SERVICE_OFFERS,
  addressList,
  at,
  gateway,
  isAddress6,
  keeps,
  mac,
  notIpv6,
  option,
  readAddress,
  readGateway6,
  readPlug,
  readPool,
} from './shared';

const network = once((w) => w.network());
const listens = once((w) => w.services(), SERVICE_OFFERS);

export const CIRCUIT = defineKind({
  kind: 'circuit',
  header: {},
  clauses: {
    at,
    block: network,
    lends: repeated(
      (w) => {
        const range = w.range();
        if (!w.want('in')) return undefined;
        const prefix = w.network();
        return range && prefix ? reads(w, { range: range.value, prefix: prefix.value }) : undefined;
      },
      { lends: {}, '*': { words: ['in'] } },
    ),
    pppoe: once(
      (w) => {
        const user = w.string();
        const secret = user && w.string();
        if (!secret || !w.want('gives')) return undefined;
        const gives = w.address();
        if (!gives || !w.want('peer')) return undefined;
        const peer = w.address();
        return (
          peer && reads(w, { user: user.value, secret: secret.value, gives: gives.value, peer: peer.value })
        );
      },
      { pppoe: {}, '*': { words: ['gives', 'peer'] } },
    ),
    gateway,
    names: addressList,
    time: once((w) => w.addressList()),
    routes: repeated(
      (w) => {
        const prefix = w.network();
        if (!w.want('via')) return undefined;
        const via = w.address();
        return prefix && via ? reads(w, { prefix: prefix.value, via: via.value }) : undefined;
      },
      { routes: {}, '*': { words: ['via'] } },
    ),
    block6: network,
    lends6: network,
    delegates6: network,
    translating: once(
      (w, span) => ({ value: { as: w.eat('as') ? w.address()?.value : undefined }, at: span }),
      {
        translating: { words: ['as'] },
      },
    ),
    silent: flag,
    delay: once((w) => w.number(0, 60000, 'ms')),
    loss: once((w) => w.number(0, 100, '%')),
    dead: once((w, span) => (w.want('beyond') ? span : undefined), { dead: { words: ['beyond'] } }),
    down: flag,
    ...NOTE,
  },
  make: ({ values: v }) => ({
    plug: v.at,
    block: v.block,
    /** One pool; a second is not worked with. */
    lends: v.lends[0],
    pppoe: v.pppoe,
    gateway: v.gateway,
    names: joined(v.names),
    time: v.time ?? [],
    routes: v.routes,
    block6: v.block6,
    lends6: v.lends6,
    delegates6: v.delegates6,
    translating: v.translating,
    silent: !!v.silent,
    /** Milliseconds, one way. */
    delay: v.delay?.value ?? 0,
    /** Percent of packets lost, 0–100. */
    loss: v.loss?.value ?? 0,
    deadBeyond: v.dead,
    down: v.down,
  }),
});

export const SWITCH = defineKind({
  kind: 'switch',
  header: {},
  clauses: {
    at,
    native: once((w) => w.tag()),
    carries: once((w) => listOf(w, 'a tag from 1 to 4094', () => w.tag())),
    links: once((w) => w.oneOf(['lacp', 'static', 'single'] as const), {
      links: { words: ['lacp', 'static', 'single'] },
    }),
    jack: repeated(
      (w) => {
        const jack = w.number(1, 9999);
        if (!jack) return undefined;
        if (!w.is('tag') && !w.is('carries')) return w.fault('`tag` or `carries`');
        const tag = w.eat('tag') ? w.tag() : undefined;
        const carries = w.eat('carries') ? listOf(w, 'a tag from 1 to 4094', () => w.tag()) : [];
        return reads<JackClause>(w, { jack: jack.value, tag: tag?.value, carries });
      },
      { jack: {}, '*': { words: ['tag', 'carries'] } },
    ),
    ...NOTE,
  },
  make: ({ values: v }) => ({
    plug: v.at,
    native: v.native?.value ?? 1,
    carries: v.carries ?? [],
    /** How its side of several cables to one aggregation is set; as the box's where absent. */
    links: v.links,
    jacks: v.jack,
  }),
});

/** A router inside, or a switch that routes between its VLANs. */
export const ROUTER = defineKind({
  kind: 'router',
  header: {},
  clauses: {
    leg: repeated(readLeg, {
      leg: { names: ['port', 'switch'] },
      '*': { words: ['tag', 'lends', 'relays', ...POOL_WORDS] },
    }),
    gateway,
    route: repeated(
      (w) => {
        const prefix = w.network();
        if (!w.want('via')) return undefined;
        const via = w.address({ outside: 'finding' });
        return prefix && via ? reads(w, { prefix: prefix.value, via: via.value }) : undefined;
      },
      { route: {}, '*': { words: ['via'] } },
    ),
    silent: flag,
    ...NOTE,
  },
  make: ({ values: v }) => ({
    legs: v.leg,
    gateway: v.gateway,
    routes: v.route,
    silent: !!v.silent,
  }),
});

function readLeg(w: Words, at: Span): At<LegClause> | undefined {
  const plug = readPlug(w);
  if (!plug) return undefined;
  const address = w.interfaceAddress();
  if (address && !isIpv4(address.value.address))
    return w.problems.syntax(address.at, formatIp(address.value.address), 'an IPv4 address with its length');
  if (!w.done && !w.is('lends') && !w.is('relays')) return w.fault('`lends` or `relays`');
  const relays = w.eat('relays') ? w.addressList() : [];
  const lends = w.eat('lends') ? readPool(w, at) : undefined;
  return address && { value: { plug, address, lends, relays }, at };
}

export const STATION = defineKind({
  kind: 'station',
  header: {},
  clauses: {
    at,
    // A station may have an IPv6 address only, and then writes it here as well.
    address: once(readAddress, { address: { words: ['by dhcp'] } }),
    address6: repeated((w) =>
      listOf(w, 'an address', () => {
        const got = w.interfaceAddress();
        return got && !isAddress6(got) ? notIpv6(w, got) : got;
      }),
    ),
    gateway,
    gateway6: once(readGateway6),
    suffix: once((w) => {
      const got = w.address();
      if (got && (isIpv4(got.value) || got.value >> 64n !== 0n || got.value === 0n))
        return w.problems.syntax(
          got.at,
          formatIp(got.value),
          'the last 64 bits of an IPv6 address, such as ::53',
        );
      return got;
    }),
    names: addressList,
    lends: repeated((w, at) => readPool(w, at, 'anywhere'), {
      lends: {},
      '*': { words: ['in', ...POOL_WORDS] },
    }),
    option,
    keeps,
    mac,
    listens,
    silent: flag,
    seat: flag,
    off: flag,
    ...NOTE,
  },
  make: ({ values: v, problems }) => {
    const [address6, second] = joined(v.address6);
    if (second)
      problems.syntax(second.at, 'a second IPv6 address', 'one IPv6 address: a station has one written');
    return {
      plug: v.at,
      address: v.address,
      /** Written beside an IPv4 address, or alone. */
      address6,
      gateway: v.gateway,
      gateway6: v.gateway6,
      /** The last 64 bits of the address that it makes itself where a router advertises. */
      suffix: v.suffix && !isIpv4(v.suffix.value) ? { value: v.suffix.value, at: v.suffix.at } : undefined,
      names: joined(v.names),
      /** Of a DHCP server that runs on it. */
      lends: v.lends,
      options: v.option,
      keeps: v.keeps,
      mac: v.mac,
      listens: v.listens,
      silent: !!v.silent,
      seat: v.seat,
      off: v.off,
    };
  },
});

export const FAR = defineKind({
  kind: 'far',
  header: {},
  clauses: {
    address: once((w) => w.addressList()),
    listens,
    resolves: flag,
    silent: flag,
    ...NOTE,
  },
  make: ({ values: v }) => ({
    addresses: v.address ?? [],
    listens: v.listens,
    resolves: !!v.resolves,
    silent: !!v.silent,
  }),
});
