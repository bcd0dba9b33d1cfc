/** The ends of conversations on one host: echo, UDP questions and services, TCP connections. */
import { PROTO, isIpv4, serviceTakes } from '#core/addr';
import type { Family, Ip, Services } from '#core/addr';
import { memo } from '#core/base';
import {
  DNS_TYPE,
  IPV4_HEADER,
  IPV6_HEADER,
  TCP_HEADER,
  UNREACHABLE,
  decodeDns,
  dnsQuestion,
  encodeDns,
  encodeIp,
  encodeTcp,
  encodeUdp,
  ipPacket,
  quoteOf,
} from '#core/wire';
import type { Icmp, IpPacket, Tcp } from '#core/wire';
import { icmpPacket, isEcho } from './packet';
import type { Ends, ReadPacket } from './packet';
import type { Milliseconds, Scheduler, Timer } from './scheduler';

/** How a packet leaves its host: followed by a mark, and bound to an interface where the caller says so. */
export interface SendOptions {
  readonly mark?: number;
  readonly bind?: string;
}

/** What came of an attempt, filled in as virtual time passes. */
export interface Attempt {
  done: boolean;
  /** Called once when it is done. */
  then?: () => void;
  result: 'waiting' | 'answered' | 'refused' | 'unreachable' | 'silence' | 'no-route';
  /** Who said that it is unreachable, and the ICMP code. */
  error?: { from: Ip; code: number };
  /** The address that the answer came from. */
  from?: Ip;
  /** Hops left in the answer. */
  ttl?: number;
  /** The octets of a UDP answer, or what a TCP peer sent back. */
  data?: Uint8Array;
  /** Whether a TCP connection was opened, even if the data then did not come back. */
  opened?: boolean;
}

/** A UDP service: the answer to a datagram, now or later through `reply`. */
export type UdpService = (data: Uint8Array, from: Ends, reply: (data: Uint8Array) => void) => void;

const WAIT: Milliseconds = 1000;
/** Echoes to one end within that time. */
const ECHOES = 4;
const TCP_TRIES = 3;
/** What a host can send in one packet where nothing says less, octets. */
const ETHERNET_MTU = 1500;

/** The largest segment that a packet of this size holds, octets (RFC 9293 §3.7.1, RFC 8200 §8.3). */
export const segmentFor = (mtu: number, address: Ip): number =>
  mtu - (isIpv4(address) ? IPV4_HEADER : IPV6_HEADER) - TCP_HEADER;

interface Connection {
  readonly ends: Ends;
  state: 'syn-sent' | 'open' | 'closing';
  sequence: number;
  expected: number;
  peerMss: number;
  attempt?: Attempt;
  size: number;
  got: Uint8Array[];
  timer?: Timer;
  options: SendOptions;
}

/** What the ends need of the host they are on. */
export interface HostSide {
  /** The address it would send from to a destination, or undefined without a way there. */
  sourceFor(destination: Ip, options: SendOptions): Ip | undefined;
  send(packet: IpPacket, options: SendOptions): void;
  /** The largest packet that goes out towards a destination, octets; Ethernet's where absent. */
  mtuTo?(destination: Ip, options: SendOptions): number;
  /** What it takes: TCP is accepted and echoed, UDP echoed. */
  listens(): Services;
  /** Whether it drops echo requests. */
  readonly silent: boolean;
  /** Sees what reaches the host; the far side tells by it which address it sees. */
  arrived?(packet: ReadPacket, mark?: number): void;
}

export class Endpoints {
  private identifier = 0;
  private ephemeral = 49151;
  /** By identifier, and the sequence number within it. */
  private readonly pings = new Map<number, Map<number, Attempt>>();
  private readonly questions = new Map<string, Attempt>();
  private readonly connections = new Map<string, Connection>();
  private readonly udp = new Map<number, UdpService>();
  private readonly raws = new Map<string, Attempt>();
  /** What was echoed to whom lately. */
  private readonly echoes = new Map<string, { readonly at: Milliseconds; readonly count: number }>();

