/** Protocols as bytes: each file has one layout, its type, its failures, decode and encode. */
export type { WireFault } from './fault';
export { BROADCAST, ETHERTYPE, decodeEthernet, encodeEthernet, isGroupMac, retagged } from './ethernet';
export type { Ethernet } from './ethernet';
export { arpReply, decodeArp, encodeArp } from './arp';
export type { Arp } from './arp';
export { DEFAULT_TTL, IPV4_HEADER, decodeIpv4, encodeIpv4, ipv4Packet } from './ipv4';
export type { Ipv4Packet } from './ipv4';
export { IPV6_HEADER, decodeIpv6, encodeIpv6 } from './ipv6';
export type { Ipv6Packet } from './ipv6';
export { decodeIp, encodeFrame, encodeIp, etherTypeOf, ipPacket, ipSize, isIpv4Packet } from './ip';
export type { IpPacket } from './ip';
export { UNREACHABLE, decodeIcmp, encodeIcmp, quoteOf } from './icmp';
export type { Icmp } from './icmp';
export { decodeIcmp6, encodeIcmp6 } from './icmp6';
export { ALL_NODES, ALL_ROUTERS, ND_TYPE, decodeNd, encodeNd, groupMac, solicitedNode } from './nd';
export type { AdvertisedPrefix, Nd } from './nd';
export { decodeUdp, encodeUdp } from './udp';
export type { Udp } from './udp';
export { TCP_HEADER, decodeTcp, encodeTcp } from './tcp';
export type { Tcp } from './tcp';
export { RELAY_OPTION, decodeDhcp, decodeOption, encodeDhcp, encodeOption } from './dhcp';
export type { Dhcp, DhcpType } from './dhcp';
export { DHCPV6_STATUS, decodeDhcpv6, encodeDhcpv6 } from './dhcpv6';
export type { Association, Dhcpv6, Dhcpv6Type } from './dhcpv6';
export { DNS_TYPE, RCODE, decodeDns, dnsQuestion, encodeDns, reverseName } from './dns';
export type { Dns } from './dns';
export { SLOW_GROUP, decodeLacp, encodeLacp } from './lacp';
export type { Lacp, LacpEnd } from './lacp';
export { PPPOE_CODE, PPPOE_TAG, decodePppoe, encodePppoe } from './pppoe';
export type { Pppoe } from './pppoe';
export {
  CHAP_CODE,
  CP_CODE,
  CP_OPTION,
  PAP_CODE,
  PPP,
  decodeControl,
  decodePpp,
  encodeControl,
  encodePpp,
  readChap,
  readOptions,
  readPap,
  writeChap,
  writeOptions,
  writePap,
} from './ppp';
export type { Control, ControlOption, PppFrame } from './ppp';
export { VRRP_GROUP, VRRP_GROUP_MAC, VRRP_PROTOCOL, decodeVrrp, encodeVrrp, virtualMac } from './vrrp';
export type { Vrrp } from './vrrp';
