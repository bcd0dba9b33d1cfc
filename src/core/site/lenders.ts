/**
 * Who lends IPv4 addresses on a segment beside the box's own pools: routers and stations that sit on it, and the
 * servers elsewhere that the box or a router asks for the clients there (RFC 2131 §4.1).
 */
import { contains, isIpv4 } from '#core/addr';
import type { Ip, Ipv4, Prefix } from '#core/addr';
import { interfaceFor, routersOn } from './inside';
import { interfaceAt, segmentOf } from './segments';
import type { Landing } from './segments';
import type { Pool, Site } from './types';
import type { InsideRouter, Station, Wiring } from './wiring';

/** A pool that is lent on a segment, and by whom. */
export interface Lender {
  readonly by: InsideRouter | Station;
  readonly pool: Pool;
  readonly network: Prefix<Ipv4>;
  /** What clients are told to send by. */
  readonly gateway?: Ip;
}

/** A side that asks servers elsewhere, by the address that it asks from. */
export interface Relaying {
  readonly from: Prefix<Ipv4>;
  readonly servers: readonly Ipv4[];
}

/** Those who ask servers elsewhere for the clients of a segment, the box first. */
export function relayingAt(site: Site, wiring: Wiring, landing: Landing): Relaying[] {
  const iface = interfaceAt(site, landing);
  const own = iface?.addresses.find((a) => a.primary)?.prefix;
  const here = routersOn(wiring, segmentOf(site, landing));
  return [
    ...(iface?.relays.length && own && isIpv4(own.address)
      ? [{ from: own as Prefix<Ipv4>, servers: iface.relays }]
      : []),
    ...here
      .filter(({ leg }) => leg.relays.length)
      .map(({ leg }) => ({ from: leg.address, servers: leg.relays })),
  ];
}

/** Whether a server's answer finds back to who asked it: on its own network, or by its gateway. */
const findsBack = (station: Station, to: Ipv4): boolean =>
  !!station.address && (contains(station.address, to) || station.gateway !== undefined);

/** What a station lends in the network of a relay that asks it: nothing where they are not in one table. */
export function lentTo(site: Site, wiring: Wiring, relaying: Relaying, landing: Landing): Lender[] {
  const table = interfaceAt(site, landing)?.table;
  const relay = relaying.from.address;
  return relaying.servers.flatMap((server) =>
    wiring.stations
      .filter(
        (s) =>
          !s.off &&
          s.address?.address === server &&
          (table === undefined || interfaceFor(site, wiring, s)?.table === table) &&
          findsBack(s, relay),
      )
      .flatMap((s) =>
        s.lends
          .filter((p) => contains(p.network, relay))
          .map((pool): Lender => {
            // On its own network it tells its own way out.
            const gateway = pool.gateway ?? (contains(s.address!, relay) ? s.gateway : relay);
            return { by: s, pool, network: pool.network, gateway };
          }),
      ),
  );
}

/** Everybody who lends on a segment beside the box's own pools: who sits there before who is asked elsewhere. */
export function lendersAt(site: Site, wiring: Wiring, landing: Landing): Lender[] {
  const segment = segmentOf(site, landing);
  if (segment === undefined) return [];
  const routers = routersOn(wiring, segment).flatMap(({ router, leg }): Lender[] => {
    const gateway = leg.pool?.gateway ?? leg.address.address;
    return leg.pool ? [{ by: router, pool: leg.pool, network: leg.address, gateway }] : [];
  });
  const near = wiring.stations
    .filter((s) => s.lends.length && !s.off && segmentOf(site, s.landing) === segment)
    .flatMap((s) =>
      s.lends
        .filter((p) => s.address && contains(p.network, s.address.address))
        .map((pool): Lender => ({ by: s, pool, network: pool.network, gateway: pool.gateway ?? s.gateway })),
    );
  const asked = relayingAt(site, wiring, landing).flatMap((r) => lentTo(site, wiring, r, landing));
  return [...routers, ...near, ...asked];
}