  constructor(
    private readonly scheduler: Scheduler,
    private readonly host: HostSide,
  ) {}

  serveUdp(port: number, service: UdpService): void {
    this.udp.set(port, service);
  }

  /** An identifier for a row of echo requests, which is one flow. */
  newIdentifier(): number {
    return (this.identifier = (this.identifier % 0xffff) + 1);
  }

  /** Sends one echo request and waits a second: a flow of its own, or one more of a row. */
  ping(
    destination: Ip,
    options: SendOptions = {},
    source?: Ip,
    { identifier, sequence } = { identifier: this.newIdentifier(), sequence: 1 },
  ): Attempt {
    const attempt: Attempt = { done: false, result: 'waiting' };
    const row = memo(this.pings, identifier, () => new Map<number, Attempt>());
    row.set(sequence, attempt);
    const from = source ?? this.host.sourceFor(destination, options);
    if (from === undefined) finish(attempt, 'no-route');
    else
      this.host.send(
        icmpPacket({ type: 'echo-request', identifier, sequence, data: PING_DATA }, from, destination),
        options,
      );
    this.scheduler.after(WAIT, () => {
      row.delete(sequence);
      if (!row.size) this.pings.delete(identifier);
      if (!attempt.done) finish(attempt, 'silence');
    });
    return attempt;
  }

  /** Sends one datagram and waits for one from the same place; `wait` in milliseconds. */
  ask(
    destination: Ip,
    port: number,
    data: Uint8Array,
    options: SendOptions = {},
    wait: Milliseconds = WAIT,
    source?: Ip,
  ): Attempt {
    const sourcePort = this.nextPort();
    const attempt: Attempt = { done: false, result: 'waiting' };
    const key = `${destination}|${port}|${sourcePort}`;
    this.questions.set(key, attempt);
    const from = source ?? this.host.sourceFor(destination, options);
    if (from === undefined) finish(attempt, 'no-route');
    else this.sendUdp({ sourcePort, destinationPort: port, data }, from, destination, options);
    this.scheduler.after(wait, () => {
      this.questions.delete(key);
      if (!attempt.done) finish(attempt, 'silence');
    });
    return attempt;
  }

  /** Sends eight octets of a protocol that has no ports, and waits a second for some of it from the same place. */
  raw(destination: Ip, protocol: number, options: SendOptions = {}): Attempt {
    const attempt: Attempt = { done: false, result: 'waiting' };
    const key = `${destination}|${protocol}`;
    this.raws.set(key, attempt);
    const source = this.host.sourceFor(destination, options);
    if (source === undefined) finish(attempt, 'no-route');
    else this.host.send(ipPacket({ source, destination, protocol, payload: new Uint8Array(8) }), options);
    this.scheduler.after(WAIT, () => {
      if (this.raws.get(key) === attempt) this.raws.delete(key);
      if (!attempt.done) finish(attempt, 'silence');
    });
    return attempt;
  }

  /** Asks a name server for the addresses of a name. `data` of a good attempt decodes as DNS. */
  resolve(
    server: Ip,
    name: string,
    options: SendOptions = {},
    wait: Milliseconds = WAIT,
    family: Family = 4,
  ): Attempt {
    const type = family === 4 ? DNS_TYPE.a : DNS_TYPE.aaaa;
    return this.ask(server, 53, encodeDns(dnsQuestion(this.nextPort(), name, type)), options, wait);
  }

  /** Opens a connection, sends `size` octets in segments of full size, and waits for them to come back. */
  connect(destination: Ip, port: number, size: number, options: SendOptions = {}, source?: Ip): Attempt {
    const attempt: Attempt = { done: false, result: 'waiting' };
    const from = source ?? this.host.sourceFor(destination, options);
    if (from === undefined) {
      finish(attempt, 'no-route');
      return attempt;
    }
    const connection: Connection = {
      ends: { source: from, destination, sourcePort: this.nextPort(), destinationPort: port },
      state: 'syn-sent',
      sequence: 1000,
      expected: 0,
      peerMss: 536,
      attempt,
      size,
      got: [],
      options,
    };
    this.connections.set(connectionKey(connection.ends), connection);
    this.sendSyn(connection, 0);
    return attempt;
  }

