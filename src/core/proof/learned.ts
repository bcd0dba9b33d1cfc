/** What the uplinks of a running bench have learned from their providers, and for how long. */
import { formatIp, formatPrefix } from '#core/addr';
import type { Bench } from '#core/bench';

export interface LearnedSeen {
  readonly interface: string;
  readonly from: 'lease' | 'session' | 'advertised';
  readonly address: string;
  readonly gateway: string;
  readonly names: readonly string[];
  /** Seconds until the lease ends; absent where there is none. */
  readonly left?: number;
}

/** One entry for each uplink and family that learned an address, in file order. */
export function learnedOn(bench: Bench): LearnedSeen[] {
  const { box, scheduler } = bench;
  const leftOf = (lease: { readonly seconds: number; readonly since: number } | undefined) =>
    lease && Math.round(lease.seconds - (scheduler.now - lease.since) / 1000);
  return bench.site.interfaces.flatMap(({ name, uplink, dynamic }): LearnedSeen[] => {
    const at = uplink ? box.interface(name) : undefined;
    if (!at) return [];
    const names = at.names.map(formatIp);
    const own = dynamic && at.addresses[0];
    const four: LearnedSeen[] = own
      ? [
          {
            interface: name,
            from: dynamic === 'dhcp' ? 'lease' : 'session',
            address: formatPrefix(own),
            gateway: at.gateway === undefined ? '' : formatIp(at.gateway),
            names,
            left: leftOf(at.dhcp?.lease),
          },
        ]
      : [];
    const six = at.autoconf?.addresses[0] ?? undefined;
    const advertised: LearnedSeen[] = six
      ? [
          {
            interface: name,
            from: 'advertised',
            address: formatPrefix(six),
            gateway: at.gateway6 === undefined ? '' : formatIp(at.gateway6),
            names,
          },
        ]
      : [];
    return [...four, ...advertised];
  });
}
