import { expect } from 'chai';
import fc from 'fast-check';
import ipaddr from 'ipaddr.js';
import {
  nptAddress,
  nptUntranslated,
  IpSet,
  broadcastOf,
  contains,
  formatIp,
  formatMac,
  formatPrefix,
  formatRangeShort,
  formatServices,
  hostBitsSet,
  hostRange,
  ipv4,
  ipv6,
  isPrivate,
  isSpecial,
  lengthOfMask,
  maskOfLength,
  mustIpv4,
  mustPrefix,
  networkOf,
  overlaps,
  parseIp,
  parseIpv4,
  parseIpv6,
  parseMac,
  parsePrefix,
  prefixRange,
  serviceTakes,
  servicesWithin,
  specialPrefixes,
  specialRangeOf,
} from './index';
import type { Ip, Ipv6, Prefix, Range } from './index';

const anyV4 = fc.integer({ min: 0, max: 0xffffffff }).map((n) => ipv4(n >>> 0));
const anyV6 = fc.bigInt({ min: 0n, max: (1n << 128n) - 1n }).map(ipv6);
const rangeOf = (a: Ip, b: Ip): Range => (a <= b ? { first: a, last: b } : { first: b, last: a });
/** Small ranges close together, so that they meet, touch and nest. */
const smallRange = fc
  .tuple(fc.integer({ min: 0, max: 60 }), fc.integer({ min: 0, max: 60 }))
  .map(([a, b]) => rangeOf(ipv4(a), ipv4(b)));