  private nextPort(): number {
    this.ephemeral = this.ephemeral >= 65535 ? 49152 : this.ephemeral + 1;
    return this.ephemeral;
  }

  private sendUdp(
    udp: { sourcePort: number; destinationPort: number; data: Uint8Array },
    source: Ip,
    destination: Ip,
    options: SendOptions,
  ): void {
    const payload = encodeUdp(udp, source, destination);
    this.host.send(ipPacket({ source, destination, protocol: PROTO.udp, payload }), options);
  }

  private segment(c: Connection, flags: Partial<Tcp>, data: Uint8Array = NOTHING): void {
    const tcp: Tcp = {
      sourcePort: c.ends.sourcePort,
      destinationPort: c.ends.destinationPort,
      sequence: c.sequence,
      acknowledgment: c.expected,
      syn: false,
      ack: true,
      fin: false,
      rst: false,
      psh: data.length > 0,
      window: 65535,
      data,
      ...flags,
    };
    const { source, destination } = c.ends;
    const payload = encodeTcp(tcp, source, destination);
    this.host.send(ipPacket({ source, destination, protocol: PROTO.tcp, payload }), c.options);
  }

  private mssFor(c: Connection): number {
    const { destination } = c.ends;
    return segmentFor(this.host.mtuTo?.(destination, c.options) ?? ETHERNET_MTU, destination);
  }

  private sendSyn(c: Connection, tries: number): void {
    if (c.state !== 'syn-sent' || c.attempt?.done) return;
    if (tries >= TCP_TRIES) {
      this.drop(c);
      finish(c.attempt!, 'silence');
      return;
    }
    this.segment(c, { syn: true, ack: false, mss: this.mssFor(c) });
    c.timer = this.scheduler.after(WAIT * 2 ** tries, () => this.sendSyn(c, tries + 1));
  }

  /** The payload, again and again until it is back or three tries are over. */
  private sendData(c: Connection, tries: number): void {
    if (c.state !== 'open' || c.attempt?.done) return;
    if (tries >= TCP_TRIES) {
      this.drop(c);
      finish(c.attempt!, 'silence');
      return;
    }
    const size = Math.min(c.size, c.peerMss);
    this.segment(c, {}, FULL_SEGMENT.subarray(0, size));
    c.timer = this.scheduler.after(WAIT, () => this.sendData(c, tries + 1));
  }

  private drop(c: Connection): void {
    this.scheduler.cancel(c.timer);
    this.connections.delete(connectionKey(c.ends));
  }

  /** Takes a packet that is for this host. */
  deliver(read: ReadPacket, options: SendOptions): void {
    this.host.arrived?.(read, options.mark);
    switch (read.inner.protocol) {
      case 'icmp':
        this.deliverIcmp(read, read.inner.icmp, options);
        break;
      case 'udp':
        this.deliverUdp(read, options);
        break;
      case 'tcp':
        this.deliverTcp(read, read.inner.tcp, options);
        break;
      case 'other':
        this.deliverOther(read, options);
        break;
      case 'bad':
        break;
    }
  }

  /** A protocol without ports: an answer to what was sent, or something to answer or to refuse. */
  private deliverOther({ packet, service }: ReadPacket, options: SendOptions): void {
    const { source, destination, protocol, payload } = packet;
    const attempt = this.raws.get(`${source}|${protocol}`);
    if (attempt && !attempt.done) {
      attempt.from = source;
      finish(attempt, 'answered');
    } else if (serviceTakes(this.host.listens(), service)) {
      if (this.mayEcho(`${source}|${protocol}`))
        this.host.send(ipPacket({ source: destination, destination: source, protocol, payload }), options);
    } else this.refuse(packet, UNREACHABLE.protocol, options);
  }

