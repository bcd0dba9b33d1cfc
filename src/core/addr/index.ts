/** Addresses as values: parsed strictly, compared with `===` or a named function, text only at the edges. */
export { IPV4_MAX, formatIpv4, ipv4, mustIpv4, parseIpv4 } from './ipv4';
export type { Ipv4 } from './ipv4';
export { formatIpv6, identifierOf, ipv6, isGroup, isLinkLocal, linkLocal, parseIpv6 } from './ipv6';
export type { Ipv6 } from './ipv6';
export { compareIp, familyOf, formatIp, isIpv4, offsetIp, parseIp } from './ip';
export type { Family, Ip } from './ip';
export {
  addressesIn,
  hostPrefix,
  broadcastOf,
  contains,
  formatPrefix,
  hostBitsSet,
  hostRange,
  lengthOfMask,
  maskOfLength,
  mustPrefix,
  networkOf,
  overlaps,
  parsePrefix,
  prefixEquals,
  prefixOf,
  prefixRange,
  subnetOf,
  withLength,
} from './prefix';
export type { Prefix } from './prefix';
export { formatRange, formatRangeShort, rangeContains, rangeSize, rangesOverlap } from './range';
export type { Range } from './range';
export { isNptLength, nptAddress, nptDifference, nptUntranslated } from './npt';
export { IpSet } from './set';
export { formatMac, mustMac, parseAnyMac, parseMac } from './mac';
export type { Mac } from './mac';
export {
  NOBODYS_SOURCES,
  UNROUTED,
  isNobodysSource,
  isUnrouted,
  isPrivate,
  isSpecial,
  notAHostAddress,
  privatePrefixes4,
  specialPrefixes,
  specialRangeOf,
} from './special';
export type { SpecialRange } from './special';
export {
  ANY_SERVICE,
  NAMED_SERVICES,
  PING,
  PROTO,
  formatFlowService,
  formatServices,
  sampleFlow,
  serviceTakes,
  servicesWithin,
} from './service';
export type { FlowService, ServiceItem, Services } from './service';
export { ServiceSet } from './service-set';
export { OPTION_NAMES, OWNED_OPTIONS, formatOptionValue, optionName } from './dhcp-option';
export type { DhcpOption, OptionName, OptionValue } from './dhcp-option';
