/**
 * The DHCP relay of a box, as options of dhcrelay(8): a process for all interfaces, since one may listen on the server's
 * port. It asks from the primary address of the client's interface, and says by which (option 82, RFC 3046).
 */
import { formatIp } from '#core/addr';
import { lookUp } from '#core/semantics';
import { interfaceNamed } from '#core/site';
import type { Interface } from '#core/site';
import { ACTIVE } from './sharing';
import type { Told } from './told';

const relaying = ({ live }: Told): readonly Interface[] => live.filter((i) => i.relays.length > 0);

/** The file `relay`; none where nobody relays. */
export function relayFile(told: Told): { readonly name: string; readonly text: string }[] {
  const asking = relaying(told);
  const servers = asking[0]?.relays;
  if (!servers) return [];
  const outward = servers.flatMap(
    (s) => interfaceNamed(told.site, lookUp(told.routes, asking[0]!.table, s)?.interface) ?? [],
  );
  const both = asking.filter((i) => outward.includes(i));
  const options = [
    ...both.map((i) => `-i ${told.dev(i)}`),
    ...asking.filter((i) => !both.includes(i)).map((i) => `-id ${told.dev(i)}`),
    ...[...new Set(outward)].filter((i) => !both.includes(i)).map((i) => `-iu ${told.dev(i)}`),
    ...servers.map(formatIp),
  ];
  // Who shares its addresses asks for others while it is active only.
  return [{ name: `${asking[0]!.shared ? ACTIVE : ''}relay`, text: `${options.join(' ')}\n` }];
}

/**
 * Whose relay cannot be told: in another table than main, in a session, beside a pool of the box, of other servers, or
 * shared with a second box where another is not.
 */
export function unrelayed(told: Told): readonly Interface[] {
  const asking = relaying(told);
  const lends = told.live.some((i) => i.pools.length > 0);
  return asking.filter(
    (i) =>
      lends ||
      i.table !== 'main' ||
      i.carrier === 'pppoe' ||
      i.relays.join() !== asking[0]!.relays.join() ||
      !i.shared !== !asking[0]!.shared,
  );
}
