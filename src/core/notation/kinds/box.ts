/** The box itself, its ports, zones and routing tables. */
import type { At, OverClause, Ref, RouteClause } from '../ast';
import { defineKind, flag, joined, listOf, once, reads, repeated } from '../clause';
import { isFarName } from '../grammar';
import { placeOf } from '../lexer';
import type { Span } from '../lexer';
import type { Words } from '../reader';
import { NOTE, addressList, mac, mtu } from './shared';

/** RFC 9568 §5.2.4. */
const DEFAULT_PRIORITY = 100;

export const BOX = defineKind({
  kind: 'box',
  header: {},
  clauses: {
    domain: once((w) => {
      const token = w.next();
      return token ? { value: token.value, at: placeOf(token) } : w.fault('a domain name');
    }),
    names: addressList,
    time: once((w) => w.addressList()),
    forwards: repeated((w) => {
      const token = w.next();
      if (token?.kind !== 'word' || !isFarName(token.text))
        return w.problems.syntax(token ?? w.span, token?.text ?? 'nothing', 'a domain such as kiln.example');
      return reads(w, { domain: token.text, addresses: w.addressList().map((a) => a.value) });
    }, {}),
    serves: repeated((w) => w.oneOf(['names', 'time']), { serves: { words: ['names', 'time'] } }),
    priority: once((w) => w.number(1, 254)),
    twin: once(
      (w, at) => {
        const name = w.next();
        if (name?.kind !== 'word') return w.fault('the name of the other box');
        const priority = w.eat('priority') ? w.number(1, 254) : undefined;
        return { value: { name: name.text, priority: priority?.value ?? DEFAULT_PRIORITY }, at };
      },
      { '*': { words: ['priority'] } },
    ),
    lowers: repeated(
      (w, at) => {
        const by = w.number(1, 254);
        const without: Ref[] = [];
        if (w.want('without'))
          do {
            const uplink = w.ref('an interface');
            if (uplink) without.push(uplink);
          } while (!w.done);
        return by && without.length ? { by: by.value, without, at } : undefined;
      },
      { lowers: {}, '*': { names: ['interface'], words: ['without'] } },
    ),
    admin: once((w) => listOf(w, 'a user name', () => w.next()?.value)),
    ...NOTE,
  },
  make: ({ values: v }) => ({
    domain: v.domain,
    /** Domains whose names are asked of resolvers of their own. */
    forwards: v.forwards.map((f) => f.value),
    /** Static resolvers of the box itself. */
    names: joined(v.names),
    time: v.time ?? [],
    /** Which of two boxes is the active one: the higher, as far as it is not lowered (RFC 9568 §5.2.4). */
    priority: v.priority?.value ?? DEFAULT_PRIORITY,
    twin: v.twin,
    /** What is taken off the priority while an uplink is dead. */
    lowers: v.lowers,
    servesNames: v.serves.some((s) => s.value === 'names'),
    servesTime: v.serves.some((s) => s.value === 'time'),
    admin: v.admin ?? [],
  }),
});

const SPEEDS = ['auto', '100', '1000', '2500', '10000'] as const;

/** How the links of an aggregation are agreed on: by LACP (IEEE 802.1AX), or not at all. */
const LINK_MODES = ['lacp', 'static'] as const;
const OVER_WORDS: readonly string[] = ['by', 'fast'];

export const PORT = defineKind({
  kind: 'port',
  header: {},
  clauses: {
    label: once((w) => w.string()),
    over: once(
      (w, at): At<OverClause> => {
        const ports: Ref[] = [];
        if (w.done) w.fault('the ports that it is made of');
        while (!w.done && !OVER_WORDS.includes(w.peek!.text)) {
          const port = w.ref('a port');
          if (port) ports.push(port);
        }
        const mode = w.eat('by') ? w.oneOf(LINK_MODES)?.value : undefined;
        return { value: { ports, mode: mode ?? 'lacp', fast: !!w.eat('fast') }, at };
      },
      { '*': { names: ['port'], words: OVER_WORDS }, by: { words: LINK_MODES } },
    ),
    off: flag,
    mac,
    mtu,
    speed: once(
      (w): At<number | 'auto'> | undefined => {
        const got = w.oneOf(SPEEDS);
        return got && { at: got.at, value: got.value === 'auto' ? 'auto' : Number(got.value) };
      },
      { speed: { words: SPEEDS } },
    ),
    ...NOTE,
  },
  make: ({ values: v }) => ({
    label: v.label,
    /** The ports that it is made of: then it is a link aggregation, and no socket of its own. */
    over: v.over,
    off: v.off,
    mac: v.mac,
    mtu: v.mtu,
    /** Megabits a second, or auto. */
    speed: v.speed,
  }),
});

export const ZONE = defineKind({
  kind: 'zone',
  header: {},
  clauses: {
    upstream: flag,
    dmz: flag,
    management: flag,
    within: once((w) => w.oneOf(['allow', 'drop']), { within: { words: ['allow', 'drop'] } }),
    tint: once((w) => w.number(1, 6)),
    ...NOTE,
  },
  make: ({ values: v }) => ({
    upstream: v.upstream,
    dmz: v.dmz,
    management: v.management,
    within: v.within,
    tint: v.tint,
  }),
});

const ROUTE_WORDS = ['via', 'by', 'drop', 'distance'];

export const TABLE = defineKind({
  kind: 'table',
  header: {},
  clauses: {
    route: repeated(readRoute, {
      route: {},
      by: { names: ['interface'] },
      on: { names: ['interface'] },
      '*': { words: ROUTE_WORDS },
    }),
    ...NOTE,
  },
  make: ({ values: v }) => ({ routes: v.route }),
});

function readRoute(w: Words, at: Span): RouteClause | undefined {
  const prefix = w.network();
  let via: RouteClause['via'];
  let iface: Ref | undefined;
  let drop = false;
  if (w.eat('via')) {
    via = w.address();
    if (w.eat('on')) iface = w.ref('an interface');
  } else if (w.eat('by')) iface = w.ref('an interface');
  else if (w.eat('drop')) drop = true;
  else {
    w.fault('`via ADDRESS`, `by INTERFACE` or `drop`');
    return undefined;
  }
  const distance = w.eat('distance') ? w.number(1, 255) : undefined;
  if (!prefix || (!via && !iface && !drop)) return undefined;
  return { prefix: prefix.value, via, interface: iface, drop, distance: distance?.value ?? 1, at };
}
