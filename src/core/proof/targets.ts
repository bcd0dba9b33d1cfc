/** Whom a ladder asks: a host beyond the gateway, a name to resolve, a page to open. */
import { isIpv4, serviceTakes } from '#core/addr';
import type { Ipv4 } from '#core/addr';
import type { Bench } from '#core/bench';
import type { Far, Interface } from '#core/site';

const ipv4Of = (far: Far): Ipv4 | undefined => far.addresses.find(isIpv4);

const answering = (bench: Bench): Far[] =>
  bench.wiring.fars.filter((f) => !f.silent && ipv4Of(f) !== undefined);

/** The first watch of the uplink, else the first far host that answers pings. */
export function targetBeyond(bench: Bench, iface?: Interface): Ipv4 | undefined {
  const watch = iface?.statement.watch.map((w) => w.value).find(isIpv4);
  const first = answering(bench)[0];
  return watch ?? (first && ipv4Of(first));
}

const WEB_PORTS = [443, 80] as const;

const webPort = (far: Far): number | undefined =>
  WEB_PORTS.find((port) => serviceTakes(far.listens, { proto: 6, port }));

/** A far name to resolve: of a host that answers pings, one with a page before others, then any. */
export function namedFar(bench: Bench): { name: string } {
  const named = answering(bench).filter((f) => f.name.includes('.') && !f.name.startsWith('names-'));
  const best = named.find((f) => webPort(f) !== undefined) ?? named[0] ?? answering(bench)[0];
  return { name: best?.name ?? bench.wiring.fars[0]?.name ?? 'www.example' };
}

/** A far host that serves pages. */
export function listeningFar(bench: Bench): { name: string; address: Ipv4; port: number } | undefined {
  for (const far of bench.wiring.fars) {
    const port = webPort(far);
    const address = ipv4Of(far);
    if (port !== undefined && address !== undefined) return { name: far.name, address, port };
  }
  return undefined;
}