  private deliverIcmp(read: ReadPacket, icmp: Icmp, options: SendOptions): void {
    const { source, destination } = read.packet;
    if (icmp.type === 'echo-request') {
      if (this.host.silent) return;
      this.host.send(icmpPacket({ ...icmp, type: 'echo-reply' }, destination, source), options);
    } else if (icmp.type === 'echo-reply') {
      const attempt = this.pings.get(icmp.identifier)?.get(icmp.sequence);
      if (attempt && !attempt.done) {
        attempt.from = source;
        attempt.ttl = read.packet.ttl;
        finish(attempt, 'answered');
      }
    } else if (read.about && icmp.type !== 'other') {
      const attempt = this.attemptAbout(read);
      if (!attempt || attempt.done) return;
      attempt.error = { from: source, code: icmp.type === 'unreachable' ? icmp.code : 256 };
      finish(
        attempt,
        icmp.type === 'unreachable' && (icmp.code === UNREACHABLE.port || icmp.code === UNREACHABLE.protocol)
          ? 'refused'
          : 'unreachable',
      );
    }
  }

  private attemptAbout(read: ReadPacket): Attempt | undefined {
    const { ends, packet } = read.about!;
    // An error quotes no more than the identifier: it is about the oldest that waits.
    if (isEcho(packet.protocol))
      return [...(this.pings.get(ends.sourcePort)?.values() ?? [])].find((a) => !a.done);
    if (packet.protocol === PROTO.udp)
      return this.questions.get(`${ends.destination}|${ends.destinationPort}|${ends.sourcePort}`);
    if (packet.protocol !== PROTO.tcp) return this.raws.get(`${ends.destination}|${packet.protocol}`);
    return this.connections.get(connectionKey(ends))?.attempt;
  }

  private deliverUdp(read: ReadPacket, options: SendOptions): void {
    if (read.inner.protocol !== 'udp') return;
    const { udp } = read.inner;
    const { source, destination } = read.packet;
    const attempt = this.questions.get(`${source}|${udp.sourcePort}|${udp.destinationPort}`);
    if (attempt) {
      if (attempt.done) return;
      attempt.from = source;
      attempt.data = udp.data.slice();
      finish(attempt, 'answered');
      return;
    }
    const reply = (data: Uint8Array) =>
      this.sendUdp(
        { sourcePort: udp.destinationPort, destinationPort: udp.sourcePort, data },
        destination,
        source,
        options,
      );
    const service = this.udp.get(udp.destinationPort);
    if (service) service(udp.data, read.ends, reply);
    else if (!serviceTakes(this.host.listens(), read.service))
      this.refuse(read.packet, UNREACHABLE.port, options);
    else if (this.mayEcho(`${source}|${udp.sourcePort}|${udp.destinationPort}`)) reply(udp.data);
  }

  /** An echo is not echoed for ever: two hosts that listen to everything would never be done with each other. */
  private mayEcho(to: string): boolean {
    const { now } = this.scheduler;
    const last = this.echoes.get(to);
    const count = last && now - last.at < WAIT ? last.count + 1 : 1;
    this.echoes.set(to, { at: now, count });
    return count <= ECHOES;
  }

  /** Tells the sender of a packet that nobody takes it, from the address it was sent to. */
  private refuse(packet: IpPacket, code: number, options: SendOptions): void {
    const { source, destination } = packet;
    const about = quoteOf(encodeIp(packet));
    this.host.send(icmpPacket({ type: 'unreachable', code, mtu: 0, about }, destination, source), options);
  }

