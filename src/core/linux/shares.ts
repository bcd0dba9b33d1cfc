/**
 * Uplinks that share, told to nftables: maps from an octet of the source to the uplink that it takes, one for each time
 * that an uplink may be dead before. What routes more exact than the default lead to is not shared out; a lookup without
 * the default (`NO_DEFAULT`) tells.
 */
import { BUCKETS, bucketOf, isWide, preferenceOf } from '#core/semantics';
import type { ShareRule } from '#core/semantics';
import { formatRange } from '#core/addr';
import type { Interface } from '#core/site';
import { devices, quoted } from './match';
import { NO_DEFAULT, hex } from './numbers';
import type { Statements } from './statements';
import type { Told } from './told';

/** The parts of an address by which sources are told apart. */
const OCTETS = [
  { name: 'last', mask: '0.0.0.255', wide: false, key: (n: number) => `0.0.0.${n}` },
  { name: 'third', mask: '0.0.255.0', wide: true, key: (n: number) => `0.0.${n}.0` },
] as const;

export interface ShareLines {
  /** Sets and maps of the table. */
  readonly sets: readonly string[];
  readonly chains: readonly { readonly name: string; readonly lines: readonly string[] }[];
  /** Of the chain that asks them; the mark says the table. */
  readonly lines: readonly string[];
}

/** What `nft` is told of all sharings. */
export function shareLines(told: Told, statements: Statements): ShareLines {
  const parts = told.rules.shares.map((rule, n) => oneShare(told, statements, rule, n + 1));
  return {
    sets: parts.flatMap((p) => p.sets),
    chains: parts.flatMap((p) => p.chains),
    lines: parts.flatMap((p) => p.lines),
  };
}

function oneShare(told: Told, statements: Statements, rule: ShareRule, n: number): ShareLines {
  const { live, numbers, dev } = told;
  const uplinks = rule.uplinks.flatMap(({ name }) => live.find((i) => i.name === name) ?? []);
  const orders = [...Array(BUCKETS).keys()].map((octet) => preferenceOf(bucketOf(octet), rule.uplinks));
  const sets: string[] = [];
  const asked: string[] = [];
  const chains: { name: string; lines: string[] }[] = [];
  for (const { name, mask, wide, key } of OCTETS) {
    const from = live
      .filter((i) => i.table === rule.table && i.carrier !== 'loopback')
      .flatMap((i) =>
        (rule.from.get(i.name)?.ranges ?? [])
          .filter((r) => isWide(r) === wide)
          .map((r) => `${quoted(dev(i))} . ${formatRange(r)}`),
      );
    if (!from.length) continue;
    sets.push(
      `set shared/${n}/${name} { type ifname . ipv4_addr ; flags interval ; elements = { ${from.join(', ')} } ; }`,
    );
    const turns = rule.uplinks.map((_, turn) => {
      const all = orders.map((order, octet) => `${key(octet)} : jump take/${order[turn]}`);
      sets.push(
        `map share/${n}/${name}/${turn + 1} { type ipv4_addr : verdict ; elements = { ${all.join(', ')} } ; }`,
      );
      return `ip saddr & ${mask} vmap @share/${n}/${name}/${turn + 1}`;
    });
    const exact = [
      `meta mark set ${hex(NO_DEFAULT + numbers.ofTable(rule.table))}`,
      'fib daddr . mark oif exists return',
    ];
    chains.push({ name: `share/${n}/${name}`, lines: [...exact, ...turns] });
    asked.push(`iifname . ip saddr @shared/${n}/${name} jump share/${n}/${name}`);
  }
  chains.push({ name: `share/${n}`, lines: asked });
  return {
    sets,
    chains: [...uplinks.map((i) => takeChain(told, statements, i)), ...chains],
    lines: [`meta nfproto ipv4 fib daddr . mark oifname ${devices(uplinks.map(dev))} jump share/${n}`],
  };
}

/** By one uplink, if it lives and has a way there. */
function takeChain({ numbers }: Told, statements: Statements, i: Interface) {
  const { hit, comment } = statements.tells(i.statement, 'share');
  const number = numbers.ofInterface(i.name);
  return {
    name: `take/${i.name}`,
    lines: [
      `meta mark set ${hex(number)}`,
      `meta mark != @dead fib daddr . mark oif exists ${hit}ct mark set ct mark or ${hex(number * 0x10000)} accept${comment}`,
    ],
  };
}
