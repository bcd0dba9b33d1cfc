/**
 * Prefix translation (RFC 6296) as nftables can say it: packet by packet and without a state, so that sums stay as they
 * are. Outwards it is the last that happens to a packet, inwards the first, before flows are looked up: all between sees
 * inside addresses. One's complement addition, which nft has not, is made of tables of bytes.
 */
import { IpSet, formatPrefix, nptDifference } from '#core/addr';
import type { Ipv6, Prefix } from '#core/addr';
import type { LeaveRule } from '#core/semantics';
import type { Interface } from '#core/site';
import { devices, setOf, sideMatches } from './match';
import { hex } from './numbers';
import type { Told } from './told';

/** Set on what was translated inwards, until it is known whether it belongs to a flow. */
const INWARDS = 0x20000;

/** Where an address begins: a header of nft's (`@nh` the packet's, `@th` that behind it), and bits from its start. */
type Field = readonly [header: '@nh' | '@th', bit: number];
const SOURCE: Field = ['@nh', 64];
const DESTINATION: Field = ['@nh', 192];
/** In the packet that an ICMPv6 error quotes, behind eight octets of its own (RFC 4443 §3). */
const QUOTED_SOURCE: Field = ['@th', 64 + 64];
const QUOTED_DESTINATION: Field = ['@th', 64 + 192];
const ERRORS = 'icmpv6 type { 1, 2, 3, 4 } ';

interface Chain {
  readonly name: string;
  readonly hook: string;
  readonly lines: readonly string[];
}

/** The first bits of an address, as nft sets and compares them. */
const bits = (address: bigint, first: number, count: number): string =>
  `0x${((address >> BigInt(128 - first - count)) & ((1n << BigInt(count)) - 1n)).toString(16)}`;

const at = ([header, bit]: Field, first: number, count: number): string =>
  `${header},${bit + first},${count}`;

/** Bytes that are added to: a table each, by what is added. */
class Sums {
  private readonly used = new Set<number>();

  /** Sets a byte to itself and so much more, whatever is carried. */
  add(byte: string, more: number): string {
    const n = more & 0xff;
    this.used.add(n);
    return `${byte} set ${byte} map @npt/add/${n} `;
  }

  maps(): string[] {
    return [...this.used]
      .sort((a, b) => a - b)
      .map((n) => {
        const elements = Array.from({ length: 256 }, (_, x) => `${x} : ${(x + n) & 0xff}`);
        return `map npt/add/${n} { typeof @nh,0,8 : @nh,0,8 ; elements = { ${elements.join(', ')} } ; }`;
      });
  }
}

/** Lines that make an address of one prefix one of another; what cannot be translated is left as it is. */
function translation(field: Field, from: Prefix<Ipv6>, to: Prefix<Ipv6>, sums: Sums, end: string): string[] {
  const { length } = from;
  const difference = nptDifference(from, to);
  const whole = Math.min(length, 48);
  const prefix =
    `${at(field, 0, whole)} set ${bits(to.address, 0, whole)} ` +
    (length > whole
      ? `${at(field, whole, length - whole)} set ${bits(to.address, whole, length - whole)} `
      : '');
  // Of /48 the subnet takes the difference, else the first word of the host that is not all ones (§3.5).
  const words = length <= 48 ? [3] : [4, 5, 6, 7];
  return words.flatMap((w, i) => {
    const before = words.slice(0, i).map((o) => `${at(field, o * 16, 16)} == 0xffff `);
    const word = at(field, w * 16, 16);
    const [high, low] = [at(field, w * 16, 8), at(field, w * 16 + 8, 8)];
    const line = (when: string, change: string): string =>
      `${before.join('')}${when}${change}${prefix}${end}`;
    /** Adds without what is carried out, where the word is in a range. */
    const plus = (first: number, last: number, more: number): string[] => {
      if (first > last) return [];
      const [byHigh, byLow] = [more >> 8, more & 0xff];
      const inRange = `${word} ${hex(first)}-${hex(last)} `;
      const change = (carried: number) => sums.add(low, byLow) + sums.add(high, byHigh + carried);
      return byLow === 0
        ? [line(inRange, change(0))]
        : [
            line(`${inRange}${low} <= ${hex(0xff - byLow)} `, change(0)),
            line(`${inRange}${low} > ${hex(0xff - byLow)} `, change(1)),
          ];
    };
    const zero = 0xffff - difference;
    return [
      // All ones is another way to write nothing, and is not written.
      ...(zero < 0xffff ? [line(`${word} == ${hex(zero)} `, `${word} set 0x0 `)] : []),
      ...plus(0, zero - 1, difference),
      // What is carried out comes in again.
      ...plus(zero + 1, 0xfffe, difference + 1),
    ];
  });
}

