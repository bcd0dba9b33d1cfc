/** Whom a ladder asks: a host beyond the gateway, a name to resolve, a page to open. */
import { familyOf, serviceTakes } from '#core/addr';
import type { Family, Ip } from '#core/addr';
import type { Bench } from '#core/bench';
import type { Far, Interface } from '#core/site';

const addressIn = (far: Far, family: Family): Ip | undefined =>
  far.addresses.find((a) => familyOf(a) === family);

const answering = (bench: Bench, family: Family): Far[] =>
  bench.wiring.fars.filter((f) => !f.silent && addressIn(f, family) !== undefined);

/** The first watch of the uplink, else the first far host that answers pings; of one family. */
export function targetBeyond(bench: Bench, iface?: Interface, family: Family = 4): Ip | undefined {
  const watch = iface?.watch.addresses.find((a) => familyOf(a) === family);
  const first = answering(bench, family)[0];
  return watch ?? (first && addressIn(first, family));
}

const WEB_PORTS = [443, 80] as const;

const webPort = (far: Far): number | undefined =>
  WEB_PORTS.find((port) => serviceTakes(far.listens, { proto: 6, port }));

/** A far name to resolve: of a host that answers pings, one with a page before others, then any. */
export function namedFar(bench: Bench, family: Family): { name: string } {
  const all = answering(bench, family);
  const named = all.filter((f) => f.name.includes('.') && !f.name.startsWith('names-'));
  const best = named.find((f) => webPort(f) !== undefined) ?? named[0] ?? all[0];
  return { name: best?.name ?? bench.wiring.fars[0]?.name ?? 'www.example' };
}

/** A far host that serves pages. */
export function listeningFar(
  bench: Bench,
  family: Family,
): { name: string; address: Ip; port: number } | undefined {
  for (const far of bench.wiring.fars) {
    const port = webPort(far);
    const address = addressIn(far, family);
    if (port !== undefined && address !== undefined) return { name: far.name, address, port };
  }
  return undefined;
}
