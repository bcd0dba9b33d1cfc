/** Protocols as bytes: each file has one layout, its type, its failures, decode and encode. */
export type { WireFault } from './fault';
export { BROADCAST, ETHERTYPE, decodeEthernet, encodeEthernet } from './ethernet';
export type { Ethernet } from './ethernet';
export { arpReply, decodeArp, encodeArp } from './arp';
export type { Arp } from './arp';
export { DEFAULT_TTL, IPV4_HEADER, decodeIpv4, encodeIpv4, ipv4Packet } from './ipv4';
export type { Ipv4Packet } from './ipv4';
export { UNREACHABLE, decodeIcmp, encodeIcmp, quoteOf } from './icmp';
export type { Icmp } from './icmp';
export { decodeUdp, encodeUdp } from './udp';
export type { Udp } from './udp';
export { TCP_HEADER, decodeTcp, encodeTcp } from './tcp';
export type { Tcp } from './tcp';
export { decodeDhcp, encodeDhcp } from './dhcp';
export type { Dhcp, DhcpType } from './dhcp';
export { RCODE, decodeDns, dnsQuestion, encodeDns } from './dns';
export type { Dns } from './dns';
