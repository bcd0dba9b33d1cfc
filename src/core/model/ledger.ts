/** The public addresses of the box, one a line: what each is used for, and which are free. */
import { addressesIn, hostPrefix, hostRange, isIpv4, networkOf, offsetIp, prefixRange } from '#core/addr';
import type { Ip, Ipv4, Prefix } from '#core/addr';
import { MOST_MAPPED } from '#core/notation';
import { isTranslation } from '#core/semantics';
import { addressesOf, circuitsOf } from '#core/site';
import type { Interface, Prospects } from '#core/site';
import type { Model } from './model';

export type LedgerUse = 'gateway' | 'box' | 'also' | 'shared' | 'twin' | 'door' | 'leaves' | 'free';

export interface LedgerLine {
  readonly address: Ipv4;
  readonly interface: string;
  /** Every use, the first the most telling; `free` alone where there is none. */
  readonly uses: readonly { readonly use: LedgerUse; readonly subject?: string }[];
}

/** Longest block that is written out line by line; of a larger one only what is used is told. */
const LONGEST = 24;

/** Every IPv4 address that the uplinks have, in the order of uplinks and addresses. */
export function ledgerOf(model: Model): LedgerLine[] {
  const uplinks = model.site.interfaces.filter((i) => i.uplink);
  return uplinks.flatMap((iface) => linesOf(model, iface, usesOf(model, iface)));
}

/** The addresses of an uplink that nothing uses yet. */
export const freePublic = (model: Model, iface?: string): Ipv4[] =>
  ledgerOf(model).flatMap((line) =>
    line.uses[0]?.use === 'free' && (iface === undefined || line.interface === iface) ? [line.address] : [],
  );

/** A line of the ledger, or a stretch of free ones that are told as one. */
export interface LedgerRow extends LedgerLine {
  /** The last address of a stretch. */
  readonly last?: Ipv4;
  readonly count: number;
}

/** Free addresses in a row that are still told one by one. */
const FEW = 8;

/** The lines with long stretches of free addresses as one row each. */
export function foldFree(lines: readonly LedgerLine[]): LedgerRow[] {
  const out: LedgerRow[] = [];
  for (let i = 0; i < lines.length;) {
    const line = lines[i]!;
    let end = i + 1;
    const isFree = (l: LedgerLine | undefined) => l?.uses[0]?.use === 'free';
    if (isFree(line)) while (isFree(lines[end]) && lines[end]!.address === line.address + (end - i)) end++;
    const run = lines.slice(i, end);
    if (run.length > FEW) out.push({ ...line, last: run.at(-1)!.address, count: run.length });
    else out.push(...run.map((l) => ({ ...l, count: 1 })));
    i = end;
  }
  return out;
}

type Uses = Map<Ipv4, { use: LedgerUse; subject?: string }[]>;

/** The address that an uplink is foreseen to learn. */
const learnedBy = ({ uplinks }: Prospects, iface: Interface): Prefix<Ipv4> | undefined =>
  iface.dynamic === undefined ? undefined : uplinks.get(iface.name)?.address;

function usesOf({ site, wiring, prospects }: Model, iface: Interface): Uses {
  const uses: Uses = new Map();
  const add = (address: Ip | undefined, use: LedgerUse, subject?: string) => {
    if (address === undefined || !isIpv4(address)) return;
    const list = uses.get(address) ?? [];
    if (!list.length) uses.set(address, list);
    if (!list.some((u) => u.use === use && u.subject === subject)) list.push({ use, subject });
  };
  if (iface.gateway.by === 'address') add(iface.gateway.address, 'gateway');
  for (const circuit of circuitsOf(wiring, iface)) if (!circuit.supposed) add(circuit.gateway, 'gateway');
  for (const own of iface.addresses)
    add(own.prefix.address, own.primary ? 'box' : own.virtual ? 'shared' : 'also', iface.statement.subject);
  add(iface.shared?.other, 'twin', iface.statement.subject);
  add(learnedBy(prospects, iface)?.address, 'box', iface.statement.subject);
  for (const door of site.doors)
    if (door.outside)
      add(
        'address' in door.outside.value
          ? door.outside.value.address
          : 'interface' in door.outside.value && door.outside.value.interface.name === iface.name
            ? addressesOf(iface, prospects).find((a) => isIpv4(a.address))?.address
            : undefined,
        'door',
        door.subject,
      );
  for (const leave of site.leaves)
    if (leave.as?.by === 'address') add(leave.as.address.value, 'leaves', leave.subject);
  const many: [Prefix, LedgerUse, string][] = [
    ...site.doors.flatMap((d): [Prefix, LedgerUse, string][] =>
      d.outside && 'prefix' in d.outside.value ? [[d.outside.value.prefix, 'door', d.subject]] : [],
    ),
    ...site.leaves.flatMap((l): [Prefix, LedgerUse, string][] =>
      l.as?.by === 'prefix' && !isTranslation(l.as.prefix.value)
        ? [[l.as.prefix.value, 'leaves', l.subject]]
        : [],
    ),
  ];
  for (const [prefix, use, subject] of many) {
    for (const address of addressesIn(prefix, MOST_MAPPED)) add(address, use, subject);
  }
  return uses;
}

function linesOf({ wiring, prospects }: Model, iface: Interface, uses: Uses): LedgerLine[] {
  const learned = learnedBy(prospects, iface);
  // Of a network that others have addresses in, too, only what was lent is the box's.
  const lent = learned && hostPrefix(learned.address);
  const routed = [
    ...(iface.block?.routed ? [iface.block.prefix] : []),
    ...circuitsOf(wiring, iface).flatMap((c) => (c.supposed ? [] : c.routes.map((r) => r.prefix))),
  ];
  const nets = [
    ...iface.addresses.map((a) => networkOf(a.prefix)),
    ...(lent ? [lent] : []),
    ...(iface.block && !iface.block.routed ? [iface.block.prefix] : []),
    ...routed,
  ].filter((p): p is Prefix<Ipv4> => isIpv4(p.address));
  const seen = new Set<Ipv4>();
  const lines: LedgerLine[] = [];
  const free = { use: 'free' as const };
  for (const net of nets) {
    // A routed block has no network and broadcast address of its own: every one can serve.
    const isBlock = routed.includes(net);
    const { first, last } = isBlock ? prefixRange(net) : hostRange(net);
    for (
      let at: Ip | undefined = first;
      net.length >= LONGEST && at !== undefined && at <= last;
      at = offsetIp(at, 1)
    ) {
      const address = at;
      if (seen.has(address)) continue;
      seen.add(address);
      lines.push({ address, interface: iface.name, uses: uses.get(address) ?? [free] });
    }
    if (net.length < LONGEST)
      for (const [address, of] of uses)
        if (address >= first && address <= last && !seen.has(address)) {
          seen.add(address);
          lines.push({ address, interface: iface.name, uses: of });
        }
  }
  return lines;
}
