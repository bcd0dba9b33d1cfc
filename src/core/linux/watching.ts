/**
 * Which uplinks are watched, a line each:
 * `UPLINK DEVICE NUMBER EVERY LOST SETTLE GATEWAY4 GATEWAY6 WATCHES COVERED`. NUMBER is its mark; a gateway is an address,
 * `learned` or `-`; COVERED are the uplinks that one on demand waits for; they, and the addresses that are pinged, are
 * joined by commas, or `-`. Seconds; LOST is a count.
 */
import { formatIp } from '#core/addr';
import { coveredBy } from '#core/site';
import type { Interface } from '#core/site';
import type { Told } from './told';

/** The lines of `watches`. */
export const watchLines = (told: Told): string[] =>
  told.live
    .filter((i) => i.uplink)
    .map((i) =>
      [
        i.name,
        told.dev(i),
        told.numbers.ofInterface(i.name),
        i.watch.every,
        i.watch.lost,
        i.watch.settle,
        gatewayText(i.gateway),
        gatewayText(i.gateway6),
        i.watch.addresses.map(formatIp).join(',') || '-',
        coveredBy(told.site, i)
          .map((o) => o.name)
          .join(',') || '-',
      ].join(' '),
    );

const gatewayText = (g: Interface['gateway']): string =>
  g.by === 'address' ? formatIp(g.address) : g.by === 'learned' ? 'learned' : '-';