/** What of leaving is prefix translation: chains of its own, and their tables. */
export function translating(
  told: Told,
  /** How a rule of leaving is asked of a flow: by where it arrived; undefined where nothing arrives so. */
  arrival: (rule: LeaveRule) => string | undefined,
): { readonly maps: readonly string[]; readonly chains: readonly Chain[] } {
  const six = told.rules.leaves.filter((r) => r.family === 6);
  const rules = six.flatMap((r) => (r.action.as === 'prefix' ? [{ rule: r, ...r.action }] : []));
  if (!rules.length) return { maps: [], chains: [] };
  const sums = new Sums();
  const out = (rule: LeaveRule): readonly Interface[] => told.live.filter((i) => rule.out.has(i.name));
  const named = (n: number, way: string) => `npt/${n}/${way}`;
  const inner = rules.flatMap(({ from, to }, n): Chain[] => {
    const chain = (way: string, lines: readonly string[]): Chain => ({
      name: named(n, way),
      hook: '',
      lines,
    });
    const quotes = (field: Field, prefix: Prefix<Ipv6>, way: string): string =>
      `${ERRORS}${at(field, 0, prefix.length)} == ${bits(prefix.address, 0, prefix.length)} jump ${named(n, way)}`;
    return [
      chain('quoted-out', translation(QUOTED_DESTINATION, from, to, sums, 'return')),
      chain('out', [
        quotes(QUOTED_DESTINATION, from, 'quoted-out'),
        ...translation(SOURCE, from, to, sums, 'accept'),
      ]),
      chain('quoted-in', translation(QUOTED_SOURCE, to, from, sums, 'return')),
      chain('in', [
        quotes(QUOTED_SOURCE, to, 'quoted-in'),
        ...translation(DESTINATION, to, from, sums, `meta mark set ${hex(INWARDS)} accept`),
      ]),
    ];
  });
  const outwards = six.flatMap((rule): string[] => {
    const who = arrival(rule);
    const list = out(rule);
    if (who === undefined || !list.length) return [];
    const n = rules.findIndex((r) => r.rule === rule);
    const heads = sideMatches('saddr', rule.sources, [], rule.sourceNames).filter((m) => m.family !== 4);
    return heads.map(
      (m) =>
        `oifname ${devices(list.map(told.dev))} ${who}${m.text}${n < 0 ? 'accept' : `goto ${named(n, 'out')}`}`,
    );
  });
  // Somebody has these, or shows them.
  const others = claimed(told);
  const inwards = rules.flatMap(({ rule, to }, n): string[] => {
    const list = out(rule);
    return list.length
      ? [
          `iifname ${devices(list.map(told.dev))} ip6 daddr ${formatPrefix(to)} ${others}fib daddr type != local goto ${named(n, 'in')}`,
        ]
      : [];
  });
  return {
    maps: sums.maps(),
    chains: [
      ...inner,
      { name: 'translated', hook: 'type filter hook prerouting priority -301', lines: inwards },
      // Answers come in by it; nothing begins.
      {
        name: 'answers-only',
        hook: 'type filter hook prerouting priority -199',
        lines: [`meta mark ${hex(INWARDS)} ct state new drop`],
      },
      {
        name: 'translating',
        hook: 'type filter hook postrouting priority 310',
        lines: [
          // Not what the box makes itself, and not the answers to what began outside.
          'ct mark and 0xffff == 0 accept',
          'ct direction reply accept',
          ...outwards,
        ],
      },
    ],
  };
}

/** Addresses outside that doors are at, or that somebody leaves as: a match, or nothing. */
function claimed({ rules }: Told): string {
  const all = IpSet.ofAddresses([
    ...rules.doors.map((d) => d.outside),
    ...rules.leaves.flatMap((r) => (r.action.as === 'address' ? [r.action.address] : [])),
  ]);
  const set = setOf(all, 6);
  return set && `ip6 daddr != ${set} `;
}
