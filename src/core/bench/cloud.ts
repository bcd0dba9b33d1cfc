/** The internet between providers and far hosts: it carries packets by destination and knows nothing else. */
import { PROTO, contains, isIpv4, mustMac } from '#core/addr';
import type { Ip, Mac, Prefix, ServiceItem, Services } from '#core/addr';
import {
  DNS_TYPE,
  RCODE,
  decodeDns,
  decodeEthernet,
  decodeIp,
  encodeDns,
  encodeFrame,
  etherTypeOf,
} from '#core/wire';
import type { IpPacket } from '#core/wire';
import { Endpoints } from './endpoints';
import type { HostSide, SendOptions } from './endpoints';
import { Nic } from './link';
import type { Frame, Machine } from './link';
import { readPacket } from './packet';
import type { ReadPacket } from './packet';
import type { Milliseconds, Scheduler } from './scheduler';
import type { Tracer } from './trace';

/** The one MAC address used on the point-to-point links of the cloud, which need no neighbour discovery. */
const CLOUD_MAC: Mac = mustMac('02:4a:ff:00:00:01');

/** A packet as a frame on a link of the cloud. */
export const cloudFrame = (packet: IpPacket, mark?: number): Frame => ({
  bytes: encodeFrame({ destination: CLOUD_MAC, source: CLOUD_MAC, type: etherTypeOf(packet) }, packet),
  mark,
});

/** The packet in a frame, or undefined where it holds none that can be read. */
export function packetIn(frame: Frame): IpPacket | undefined {
  const ethernet = decodeEthernet(frame.bytes);
  return ethernet.ok ? decodeIp(ethernet.value.type, ethernet.value.payload) : undefined;
}

export class Cloud implements Machine {
  readonly name = 'internet';
  private readonly routes: { readonly prefix: Prefix; readonly nic: Nic }[] = [];

  constructor(private readonly trace: Tracer) {}

  /** A new socket of the cloud, with the networks that are reached over it. */
  socket(prefixes: readonly Prefix[]): Nic {
    const nic = new Nic(this, `link${this.routes.length}`);
    for (const prefix of prefixes) this.routes.push({ prefix, nic });
    return nic;
  }

  /** From now on a network is reached over a socket that there is. */
  announce(nic: Nic, prefix: Prefix): void {
    this.routes.push({ prefix, nic });
  }

  receive(_nic: Nic, frame: Frame): void {
    const packet = packetIn(frame);
    if (!packet) return;
    let best: (typeof this.routes)[number] | undefined;
    for (const route of this.routes)
      if (contains(route.prefix, packet.destination) && (!best || route.prefix.length > best.prefix.length))
        best = route;
    if (best) best.nic.send(frame);
    else this.trace(frame.mark, { node: this.name, stage: 'route', code: 'cloud-no-route', packet });
  }
}

/** A packet's first arrival at a far host: what the far side saw. */
export interface Seen {
  readonly time: Milliseconds;
  readonly mark?: number;
  readonly source: Ip;
  readonly destination: Ip;
  readonly protocol: number;
}

export interface FarSetup {
  readonly name: string;
  readonly addresses: readonly Ip[];
  readonly listens: Services;
  readonly silent: boolean;
  /** Names it resolves, if it is a name server. */
  readonly resolves?: ReadonlyMap<string, readonly Ip[]>;
}

const NAMES_OVER_TCP: ServiceItem = { kind: 'ports', proto: PROTO.tcp, first: 53, last: 53 };

/** A host somewhere on the internet. */
export class FarHost implements Machine, HostSide {
  readonly nic: Nic;
  readonly endpoints: Endpoints;
  readonly seen: Seen[] = [];

  constructor(
    readonly setup: FarSetup,
    private readonly scheduler: Scheduler,
    private readonly trace: Tracer,
  ) {
    this.nic = new Nic(this, 'link');
    this.endpoints = new Endpoints(scheduler, this);
    if (setup.resolves) serveNames(this.endpoints, setup.resolves);
  }

  get name(): string {
    return this.setup.name;
  }

  get silent(): boolean {
    return this.setup.silent;
  }

  /** A name server is asked over TCP too (RFC 7766 §5). */
  listens(): Services {
    return this.setup.resolves ? [...this.setup.listens, NAMES_OVER_TCP] : this.setup.listens;
  }

  sourceFor(destination: Ip): Ip | undefined {
    return this.setup.addresses.find((a) => isIpv4(a) === isIpv4(destination));
  }

  send(packet: IpPacket, options: SendOptions): void {
    this.trace(options.mark, { node: this.name, stage: 'sent', code: 'sent', packet });
    this.nic.send(cloudFrame(packet, options.mark));
  }

  arrived(read: ReadPacket, mark?: number): void {
    const { source, destination, protocol } = read.packet;
    this.seen.push({ time: this.scheduler.now, mark, source, destination, protocol });
  }

  receive(_nic: Nic, frame: Frame): void {
    const packet = packetIn(frame);
    if (!packet || !this.setup.addresses.includes(packet.destination)) return;
    this.trace(frame.mark, { node: this.name, stage: 'received', code: 'received', packet });
    this.endpoints.deliver(readPacket(packet), { mark: frame.mark });
  }
}

/** Answers questions for names from a list, on UDP port 53. Unknown names get "no such name". */
export function serveNames(endpoints: Endpoints, names: ReadonlyMap<string, readonly Ip[]>): void {
  endpoints.serveUdp(53, (data, _from, reply) => {
    const question = decodeDns(data);
    if (!question.ok || question.value.response) return;
    const known = names.get(question.value.name);
    const six = question.value.type === DNS_TYPE.aaaa;
    reply(
      encodeDns({
        ...question.value,
        response: true,
        rcode: known ? RCODE.none : RCODE.nameError,
        addresses: known?.filter((a) => isIpv4(a) !== six) ?? [],
      }),
    );
  });
}