describe('addresses', () => {
  it('refuses every form of IPv4 text that could be read as another host', () => {
    for (const [text, why] of [
      ['010.0.0.1', 'octal to some programs'],
      ['10.1', 'a short form'],
      ['0x0a.0.0.1', 'hexadecimal'],
      ['1.2.3.4.5', 'five numbers'],
      ['1.2.3.256', 'too large'],
      ['1..2.3', 'an empty number'],
      ['1.2.3.4 ', 'white space'],
      ['1.2.3.', 'an end missing'],
      ['', 'nothing'],
      ['１.2.3.4', 'a digit of another script'],
      ['-1.2.3.4', 'a sign'],
    ] as const)
      expect(parseIpv4(text), why).to.equal(undefined);
    expect(parseIpv4('0.0.0.0')).to.equal(0);
    expect(parseIpv4('255.255.255.255')).to.equal(0xffffffff);
  });

  it('prints IPv6 as RFC 5952 §4 and §5 want it', () => {
    for (const [text, printed, why] of [
      ['2001:0db8::0001', '2001:db8::1', 'leading zeros go'],
      ['2001:db8:0:0:0:0:2:1', '2001:db8::2:1', 'the longest run shortens'],
      ['2001:db8:0:1:1:1:1:1', '2001:db8:0:1:1:1:1:1', 'one zero group does not'],
      ['2001:0:0:1:0:0:0:1', '2001:0:0:1::1', 'of two runs the longer'],
      ['2001:db8:0:0:1:0:0:1', '2001:db8::1:0:0:1', 'of equal runs the first'],
      ['::ffff:192.0.2.1', '::ffff:192.0.2.1', 'a mapped address keeps its quad'],
      ['::', '::', 'all zero'],
      ['2001:DB8::A', '2001:db8::a', 'lower case'],
    ] as const)
      expect(formatIp(parseIpv6(text)!), why).to.equal(printed);
    for (const bad of [
      '1::2::3',
      '1:2:3:4:5:6:7',
      '1:2:3:4:5:6:7:8:9',
      '12345::',
      ':1',
      'fe80::1%eth0',
      '1:2:3:4:5:6:7::8',
    ])
      expect(parseIpv6(bad), bad).to.equal(undefined);
  });

  it('reads what it prints, and agrees with a second reader', () => {
    fc.assert(
      fc.property(fc.oneof(anyV4, anyV6), (address) => {
        const text = formatIp(address);
        expect(parseIp(text)).to.equal(address);
        const other = ipaddr.parse(text);
        const bytes = other.toByteArray().reduce((n, b) => n * 256n + BigInt(b), 0n);
        expect(bytes).to.equal(BigInt(address));
      }),
    );
  });

  it('knows masks, networks and hosts', () => {
    for (let length = 0; length <= 32; length++) expect(lengthOfMask(maskOfLength(length))).to.equal(length);
    for (const bad of ['255.0.255.0', '0.0.0.255', '255.255.255.1', '128.0.0.1'])
      expect(lengthOfMask(mustIpv4(bad)), bad).to.equal(undefined);
    for (const [text, net, first, last, top] of [
      ['198.51.100.18/29', '198.51.100.16/29', '198.51.100.17', '198.51.100.22', '198.51.100.23'],
      ['10.0.0.1/31', '10.0.0.0/31', '10.0.0.0', '10.0.0.1', '10.0.0.1'],
      ['10.0.0.1/32', '10.0.0.1/32', '10.0.0.1', '10.0.0.1', '10.0.0.1'],
      ['255.255.255.255/24', '255.255.255.0/24', '255.255.255.1', '255.255.255.254', '255.255.255.255'],
    ] as const) {
      const p = mustPrefix(text);
      expect(formatPrefix(networkOf(p))).to.equal(net);
      expect(formatIp(hostRange(p).first)).to.equal(first);
      expect(formatIp(hostRange(p).last)).to.equal(last);
      expect(formatIp(broadcastOf(p))).to.equal(top);
    }
    expect(hostBitsSet(mustPrefix('10.61.20.1/24'))).to.equal(true);
    for (const bad of ['10.0.0.0', '10.0.0.0/33', '10.0.0.0/08', '::/129', '10.0.0.0/-1', '/24'])
      expect(parsePrefix(bad), bad).to.equal(undefined);
  });

  it('answers containment as ipaddr.js does, and false across families', () => {
    fc.assert(
      fc.property(anyV4, fc.integer({ min: 0, max: 32 }), anyV4, (net, length, address) => {
        const prefix = { address: net, length };
        const theirs = ipaddr.IPv4.parse(formatIp(address)).match(ipaddr.IPv4.parse(formatIp(net)), length);
        expect(contains(prefix, address)).to.equal(theirs);
        const { first, last } = prefixRange(prefix);
        expect(contains(prefix, first) && contains(prefix, last)).to.equal(true);
      }),
    );
    expect(contains(mustPrefix('::/0'), mustIpv4('1.2.3.4'))).to.equal(false);
    expect(overlaps(mustPrefix('10.61.20.0/24'), mustPrefix('10.61.20.128/25'))).to.equal(true);
    expect(overlaps(mustPrefix('10.61.20.0/25'), mustPrefix('10.61.20.128/25'))).to.equal(false);
  });

  it('keeps sets canonical and obeys the laws of sets', () => {
    const naive = (ranges: readonly Range[]) => {
      const out = new Set<number>();
      for (const r of ranges) for (let a = r.first as number; a <= (r.last as number); a++) out.add(a);
      return out;
    };
    const list = fc.array(smallRange, { maxLength: 6 });
    fc.assert(
      fc.property(list, list, (a, b) => {
        const [x, y] = [IpSet.of(a), IpSet.of(b)];
        const [nx, ny] = [naive(a), naive(b)];
        expect(x.size).to.equal(nx.size);
        for (let i = 0; i <= 61; i++) {
          const at = ipv4(i);
          expect(x.union(y).has(at)).to.equal(nx.has(i) || ny.has(i));
          expect(x.minus(y).has(at)).to.equal(nx.has(i) && !ny.has(i));
          expect(x.intersect(y).has(at)).to.equal(nx.has(i) && ny.has(i));
        }
        expect(x.minus(y).union(x.intersect(y))).to.deep.equal(x);
        expect(x.within(y)).to.equal([...nx].every((n) => ny.has(n)));
        expect(x.meets(y)).to.equal([...nx].some((n) => ny.has(n)));
      }),
    );
    expect(IpSet.all(4).minus(IpSet.all(4)).isEmpty).to.equal(true);
    expect(IpSet.all(6).union(IpSet.all(4)).ranges).to.have.length(2);
  });

  it('tells special-purpose addresses from those that cross the internet', () => {
    for (const [text, what] of [
      ['10.61.20.1', 'private'],
      ['100.64.0.1', 'shared by providers'],
      ['169.254.1.1', 'link-local'],
      ['192.0.0.8', 'protocol assignments'],
      ['224.0.0.5', 'multicast'],
      ['255.255.255.255', 'reserved'],
      ['fd00::1', 'private'],
      ['fe80::1', 'link-local'],
      ['64:ff9b::1', 'outside the global unicast block'],
    ] as const)
      expect(specialRangeOf(parseIp(text)!)?.what, text).to.equal(what);
    for (const text of [
      '192.0.2.1',
      '198.51.100.1',
      '203.0.113.1',
      '198.18.0.1',
      '2001:db8::1',
      '11.0.0.0',
      '172.32.0.1',
    ])
      expect(isSpecial(parseIp(text)!), text).to.equal(false);
    expect(isPrivate(mustIpv4('127.0.0.1'))).to.equal(false);
    // The list of prefixes and the predicate say the same.
    for (const family of [4, 6] as const) {
      const set = IpSet.ofPrefixes(specialPrefixes(family));
      fc.assert(
        fc.property(family === 4 ? anyV4 : anyV6, (a) => {
          expect(set.has(a)).to.equal(isSpecial(a));
        }),
      );
    }
  });

  it('reads MAC addresses in the two usual forms only', () => {
    expect(formatMac(parseMac('02-61-00-00-AB-cd')!)).to.equal('02:61:00:00:ab:cd');
    for (const bad of ['02:61:00:00:20', '0261.0000.2020', '02:61:00-00:20:20', '02:61:00:00:20:2g'])
      expect(parseMac(bad), bad).to.equal(undefined);
  });

  it('shortens ranges only where that is still read the same', () => {
    const range = (a: string, b: string) => formatRangeShort({ first: mustIpv4(a), last: mustIpv4(b) });
    expect(range('10.61.20.50', '10.61.20.199')).to.equal('10.61.20.50-.199');
    expect(range('10.61.20.50', '10.61.21.199')).to.equal('10.61.20.50-.21.199');
    expect(range('10.61.20.50', '10.62.21.199')).to.equal('10.61.20.50-10.62.21.199');
    expect(range('10.61.20.50', '10.61.20.50')).to.equal('10.61.20.50');
  });

  it('matches and compares services', () => {
    const tcp = (first: number, last = first) => ({ kind: 'ports', proto: 6, first, last }) as const;
    expect(serviceTakes([tcp(80), tcp(8000, 8010)], { proto: 6, port: 8010 })).to.equal(true);
    expect(serviceTakes([tcp(80)], { proto: 17, port: 80 })).to.equal(false);
    expect(serviceTakes([{ kind: 'ping' }], { proto: 1 })).to.equal(false);
    expect(serviceTakes([{ kind: 'icmp' }], { proto: 1, echo: true })).to.equal(true);
    expect(servicesWithin([tcp(80, 90)], [tcp(0, 65535)])).to.equal(true);
    expect(servicesWithin([tcp(80, 90)], [tcp(80, 89)])).to.equal(false);
    expect(servicesWithin([{ kind: 'ping' }], [{ kind: 'icmp' }])).to.equal(true);
    expect(formatServices([tcp(80), tcp(8000, 8010)])).to.equal('http tcp 8000-8010');
    expect(formatServices([tcp(0, 65535), { kind: 'proto', proto: 50 }])).to.equal('tcp proto 50');
  });
});

