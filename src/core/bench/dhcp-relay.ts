/** Asking a DHCP server elsewhere on behalf of the clients of a segment. RFC 2131 §4.1, RFC 1542 §4.1, RFC 3046. */
import type { Ipv4, Mac } from '#core/addr';
import { BROADCAST, RELAY_OPTION } from '#core/wire';
import type { Dhcp, IpPacket, Ipv4Packet } from '#core/wire';
import { DHCP_SERVER_PORT, EVERYONE, dhcpPacket } from './host';

/** More than so many do not hand a message on (RFC 1542 §4.1.1). */
const MOST_HOPS = 16;
/** The part of the option that names the client's side (RFC 3046 §3.1). */
const CIRCUIT_ID = 1;

const withoutOption = (others: Dhcp['others']): Dhcp['others'] =>
  new Map([...others].filter(([code]) => code !== RELAY_OPTION));

/** A relay on one side of a box or of a router. */
export class DhcpRelay {
  constructor(
    /** The address that it asks from, on the clients' side. */
    readonly address: Ipv4,
    readonly servers: readonly Ipv4[],
    /** The name of the side, told to the servers. */
    private readonly side: string,
  ) {}

  /** What goes to the servers for a message of a client, or of a relay behind this one; none where it goes no further. */
  toServers(message: Dhcp): Ipv4Packet[] {
    const hops = (message.hops ?? 0) + 1;
    const first = message.relay === undefined;
    // A client that says the option itself is not believed (RFC 3046 §2.1).
    if (message.reply || hops > MOST_HOPS || (first && message.others.has(RELAY_OPTION))) return [];
    const name = Uint8Array.from(this.side, (c) => c.charCodeAt(0) & 0x7f).subarray(0, 64);
    const others = first
      ? new Map([...message.others, [RELAY_OPTION, Uint8Array.of(CIRCUIT_ID, name.length, ...name)]])
      : message.others;
    const asked: Dhcp = { ...message, relay: message.relay ?? this.address, hops, others };
    return this.servers.map((server) => dhcpPacket(asked, this.address, server, DHCP_SERVER_PORT));
  }

  /** What goes to the client for a server's answer, or nothing where it is not for a client of this side. */
  toClient(message: Dhcp, from: Ipv4): Ipv4Packet | undefined {
    if (!message.reply || message.relay !== this.address || !this.servers.includes(from)) return undefined;
    const answer: Dhcp = { ...message, relay: undefined, others: withoutOption(message.others) };
    const known = message.type !== 'nak' && message.clientIp !== 0;
    return dhcpPacket(answer, this.address, known ? message.clientIp : EVERYONE);
  }
}

/** What becomes of a message at a machine with relays: it goes on to servers, or to a client on one of its sides. */
export type Relayed<S> =
  | { readonly toServers: readonly Ipv4Packet[] }
  | { readonly toClient: Ipv4Packet; readonly side: S; readonly destination: Mac };

/** What a machine's relays make of a DHCP message that arrives by a side; undefined where it is none of theirs. */
export function relayed<S extends { readonly relay?: DhcpRelay }>(
  arrival: S,
  sides: () => readonly S[],
  { source, destination }: IpPacket,
  message: Dhcp,
): Relayed<S> | undefined {
  if (message.reply) {
    const side = sides().find((s) => s.relay?.address === destination);
    const toClient = side?.relay?.toClient(message, source as Ipv4);
    const toAll = toClient?.destination === EVERYONE;
    return side && toClient && { toClient, side, destination: toAll ? BROADCAST : message.clientMac };
  }
  const { relay } = arrival;
  // What a client sends to its server by address passes as any other packet.
  const heard = relay && (destination === EVERYONE || destination === relay.address);
  return heard ? { toServers: relay.toServers(message) } : undefined;
}
