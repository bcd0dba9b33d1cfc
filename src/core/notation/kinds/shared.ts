/** Clauses and readers that several kinds have. */
import { NAMED_SERVICES, formatIp, isIpv4 } from '#core/addr';
import type { Ip, Prefix, Range } from '#core/addr';
import type { AddressSource, At, LendsClause, Plug } from '../ast';
import { once, repeated } from '../clause';
import type { Offer } from '../clause';
import { isName } from '../grammar';
import { placeOf } from '../lexer';
import type { Span } from '../lexer';
import type { Words } from '../reader';

/** `note "…"` may stand in every statement. */
export const NOTE = { note: once((w) => w.string()) };

/** `until 2026-12-31`: the last day on which a statement counts. */
export const UNTIL = { until: once((w) => w.day()) };

export const SERVICES: Offer = { words: [...Object.keys(NAMED_SERVICES), 'tcp', 'udp', 'proto'] };
/** Where services stand: behind the clause's name and behind any service. */
export const SERVICE_OFFERS = { '*': SERVICES };

export const PLACES: Offer = { names: ['zone', 'interface', 'known'] };

/** Who may: joined in order over all clauses of the name. */
export const whos = (names: Offer = PLACES) => repeated((w) => w.whos(), { '*': names });

export const addressList = repeated((w) => w.addressList());

export const mac = once((w) => w.mac());
export const mtu = once((w) => w.number(68, 65535));

/** The gateway of something that is plugged in. */
export const gateway = once((w) => w.address({ outside: 'finding' }));

/** Where a cable ends. */
export const at = once(readPlug, { at: { names: ['port', 'switch'] }, '*': { words: ['tag'] } });

export function readPlug(w: Words): Plug | undefined {
  const token = w.peek;
  if (token?.kind !== 'word') return w.fault('a port such as p1, or a jack such as core/1');
  const slash = token.text.indexOf('/');
  if (slash > 0) {
    const jack = token.text.slice(slash + 1);
    if (!/^[1-9][0-9]{0,3}$/.test(jack) || !isName(token.text.slice(0, slash)))
      return w.fault('a jack such as core/1');
    w.next();
    return {
      to: 'jack',
      switch: token.text.slice(0, slash),
      jack: Number(jack),
      tag: w.eat('tag') ? w.tag()?.value : undefined,
      at: placeOf(token),
    };
  }
  if (!isName(token.text)) return w.fault('a port such as p1, or a jack such as core/1');
  w.next();
  const tag = w.eat('tag') ? w.tag() : undefined;
  return { to: 'port', port: token.text, tag: tag?.value, at: placeOf(token) };
}

/** `by dhcp`, `by pppoe`, or an address with its length. */
export function readAddress(w: Words): At<AddressSource> | undefined {
  if (w.eat('by')) {
    const by = w.oneOf(['dhcp', 'pppoe']);
    return by && { value: { by: by.value }, at: w.span };
  }
  const address = w.interfaceAddress();
  return address && { value: { by: 'static', prefix: address.value }, at: address.at };
}

/** Faults an IPv4 address where an IPv6 address belongs. */
export const notIpv6 = (w: Words, got: At<Prefix>): undefined =>
  w.problems.syntax(got.at, formatIp(got.value.address), 'an IPv6 address with its length');

export const isAddress6 = (got: At<Prefix>): boolean => !isIpv4(got.value.address);

export function readGateway6(w: Words): At<Ip> | undefined {
  const address = w.address({ outside: 'finding' });
  if (address && isIpv4(address.value))
    return w.problems.syntax(address.at, formatIp(address.value), 'an IPv6 address');
  return address;
}

/** What ends the ranges of a `lends`. */
export const POOL_WORDS = ['for', 'gateway', 'names'];

/** A pool, up to the end of its clause; with `of`, it may be of a network elsewhere. */
export function readPool(w: Words, at: Span, of?: 'anywhere'): LendsClause {
  const words = of ? [...POOL_WORDS, 'in'] : POOL_WORDS;
  const ranges: At<Range>[] = [];
  let network: At<Prefix> | undefined;
  let seconds = 12 * 3600;
  let gateway: At<Ip> | undefined;
  let names: readonly At<Ip>[] = [];
  if (w.done || words.includes(w.peek!.text)) w.fault('a range such as .50-.199');
  while (!w.done && !words.includes(w.peek!.text)) {
    const range = w.range({ outside: 'finding', code: 'lends-empty' });
    if (range) ranges.push(range);
  }
  while (!w.done) {
    if (w.eat('for')) seconds = w.duration()?.value ?? seconds;
    else if (w.eat('gateway')) gateway = w.address({ outside: 'finding' });
    else if (w.eat('names')) names = w.addressList(words);
    else if (of && w.eat('in')) network = w.network();
    else
      w.fault(
        words
          .map((word) => `\`${word}\``)
          .join(', ')
          .replace(/, (?=[^,]*$)/, ' or '),
      );
  }
  return { ranges, network, seconds, gateway, names, at };
}