describe('prefix translation (RFC 6296)', () => {
  const six = (text: string) => parsePrefix(text) as Prefix<Ipv6>;
  const at = (text: string) => parseIpv6(text)!;
  const sum = (a: bigint): number => {
    let left = Array.from({ length: 8 }, (_, i) => Number((a >> BigInt(16 * i)) & 0xffffn)).reduce(
      (x, y) => x + y,
      0,
    );
    while (left > 0xffff) left = (left & 0xffff) + (left >> 16);
    return left % 0xffff;
  };

  it('is that of the document’s own example, there and back', () => {
    const [inside, outside] = [six('fd01:203:405::/48'), six('2001:db8:1::/48')];
    expect(formatIp(nptAddress(at('fd01:203:405:1::1234'), inside, outside)!)).to.equal(
      '2001:db8:1:d550::1234',
    );
    expect(formatIp(nptAddress(at('2001:db8:1:d550::1234'), outside, inside)!)).to.equal(
      'fd01:203:405:1::1234',
    );
    expect(nptAddress(at('fd01:203:405:ffff::1'), inside, outside)).to.equal(undefined);
    expect(nptAddress(at('fd02::1'), inside, outside)).to.equal(undefined);
  });

  it('keeps the sum of all words, is of the new prefix, and leads back, whatever the prefixes', () => {
    const word = fc.bigInt({ min: 0n, max: (1n << 128n) - 1n });
    fc.assert(
      fc.property(word, word, word, fc.constantFrom(48, 56, 60, 64), (a, b, host, length) => {
        const low = (1n << BigInt(128 - length)) - 1n;
        const prefix = (x: bigint): Prefix<Ipv6> => ({ address: (x & ~low) as Ipv6, length });
        const source = ((a & ~low) | (host & low)) as Ipv6;
        const out = nptAddress(source, prefix(a), prefix(b));
        const barred = IpSet.of(nptUntranslated(prefix(a)));
        expect(out === undefined).to.equal(barred.has(source));
        if (out === undefined) return;
        expect(out & ~low).to.equal(b & ~low);
        expect(sum(out)).to.equal(sum(source));
        expect(nptAddress(out, prefix(b), prefix(a))).to.equal(source);
      }),
    );
  });
});
