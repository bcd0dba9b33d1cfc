/** What a provider's sheet lacks or contradicts, in sentences. */
import type { Contradiction, SheetField, SheetFound } from '#core/formats/handoff';
import { fill } from './fill';

export const CONTRADICTION_TEXTS: Readonly<Record<Contradiction['code'], string>> = {
  'gateway-outside': 'gateway {gateway} is not inside {network}',
  'gateway-is-address': 'gateway and own address are both {gateway}',
  'address-not-host': '{address} is the network or broadcast address of {network}',
  'mask-twice': 'two lengths are given, {first} and {second}',
  'mask-invalid': '{mask} is no mask: its ones must stand in one row',
  'gateway-twice': 'two gateways are given, {first} and {second}',
  'address-twice': 'two addresses are given as your own, {first} and {second}',
  'vlan-twice': 'two VLANs are given, {first} and {second}',
  'user-twice': 'two user names are given, {first} and {second}',
  'secret-twice': 'two passwords are given',
  'mtu-twice': 'two MTUs are given, {first} and {second}',
  'octet-invalid': '{written} is no address: its parts are numbers from 0 to 255, without a 0 in front',
  'length-invalid': '{written} is no length: those of IPv4 are /1 to /32',
  'vlan-invalid': '{written} is no VLAN: tags are 1 to 4094',
  'mtu-invalid': '{written} is no MTU',
  'block-not-network': '{block} is no network: its host bits are not zero',
  'routed-elsewhere': 'the block {block} is routed to {to}, and your own address is {address}',
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

/** What the rows of a sheet are called. */
export const SHEET_LABELS: Readonly<Record<SheetField, string>> = {
  kind: 'how',
  address: 'own address',
  length: 'mask or length',
  also: 'further addresses',
  gateway: 'gateway',
  onlink: 'gateway outside the subnet',
  names: 'name servers',
  network: 'network',
  block: 'further block',
  time: 'time servers',
  vlan: 'VLAN tag',
  user: 'login',
  secret: 'password',
  mtu: 'MTU',
  address6: 'IPv6 address',
  auto6: 'IPv6 by',
  gateway6: 'IPv6 gateway',
};

/** What a row takes, where what stands in it is none of that. */
export function sheetFaultText(field: SheetField): string {
  switch (field) {
    case 'address':
    case 'gateway':
      return 'an IPv4 address such as 198.51.100.18';
    case 'length':
      return 'a mask such as 255.255.255.248, or a length such as /29';
    case 'names':
    case 'time':
      return 'addresses, one or several';
    case 'also':
      return 'addresses with their length, or ranges such as 198.51.100.19-198.51.100.21';
    case 'network':
    case 'block':
      return 'a network such as 203.0.113.0/28, its host bits zero';
    case 'vlan':
      return 'a tag from 1 to 4094';
    case 'mtu':
      return 'octets, from 68 to 65535';
    case 'address6':
      return 'an IPv6 address with its length, such as 2001:db8::2/64';
    case 'gateway6':
      return 'an IPv6 address';
    default:
      return 'one of those offered';
  }
}

/** The lines of the ledger to tick off against the paper: label and value, in a fixed order. */
export function ledgerOf(found: SheetFound): { label: string; value: string }[] {
  const rows: [string, string | undefined][] = [
    ['how', { static: 'fixed addresses', dhcp: 'address by DHCP', pppoe: 'PPPoE login' }[found.kind]],
    ['address', found.address],
    ['length', found.length === undefined ? undefined : `/${found.length}`],
    ['further', found.also?.join(', ')],
    ['reserved', found.reserved],
    [
      'gateway',
      found.gateway === undefined
        ? undefined
        : `${found.gateway}${found.onlink ? ', on the link itself' : ''}`,
    ],
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
    ['IPv6 address', found.address6 ?? (found.auto6 === undefined ? undefined : `by ${found.auto6}`)],
    ['IPv6 gateway', found.gateway6],
  ];
  return rows.flatMap(([label, value]) => (value === undefined ? [] : [{ label, value }]));
}
