/** The internet between providers and far hosts: it carries packets by destination and knows nothing else. */
import { contains, mustMac } from '#core/addr';
import type { Ipv4, Mac, Prefix, Services } from '#core/addr';
import {
  ETHERTYPE,
  RCODE,
  decodeDns,
  decodeEthernet,
  decodeIpv4,
  encodeDns,
  encodeEthernet,
  encodeIpv4,
} from '#core/wire';
import type { Ipv4Packet } from '#core/wire';
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

/** An IPv4 packet as a frame on a link of the cloud. */
export const cloudFrame = (packet: Ipv4Packet, mark?: number): Frame => ({
  bytes: encodeEthernet({
    destination: CLOUD_MAC,
    source: CLOUD_MAC,
    type: ETHERTYPE.ipv4,
    payload: encodeIpv4(packet),
  }),
  mark,
});

/** The packet in a frame, or undefined where it holds none that can be read. */
export function packetIn(frame: Frame): Ipv4Packet | undefined {
  const ethernet = decodeEthernet(frame.bytes);
  if (!ethernet.ok || ethernet.value.type !== ETHERTYPE.ipv4) return undefined;
  const packet = decodeIpv4(ethernet.value.payload);
  return packet.ok ? packet.value : undefined;
}

export class Cloud implements Machine {
  readonly name = 'internet';
  private readonly routes: { readonly prefix: Prefix<Ipv4>; readonly nic: Nic }[] = [];

  constructor(private readonly trace: Tracer) {}

  /** A new socket of the cloud, with the networks that are reached over it. */
  socket(prefixes: readonly Prefix<Ipv4>[]): Nic {
    const nic = new Nic(this, `link${this.routes.length}`);
    for (const prefix of prefixes) this.routes.push({ prefix, nic });
    return nic;
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
  readonly source: Ipv4;
  readonly destination: Ipv4;
  readonly protocol: number;
}

export interface FarSetup {
  readonly name: string;
  readonly addresses: readonly Ipv4[];
  readonly listens: Services;
  readonly silent: boolean;
  /** Names it resolves, if it is a name server. */
  readonly resolves?: ReadonlyMap<string, readonly Ipv4[]>;
}

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

  listens(): Services {
    return this.setup.listens;
  }

  sourceFor(): Ipv4 | undefined {
    return this.setup.addresses[0];
  }

  send(packet: Ipv4Packet, options: SendOptions): void {
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
export function serveNames(endpoints: Endpoints, names: ReadonlyMap<string, readonly Ipv4[]>): void {
  endpoints.serveUdp(53, (data, _from, reply) => {
    const question = decodeDns(data);
    if (!question.ok || question.value.response) return;
    const addresses = names.get(question.value.name);
    reply(
      encodeDns({
        ...question.value,
        response: true,
        rcode: addresses ? RCODE.none : RCODE.nameError,
        addresses: addresses ?? [],
      }),
    );
  });
}
