/** An address plan beside a site: which network of one is which of the other, and in what they differ. */
import { isIpv4, networkOf, prefixEquals } from '#core/addr';
import type { Ipv4, Mac, Prefix, Range } from '#core/addr';
import { primaryAddress } from '#core/site';
import type { Interface, Site } from '#core/site';

/** One network of a plan; what its sheet says nothing about is absent, and is not compared. */
export interface PlanNetwork {
  readonly name?: string;
  /** 1 to 4094. */
  readonly tag?: number;
  /** The box's own address in it, with its length. */
  readonly own?: Prefix<Ipv4>;
  /** Empty: the sheet says that nothing is lent. */
  readonly pool?: readonly Range[];
  readonly zone?: string;
  readonly note?: string;
}

/** One reservation of a plan. */
export interface PlanReservation {
  readonly mac: Mac;
  readonly address: Ipv4;
  readonly label?: string;
}

export type PlanField = 'name' | 'tag' | 'own' | 'pool' | 'zone';

/** How a row of a plan stands beside the site. */
export interface Compared<T> {
  /** Place among the rows. */
  readonly row: number;
  readonly planned: T;
  /** The interface that it is; absent where the site has none. */
  readonly iface?: Interface;
  /** What differs; empty where nothing does, or where there is nothing to compare with. */
  readonly differs: readonly PlanField[];
}

export interface PlanComparison {
  readonly rows: readonly Compared<PlanNetwork>[];
  /** Inside networks that no row of the plan is. */
  readonly onlyHere: readonly Interface[];
}

/** The networks of a site that a plan is about: inside, with a port, in file order. */
export const plannedIn = (site: Site): readonly Interface[] =>
  site.interfaces.filter((i) => !i.uplink && i.carrier !== 'loopback');

/** Compares row by row. A row is the interface with its tag, else with its name, else with its subnet. */
export function comparePlan(site: Site, rows: readonly PlanNetwork[]): PlanComparison {
  const free = new Set(plannedIn(site));
  const found = new Map<number, Interface>();
  const match = (same: (row: PlanNetwork, iface: Interface) => boolean) => {
    for (const [i, row] of rows.entries()) {
      if (found.has(i)) continue;
      const iface = [...free].find((f) => same(row, f));
      if (!iface) continue;
      found.set(i, iface);
      free.delete(iface);
    }
  };
  match((row, iface) => row.tag !== undefined && row.tag === iface.tag);
  match((row, iface) => row.name !== undefined && row.name === iface.name);
  match((row, iface) => {
    const own = primaryAddress(iface);
    return !!row.own && !!own && prefixEquals(networkOf(row.own), networkOf(own));
  });
  return {
    rows: rows.map((planned, row) => {
      const iface = found.get(row);
      return { row, planned, iface, differs: iface ? differing(planned, iface) : [] };
    }),
    onlyHere: [...free],
  };
}

function differing(row: PlanNetwork, iface: Interface): PlanField[] {
  const own = primaryAddress(iface);
  const out: PlanField[] = [];
  if (row.name !== undefined && row.name !== iface.name) out.push('name');
  if (row.tag !== undefined && row.tag !== iface.tag) out.push('tag');
  if (row.own && !(own && prefixEquals(row.own, own))) out.push('own');
  if (row.pool && poolText(row.pool) !== poolText(iface.pools.flatMap((p) => p.ranges))) out.push('pool');
  if (row.zone !== undefined && row.zone !== iface.zone?.name) out.push('zone');
  return out;
}

const poolText = (ranges: readonly Range[]): string => ranges.map((r) => `${r.first}-${r.last}`).join(' ');

export interface ComparedReservation {
  readonly row: number;
  readonly planned: PlanReservation;
  /** The interface whose network the address is in; absent where none has it. */
  readonly iface?: Interface;
  /** The address that the same device is kept now, wherever that is. */
  readonly kept?: { readonly iface: Interface; readonly address: Ipv4; readonly label: string };
  readonly is: 'same' | 'differs' | 'only-there';
}

/** Compares reservations by MAC address. */
export function compareReservations(
  site: Site,
  rows: readonly PlanReservation[],
): { readonly rows: readonly ComparedReservation[]; readonly onlyHere: readonly PlanReservation[] } {
  const kept = site.interfaces.flatMap((iface) =>
    iface.reserved.flatMap((r) => (isIpv4(r.address) ? [{ iface, ...r, address: r.address }] : [])),
  );
  const seen = new Set<Mac>(rows.map((r) => r.mac));
  return {
    rows: rows.map((planned, row) => {
      const now = kept.find((k) => k.mac === planned.mac);
      const iface = site.interfaces.find((i) =>
        i.addresses.some(
          (a) =>
            isIpv4(a.prefix.address) &&
            prefixEquals(
              networkOf(a.prefix),
              networkOf({ address: planned.address, length: a.prefix.length }),
            ),
        ),
      );
      const label = planned.label === undefined || planned.label === (now?.label ?? '');
      const is = !now ? 'only-there' : now.address === planned.address && label ? 'same' : 'differs';
      return {
        row,
        planned,
        iface,
        kept: now && { iface: now.iface, address: now.address, label: now.label ?? '' },
        is,
      };
    }),
    onlyHere: kept.flatMap((k) =>
      seen.has(k.mac) ? [] : [{ mac: k.mac, address: k.address, label: k.label }],
    ),
  };
}