  private deliverTcp(read: ReadPacket, tcp: Tcp, options: SendOptions): void {
    const ends: Ends = {
      source: read.packet.destination,
      destination: read.packet.source,
      sourcePort: tcp.destinationPort,
      destinationPort: tcp.sourcePort,
    };
    const known = this.connections.get(connectionKey(ends));
    if (known) {
      this.advance(known, read, tcp);
      return;
    }
    if (tcp.rst) return;
    const connection: Connection = {
      ends,
      state: 'open',
      sequence: 5000,
      expected: (tcp.sequence + 1) >>> 0,
      peerMss: tcp.mss ?? 536,
      size: 0,
      got: [],
      options,
    };
    if (tcp.syn && !tcp.ack && serviceTakes(this.host.listens(), read.service)) {
      this.connections.set(connectionKey(ends), connection);
      this.segment(connection, { syn: true, mss: this.mssFor(connection) });
      connection.sequence++;
    } else if (tcp.syn) this.segment({ ...connection, sequence: 0 }, { rst: true });
  }

  private advance(c: Connection, read: ReadPacket, tcp: Tcp): void {
    const { attempt } = c;
    if (tcp.rst) {
      this.drop(c);
      if (attempt && !attempt.done) {
        attempt.from = read.packet.source;
        finish(attempt, 'refused');
      }
      return;
    }
    if (c.state === 'syn-sent') {
      if (!tcp.syn || !tcp.ack) return;
      this.scheduler.cancel(c.timer);
      c.state = 'open';
      c.sequence++;
      c.expected = (tcp.sequence + 1) >>> 0;
      c.peerMss = Math.min(this.mssFor(c), tcp.mss ?? 536);
      attempt!.opened = true;
      attempt!.from = read.packet.source;
      this.segment(c, {});
      if (c.size > 0) this.sendData(c, 0);
      else this.finishConnection(c);
      return;
    }
    if (tcp.syn) {
      // A repeated SYN: our answer was lost.
      this.segment({ ...c, sequence: c.sequence - 1 }, { syn: true, mss: this.mssFor(c) });
      return;
    }
    if (tcp.data.length && tcp.sequence === c.expected) {
      c.expected = (c.expected + tcp.data.length) >>> 0;
      if (!attempt) {
        // The serving side sends everything back.
        this.segment(c, {}, tcp.data.slice());
        c.sequence += tcp.data.length;
      } else {
        c.got.push(tcp.data.slice());
        const size = c.got.reduce((sum, part) => sum + part.length, 0);
        if (size >= Math.min(c.size, c.peerMss)) {
          c.sequence += size;
          attempt.data = c.got[0];
          this.finishConnection(c);
        }
      }
    } else if (tcp.data.length && !attempt) {
      // Seen before: our echo was lost.
      this.segment({ ...c, sequence: c.sequence - tcp.data.length }, {}, tcp.data.slice());
    }
    if (tcp.fin) {
      c.expected = (c.expected + 1) >>> 0;
      this.segment(c, { fin: c.state === 'open' });
      this.drop(c);
    }
  }

  private finishConnection(c: Connection): void {
    this.scheduler.cancel(c.timer);
    c.state = 'closing';
    this.segment(c, { fin: true });
    c.sequence++;
    finish(c.attempt!, 'answered');
  }
}

/** The addresses in a finished DNS attempt; undefined where there is no readable answer. */
export function answerOf(attempt: Attempt): { rcode: number; addresses: readonly Ip[] } | undefined {
  const read = attempt.data && decodeDns(attempt.data);
  return read?.ok && read.value.response
    ? { rcode: read.value.rcode, addresses: read.value.addresses }
    : undefined;
}

function finish(attempt: Attempt, result: Attempt['result']): void {
  attempt.result = result;
  attempt.done = true;
  attempt.then?.();
}

const connectionKey = (e: Ends): string => `${e.destination}|${e.destinationPort}|${e.sourcePort}`;

const NOTHING = new Uint8Array(0);
const PING_DATA = Uint8Array.from('jolly gate is on the bench', (c) => c.charCodeAt(0));
const FULL_SEGMENT = new Uint8Array(ETHERNET_MTU).map((_, i) => 32 + (i % 95));
