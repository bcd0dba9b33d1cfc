/** What a Linux box cannot be told, found before anything is applied: each refuses the generation by name. */
import type { Interface } from '#core/site';
import { MOST } from './numbers';
import { isHomeless, unlikeTimes } from './serving';
import { unrelayed } from './relaying';
import { isOnCall } from './told';
import type { Told } from './told';
import { isLearner } from './ways';

export type Lack =
  /** Kea has one time for a network. */
  | { readonly code: 'lease-times-differ'; readonly interface: string }
  | { readonly code: 'pool-homeless'; readonly interface: string }
  /** The session's login is not known here: exports leave secrets out. */
  | { readonly code: 'secret-missing'; readonly interface: string }
  /** It asks a DHCP server elsewhere in a way that one relay for all cannot. */
  | { readonly code: 'relays'; readonly interface: string }
  /** It rests by its port being down, and others are on that port. */
  | { readonly code: 'on-demand-shared'; readonly interface: string }
  /** networkd takes away what comes and goes where it learns. */
  | { readonly code: 'learns-where-shared'; readonly interface: string }
  /** A prefix of two uplinks on one interface is more than networkd hands on. */
  | { readonly code: 'delegated-twice'; readonly interface: string }
  /** A door leads to one address, and what a name leads to may be another tomorrow. */
  | { readonly code: 'door-to-name'; readonly door: string; readonly known: string }
  | { readonly code: 'carrier-unread'; readonly interface: string }
  | { readonly code: 'too-many'; readonly what: 'interfaces' | 'tables'; readonly most: number };

/** Everything that the text says and a Linux box cannot be told. */
export function lacksOf(told: Told): Lack[] {
  const { site, live } = told;
  const each = (
    code: Exclude<Lack['code'], 'too-many' | 'door-to-name'>,
    is: (i: Interface) => boolean,
  ): Lack[] => site.interfaces.filter((i) => !i.off && is(i)).map((i) => ({ code, interface: i.name }));
  return [
    ...each('carrier-unread', (i) => !live.includes(i)),
    ...each('pool-homeless', (i) => i.pools.some((p) => isHomeless(told, i, p))),
    ...each('lease-times-differ', (i) => unlikeTimes(told, i)),
    ...each('relays', (i) => unrelayed(told).includes(i)),
    ...each(
      'on-demand-shared',
      (i) =>
        isOnCall(told, i) &&
        i.tag === undefined &&
        i.carrier === 'on' &&
        live.some((o) => o !== i && o.ports.some((p) => i.ports.includes(p))),
    ),
    ...each('secret-missing', (i) => i.carrier === 'pppoe' && i.login?.secret === undefined),
    ...each('learns-where-shared', (i) => !!i.shared && isLearner(i)),
    ...each('delegated-twice', (i) => i.auto6.from.length > 1),
    ...doorsToNames(told),
    ...(site.interfaces.length > MOST.interfaces
      ? [{ code: 'too-many', what: 'interfaces', most: MOST.interfaces } as const]
      : []),
    ...(told.numbers.tables.length > MOST.tables
      ? [{ code: 'too-many', what: 'tables', most: MOST.tables } as const]
      : []),
  ];
}

function doorsToNames({ site }: Told): Lack[] {
  const named = new Set(site.knowns.filter((k) => k.dnsNames.length).map((k) => k.name));
  return site.doors.flatMap(({ name, inside }) =>
    inside?.type === 'name' && named.has(inside.name)
      ? [{ code: 'door-to-name' as const, door: name, known: inside.name }]
      : [],
  );
}
