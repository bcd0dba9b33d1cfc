/** Clauses and readers that several kinds have. */
import { NAMED_SERVICES, OPTION_NAMES, formatIp, isIpv4 } from '#core/addr';
import type { Ip, OptionName, OptionValue, Prefix, Range } from '#core/addr';
import type { AddressSource, At, KeepsClause, LendsClause, OptionClause, Plug } from '../ast';
import { once, repeated } from '../clause';
import type { Offer } from '../clause';
import { isName, nearest } from '../grammar';
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

/** What a DHCP server tells beside; may repeat. */
export const option = repeated(readOption, {
  option: { words: Object.keys(OPTION_NAMES) },
  '*': { words: ['for'] },
});

/** Addresses that one client only gets; may repeat. */
export const keeps = repeated(readKeeps, { keeps: {}, '*': { words: ['for'] } });

/** `option ntp 10.61.20.1`, `option 43 0x0104c0a80001 for .50-.99`, `option boot-file "a b" for .20`. */
function readOption(w: Words, at: Span): OptionClause | undefined {
  const token = w.peek;
  const number = /^[1-9][0-9]{0,2}$/.test(token?.text ?? '') ? Number(token!.text) : undefined;
  const said =
    token && Object.hasOwn(OPTION_NAMES, token.text) ? OPTION_NAMES[token.text as OptionName] : undefined;
  const code = said?.code ?? number;
  if (!token || code === undefined || code > 254)
    return w.fault(
      `an option by number, or ${Object.keys(OPTION_NAMES).join(', ')}`,
      token && nearest(token.text, Object.keys(OPTION_NAMES)),
    );
  w.next();
  const value = readOptionValue(w, said?.form, said && 'octets' in said ? said.octets : undefined);
  const only = w.eat('for') ? w.range({ outside: 'finding', code: 'lends-empty' }) : undefined;
  return value && { option: { code, value }, what: placeOf(token), only, at };
}

/** The value of an option up to `for`; without a form it is what it looks like: addresses, octets in hex, or text. */
function readOptionValue(
  w: Words,
  form: OptionValue['form'] | undefined,
  octets: 1 | 2 | 4 = 4,
): OptionValue | undefined {
  const first = w.peek;
  if (!first || w.is('for')) return w.fault('the value of the option');
  if (form === 'number') {
    const got = w.number(0, 2 ** (8 * octets) - 1);
    return got && { form, value: got.value, octets };
  }
  if (
    form === 'addresses' ||
    (form === undefined && first.kind === 'word' && /^\.?[0-9.]+$/.test(first.text))
  ) {
    const all = w.addressList(['for']).map((a) => a.value);
    const wrong = all.find((a) => !isIpv4(a));
    if (wrong !== undefined) return w.problems.syntax(placeOf(first), formatIp(wrong), 'IPv4 addresses');
    return { form: 'addresses', addresses: all.filter(isIpv4) };
  }
  const texts: string[] = [];
  while (!w.done && !w.is('for')) texts.push(w.next()!.value);
  if (form === 'names') {
    const bad = texts.find(
      (t) => !/^[a-z0-9]([a-z0-9-]*[a-z0-9])?(\.[a-z0-9]([a-z0-9-]*[a-z0-9])?)*$/i.test(t),
    );
    return bad === undefined
      ? { form, names: texts }
      : w.problems.syntax(placeOf(first), bad, 'domain names');
  }
  const hex = /^0x((?:[0-9a-f]{2})+)$/i.exec(texts[0]!)?.[1];
  if (form !== 'text' && hex !== undefined && texts.length === 1)
    return { form: 'bytes', bytes: Uint8Array.from(hex.match(/../g)!, (pair) => parseInt(pair, 16)) };
  if (form === 'bytes' && first.kind !== 'string')
    return w.problems.syntax(
      placeOf(first),
      first.text,
      'octets such as 0x0104c0000201, or a text in quotes',
    );
  const text = texts.join(' ');
  // Options have 255 octets at most.
  if (!/^[\x20-\x7e]{1,255}$/.test(text))
    return w.problems.syntax(placeOf(first), first.text, 'a text of 1 to 255 plain characters');
  return { form: 'text', text };
}

function readKeeps(w: Words, at: Span): KeepsClause | undefined {
  const address = w.address({ outside: 'finding' });
  if (!w.want('for')) return undefined;
  const hardware = w.mac();
  const label = w.peek?.kind === 'string' ? w.string() : undefined;
  return address && hardware ? { address, mac: hardware.value, label: label?.value, at } : undefined;
}
