/** Blocks of flows: every source with every destination for every service. Regions are lists of blocks that share no flow. */
import { IpSet, specialPrefixes } from '#core/addr';
import type { Family, FlowService, Ip, ServiceSet } from '#core/addr';

export const FAMILIES: readonly Family[] = [4, 6];
/** Every address of a family. */
export const ALL = { 4: IpSet.all(4), 6: IpSet.all(6) } as const;
/** The addresses of a family that never cross the internet. */
export const SPECIAL = {
  4: IpSet.ofPrefixes(specialPrefixes(4)),
  6: IpSet.ofPrefixes(specialPrefixes(6)),
} as const;

export interface Block {
  readonly sources: IpSet;
  readonly destinations: IpSet;
  readonly services: ServiceSet;
}

/** Blocks that share no flow. */
export type Region = readonly Block[];

/** One flow, by its first packet. */
export interface Point {
  readonly source: Ip;
  readonly destination: Ip;
  readonly service: FlowService;
}

const isEmpty = (b: Block): boolean => b.sources.isEmpty || b.destinations.isEmpty || b.services.isEmpty;

/** What two blocks share, or undefined for nothing; the first itself where all of it is in the second. */
export function meet(a: Block, b: Block): Block | undefined {
  const services = a.services.intersect(b.services);
  if (services.isEmpty) return undefined;
  const sources = a.sources.intersect(b.sources);
  if (sources.isEmpty) return undefined;
  const destinations = a.destinations.intersect(b.destinations);
  if (destinations.isEmpty) return undefined;
  const whole = services === a.services && sources === a.sources && destinations === a.destinations;
  return whole ? a : { sources, destinations, services };
}

/** One block without what another shares with it: at most three blocks. */
export function without(a: Block, b: Block): Region {
  const shared = meet(a, b);
  if (!shared) return [a];
  if (shared === a) return [];
  const { sources } = shared;
  return [
    { ...a, services: a.services.minus(b.services) },
    { sources: a.sources.minus(b.sources), destinations: a.destinations, services: shared.services },
    { sources, destinations: a.destinations.minus(b.destinations), services: shared.services },
  ].filter((x) => !isEmpty(x));
}

/** A region without a block. */
export const cut = (region: Region, b: Block): Region => region.flatMap((a) => without(a, b));

/** A region without another. */
export const cutAll = (region: Region, others: Region): Region =>
  others.reduce((left, b) => (left.length ? cut(left, b) : left), region);

/** What a region shares with a block. */
export const within = (region: Region, b: Block): Region => region.flatMap((a) => meet(a, b) ?? []);

export const has = (b: Block, p: Point): boolean =>
  b.services.has(p.service) && b.sources.has(p.source) && b.destinations.has(p.destination);

/** Joins blocks that differ in one dimension only, as far as one pass finds them. */
export function tidy(region: Region): Region {
  if (region.length < 2) return region;
  const bySides = new Map<string, Block[]>();
  for (const b of region) {
    const key = `${b.services.key}|${b.sources.key}`;
    const same = bySides.get(key);
    if (same) same.push(b);
    else bySides.set(key, [b]);
  }
  return [...bySides.values()].map((same) =>
    same.length === 1
      ? same[0]!
      : { ...same[0]!, destinations: IpSet.of(same.flatMap((b) => b.destinations.ranges)) },
  );
}

/** One flow of a block: a source that is not its destination, where there is one. */
export function pointOf(b: Block): Point {
  const source = b.sources.ranges[0]!.first;
  const others = b.destinations.minus(b.sources);
  const destination =
    (others.isEmpty ? undefined : others.ranges[0]!.first) ??
    (b.destinations.ranges[0]!.first === source
      ? b.destinations.ranges.at(-1)!.last
      : b.destinations.ranges[0]!.first);
  return { source, destination, service: b.services.sample(typeof source === 'number' ? 4 : 6) };
}
