/** What rules of nftables match, in its own words (nft(8)). One thing to match may take several lines: an address family each. */
import { IpSet, formatIp, formatRange } from '#core/addr';
import type { Family, Ipv6, ServiceItem, Services } from '#core/addr';
import { formatDay } from '#core/base';
import type { Day } from '#core/base';

/** Families that a line may still be about; both where no address says which. */
export type Families = 'both' | Family;

/** A part of a rule with the family that it is about. */
export interface Match {
  readonly family: Families;
  readonly text: string;
}

/** How nft calls the header of a family. */
export const WORD = { 4: 'ip', 6: 'ip6' } as const;
export const FAMILIES = [4, 6] as const;
const ECHO = { 4: 'icmp type echo-request', 6: 'icmpv6 type echo-request' } as const;

/** A set of addresses of one family; empty where it has none. */
export const setOf = (set: IpSet, family: Family): string => {
  const { ranges } = set.only(family);
  return ranges.length ? `{ ${ranges.map(formatRange).join(', ')} }` : '';
};

/** Both families, while the clock of the box is believed: the hinge fills it. */
export const DATED = 'dated';

/**
 * What is taken up to a day and no longer; the box asks its own clock, by its own time of day (nft(8), META
 * EXPRESSIONS, `time`). What lets something in counts only while the clock is believed: one that has lost its time would
 * open again what has ended.
 */
export const untilMatch = (until: Day | undefined, allows: boolean): string =>
  until === undefined
    ? ''
    : `${allows ? `meta nfproto @${DATED} ` : ''}meta time < "${formatDay((until + 1) as Day)}" `;

/** A host by the last 64 bits of its address, on a device: its network may be another tomorrow. */
export interface SuffixOn {
  readonly suffix: bigint;
  readonly device: string;
}

/** The set of what the names of a known host lead to; whoever keeps the uplinks fills it. */
export const namedSet = (known: string, family: Family): string => `named${family}/${known}`;

/** One end of a flow. No line where the set is empty: it can match nothing. */
export const sideMatches = (
  word: 'saddr' | 'daddr',
  set: IpSet | undefined,
  suffixes: readonly SuffixOn[] = [],
  names: readonly string[] = [],
): readonly Match[] =>
  set === undefined
    ? [{ family: 'both', text: '' }]
    : [
        ...FAMILIES.flatMap((family): Match[] => {
          const text = setOf(set, family);
          return text ? [{ family, text: `${WORD[family]} ${word} ${text} ` }] : [];
        }),
        ...names.flatMap((name) =>
          FAMILIES.map((f): Match => ({ family: f, text: `${WORD[f]} ${word} @${namedSet(name, f)} ` })),
        ),
        ...suffixes.map(({ suffix, device }): Match => {
          const side = word === 'saddr' ? 'iifname' : 'oifname';
          const host = formatIp(suffix as Ipv6);
          return {
            family: 6,
            text: `${side} ${quoted(device)} ip6 ${word} & ::ffff:ffff:ffff:ffff == ${host} `,
          };
        }),
      ];

/** Two parts at once; none where they are about different families. */
export const both = (a: readonly Match[], b: readonly Match[]): readonly Match[] =>
  a.flatMap((x) =>
    b.flatMap((y) =>
      x.family === 'both' || y.family === 'both' || x.family === y.family
        ? [{ family: x.family === 'both' ? y.family : x.family, text: x.text + y.text }]
        : [],
    ),
  );

const portsText = (first: number, last: number): string => (first === last ? `${first}` : `${first}-${last}`);

/** A specification of services, ports of one protocol as one set. */
export function serviceMatches(services: Services): readonly Match[] {
  if (services.some((s) => s.kind === 'any')) return [{ family: 'both', text: '' }];
  const out: Match[] = [];
  for (const proto of [6, 17] as const) {
    const word = proto === 6 ? 'tcp' : 'udp';
    const ports = services.filter((s) => s.kind === 'ports').filter((s) => s.proto === proto);
    if (ports.some((s) => s.first === 0 && s.last === 65535))
      out.push({ family: 'both', text: `meta l4proto ${proto} ` });
    else if (ports.length) {
      const merged = mergedPorts(ports);
      const list = merged.map((p) => portsText(p.first, p.last));
      out.push({
        family: 'both',
        text: `${word} dport ${list.length > 1 ? `{ ${list.join(', ')} }` : list[0]!} `,
      });
    }
  }
  const protos = services.filter((s) => s.kind === 'proto').map((s) => s.proto);
  const pings = (family: Family) =>
    services.some((s) => s.kind === 'ping' || s.kind === 'icmp') || protos.includes(family === 4 ? 1 : 58);
  // Only what asks starts a flow: an error or an answer that fits none is dropped before.
  for (const family of FAMILIES) if (pings(family)) out.push({ family, text: `${ECHO[family]} ` });
  const rest = [...new Set(protos)].filter((p) => p !== 1 && p !== 58);
  if (rest.length)
    out.push({
      family: 'both',
      text: `meta l4proto ${rest.length > 1 ? `{ ${rest.join(', ')} }` : rest[0]!} `,
    });
  return out;
}

/** Stretches of ports, those that meet as one: a set of nftables has no two that overlap. */
function mergedPorts(
  ports: readonly { readonly first: number; readonly last: number }[],
): { first: number; last: number }[] {
  const out: { first: number; last: number }[] = [];
  for (const { first, last } of [...ports].sort((a, b) => a.first - b.first)) {
    const end = out.at(-1);
    if (end && first <= end.last + 1) end.last = Math.max(end.last, last);
    else out.push({ first, last });
  }
  return out;
}

export const itemMatches = (item: ServiceItem): readonly Match[] => serviceMatches([item]);

/** A name of nftables in quotes, as names of devices and comments are written. */
export const quoted = (text: string): string => `"${text.replace(/["\\]/g, "'").replace(/[^ -~]/g, '?')}"`;

/** Devices: one as it is, several as a set. */
export const devices = (names: readonly string[]): string =>
  names.length === 1 ? quoted(names[0]!) : `{ ${names.map(quoted).join(', ')} }`;
