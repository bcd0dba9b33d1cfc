/** What a provider's sheet lacks or contradicts, in sentences. */
import type { Contradiction, Found } from '#core/formats/handoff';
import { fill } from './fill';

export const CONTRADICTION_TEXTS: Readonly<Record<Contradiction['code'], string>> = {
  'gateway-outside': 'gateway {gateway} is not inside {network}',
  'gateway-is-address': 'gateway and own address are both {gateway}',
  'address-not-host': '{address} is the network or broadcast address of {network}',
  'mask-twice': 'two lengths are given, {first} and {second}',
  'mask-invalid': '{mask} is no mask: its ones must stand in one row',
  'usable-outside': 'the usable addresses {usable} are not all inside {network}',
  'address-outside-network': '{address} is not inside {network}',
  'address-outside-usable': '{address} is not among the usable addresses {usable}',
};

export const contradictionText = (c: Contradiction): string => fill(CONTRADICTION_TEXTS[c.code], c.values);

/** What a field that the sheet lacks is called. */
export const MISSING_TEXTS: Readonly<Record<string, string>> = {
  address: 'no address of its own',
  length: 'no mask or length',
  gateway: 'no gateway',
  names: 'no name servers',
  user: 'no user name',
  secret: 'no password',
};

/** The lines of the ledger to tick off against the paper: label and value, in a fixed order. */
export function ledgerOf(found: Found): { label: string; value: string }[] {
  const rows: [string, string | undefined][] = [
    ['how', { static: 'fixed addresses', dhcp: 'address by DHCP', pppoe: 'PPPoE login' }[found.kind]],
    ['address', found.address],
    ['length', found.length === undefined ? undefined : `/${found.length}`],
    ['gateway', found.gateway],
    ['name servers', found.names?.join(', ')],
    ['network', found.network],
    ['usable', found.usable],
    ['further block', found.block],
    ['time servers', found.time?.join(', ')],
    ['tag', found.vlan === undefined ? undefined : String(found.vlan)],
    ['user', found.user],
    ['password', found.secret === undefined ? undefined : '••••••'],
    ['MTU', found.mtu === undefined ? undefined : String(found.mtu)],
    ['IPv6', found.ipv6?.join(', ')],
  ];
  return rows.flatMap(([label, value]) => (value === undefined ? [] : [{ label, value }]));
}
