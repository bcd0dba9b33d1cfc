import { err } from '#core/base';

/** Why bytes could not be decoded: they end too early, contradict themselves, or their checksum is wrong. */
export interface WireFault {
  readonly layer:
    | 'ethernet'
    | 'arp'
    | 'ipv4'
    | 'ipv6'
    | 'icmp'
    | 'nd'
    | 'udp'
    | 'tcp'
    | 'dhcp'
    | 'dhcpv6'
    | 'dns'
    | 'pppoe'
    | 'ppp'
    | 'lacp'
    | 'vrrp';
  readonly what: 'truncated' | 'malformed' | 'checksum';
  readonly detail: string;
}

export const fault = (layer: WireFault['layer'], what: WireFault['what'], detail: string) =>
  err<WireFault>({ layer, what, detail });
