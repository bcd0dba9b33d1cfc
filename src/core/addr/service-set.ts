/**
 * Sets of services on one line of numbers, so that what a list of rules leaves over can be reckoned exactly. Only what
 * can start a flow is on it: every TCP and UDP port, the echo request of the family, and every other protocol.
 */
import { memo } from '#core/base';
import type { Family } from './ip';
import { PROTO, formatServices } from './service';
import type { FlowService, ServiceItem, Services } from './service';

const UDP = 65536;
const ECHO = 131072;
const OTHER = 131073;
const END = OTHER + 255;
/** Protocols that have a place of their own on the line. */
const PLACED = [PROTO.icmp, PROTO.tcp, PROTO.udp, PROTO.icmp6];

/** Rules are asked for their services again and again. */
const made: Record<Family, WeakMap<Services, ServiceSet>> = { 4: new WeakMap(), 6: new WeakMap() };

/** An immutable set of services of one family: sorted pairs of first and last place, neither touching nor overlapping. */
export class ServiceSet {
  private keyed?: string;

  private constructor(private readonly pairs: readonly number[]) {}

  static readonly empty = new ServiceSet([]);

  /** All services that can start a flow. */
  static readonly all = ServiceSet.joined([
    [0, ECHO],
    ...[...Array(256).keys()]
      .filter((n) => !PLACED.some((p) => p === n))
      .map((n): [number, number] => [OTHER + n, OTHER + n]),
  ]);

  /** All of TCP, UDP and ping: what an ordinary host speaks. */
  static readonly ordinary = ServiceSet.joined([[0, ECHO]]);

  /** What an ordinary host can be asked for: port 0 is reserved, and nobody asks for it (RFC 6335 §6). */
  static readonly askable = ServiceSet.joined([
    [1, 65535],
    [UDP + 1, ECHO],
  ]);

  /** What a specification takes of the flows of a family. */
  static of(services: Services, family: Family): ServiceSet {
    return memo(made[family], services, () =>
      ServiceSet.joined(services.flatMap((item) => placesOf(item, family))).intersect(ServiceSet.all),
    );
  }

  private static joined(places: readonly (readonly [number, number])[]): ServiceSet {
    const out: number[] = [];
    for (const [first, last] of [...places].sort((a, b) => a[0] - b[0])) {
      const top = out.length - 1;
      if (top > 0 && first <= out[top]! + 1) out[top] = Math.max(out[top]!, last);
      else out.push(first, last);
    }
    return out.length ? new ServiceSet(out) : ServiceSet.empty;
  }

  get isEmpty(): boolean {
    return this.pairs.length === 0;
  }

  /** Text that is the same for equal sets. */
  get key(): string {
    return (this.keyed ??= this.pairs.join(','));
  }

  has(service: FlowService): boolean {
    const place = placeOf(service);
    for (let i = 0; i < this.pairs.length; i += 2)
      if (place >= this.pairs[i]! && place <= this.pairs[i + 1]!) return true;
    return false;
  }

  equals(other: ServiceSet): boolean {
    return this === other || this.key === other.key;
  }

  union(other: ServiceSet): ServiceSet {
    if (this === other || other.isEmpty) return this;
    return ServiceSet.joined([...this.spans(), ...other.spans()]);
  }

  /** What both hold; this set itself where all of it is in the other. */
  intersect(other: ServiceSet): ServiceSet {
    if (this === other) return this;
    const out: number[] = [];
    const [a, b] = [this.pairs, other.pairs];
    for (let i = 0, j = 0; i < a.length && j < b.length;) {
      const first = Math.max(a[i]!, b[j]!);
      const last = Math.min(a[i + 1]!, b[j + 1]!);
      if (first <= last) out.push(first, last);
      if (a[i + 1]! < b[j + 1]!) i += 2;
      else j += 2;
    }
    return this.same(out);
  }

  /** Whether both hold some service. */
  meets(other: ServiceSet): boolean {
    const [a, b] = [this.pairs, other.pairs];
    for (let i = 0, j = 0; i < a.length && j < b.length;) {
      if (a[i]! <= b[j + 1]! && b[j]! <= a[i + 1]!) return true;
      if (a[i + 1]! < b[j + 1]!) i += 2;
      else j += 2;
    }
    return false;
  }

  /** This set without another's services; itself where they share none. */
  minus(other: ServiceSet): ServiceSet {
    const out: number[] = [];
    const [a, b] = [this.pairs, other.pairs];
    let j = 0;
    for (let i = 0; i < a.length; i += 2) {
      let first = a[i]!;
      const last = a[i + 1]!;
      while (j < b.length && b[j + 1]! < first) j += 2;
      for (let k = j; k < b.length && b[k]! <= last && first <= last; k += 2) {
        if (b[k]! > first) out.push(first, b[k]! - 1);
        first = b[k + 1]! + 1;
      }
      if (first <= last) out.push(first, last);
    }
    return this.same(out);
  }

  /** The same services with their ports moved by `by`; only for sets that hold nothing but ports of one protocol. */
  shifted(by: number): ServiceSet {
    return by === 0 ? this : new ServiceSet(this.pairs.map((n) => n + by));
  }

  private same(out: number[]): ServiceSet {
    if (!out.length) return ServiceSet.empty;
    return out.length === this.pairs.length && out.every((n, i) => n === this.pairs[i])
      ? this
      : new ServiceSet(out);
  }

  private spans(): [number, number][] {
    const out: [number, number][] = [];
    for (let i = 0; i < this.pairs.length; i += 2) out.push([this.pairs[i]!, this.pairs[i + 1]!]);
    return out;
  }

  /** One service of the set for asking by example: ping before ports before other protocols. Never of an empty set. */
  sample(family: Family): FlowService {
    if (this.has(PING_FLOW)) return { proto: family === 4 ? PROTO.icmp : PROTO.icmp6, echo: true };
    const place = this.pairs[0]!;
    // Port 0 is asked for by nobody, so where there is another the other is taken.
    return serviceAt(place === 0 || place === UDP ? Math.min(place + 1, this.pairs[1]!) : place);
  }

  /** The first and the last service of every stretch: the edges at which an error would show. */
  edges(family: Family): FlowService[] {
    return this.pairs.map((p) =>
      p === ECHO ? { proto: family === 4 ? PROTO.icmp : PROTO.icmp6, echo: true } : serviceAt(p),
    );
  }

  /** As items of the notation, ports of one protocol together, in the order of the line. */
  toServices(): Services {
    if (this.equals(ServiceSet.all)) return [{ kind: 'any' }];
    const out: ServiceItem[] = [];
    const within = (low: number, high: number) =>
      this.spans().flatMap(([f, l]): [number, number][] =>
        f > high || l < low ? [] : [[Math.max(f, low) - low, Math.min(l, high) - low]],
      );
    for (const [first, last] of within(0, UDP - 1)) out.push({ kind: 'ports', proto: 6, first, last });
    for (const [first, last] of within(UDP, ECHO - 1)) out.push({ kind: 'ports', proto: 17, first, last });
    if (this.has(PING_FLOW)) out.push({ kind: 'ping' });
    out.push(...this.others());
    return out;
  }

  /** The protocols besides TCP, UDP and ICMP that the set holds. */
  private others(): ServiceItem[] {
    return this.spans().flatMap(([f, l]) =>
      l < OTHER
        ? []
        : Array.from({ length: l - Math.max(f, OTHER) + 1 }, (_, i): ServiceItem => ({
            kind: 'proto',
            proto: Math.max(f, OTHER) + i - OTHER,
          })),
    );
  }

  /** As toServices, with the protocols besides TCP, UDP and ICMP as one word where all of them, or all but few, are in it. */
  toWords(): { readonly services: Services; readonly others?: string } {
    const every = ServiceSet.all.minus(ServiceSet.ordinary);
    const mine = this.intersect(every);
    const lacking = every.minus(mine);
    if (mine.isEmpty || lacking.pairs.length > 8) return { services: this.toServices() };
    const rest = this.minus(every);
    const but = lacking.isEmpty ? '' : ` but ${formatServices(lacking.toServices())}`;
    return { services: rest.isEmpty ? [] : rest.toServices(), others: `other protocols${but}` };
  }

  /** In words of the notation: `any`, `tcp 80 443 ping`; long ones say what they leave out. */
  toText(): string {
    if (this.isEmpty) return 'nothing';
    const rest = ServiceSet.all.minus(this);
    if (rest.isEmpty) return 'any';
    return rest.pairs.length < this.pairs.length && rest.pairs.length <= 6
      ? `any but ${formatServices(rest.toServices())}`
      : wordsOf(this.toWords());
  }
}

const wordsOf = ({ services, others }: ReturnType<ServiceSet['toWords']>): string =>
  [...(services.length ? [formatServices(services)] : []), ...(others ? [others] : [])].join(' ');

const PING_FLOW: FlowService = { proto: PROTO.icmp, echo: true };

function placeOf(service: FlowService): number {
  if (service.echo) return ECHO;
  if (service.proto === PROTO.tcp) return service.port ?? 0;
  if (service.proto === PROTO.udp) return UDP + (service.port ?? 0);
  return OTHER + service.proto;
}

function serviceAt(place: number): FlowService {
  if (place < UDP) return { proto: PROTO.tcp, port: place };
  if (place < ECHO) return { proto: PROTO.udp, port: place - UDP };
  return { proto: place - OTHER };
}

function placesOf(item: ServiceItem, family: Family): [number, number][] {
  switch (item.kind) {
    case 'any':
      return [[0, END]];
    case 'ping':
    case 'icmp':
      return [[ECHO, ECHO]];
    case 'ports': {
      const base = item.proto === PROTO.tcp ? 0 : UDP;
      return [[base + item.first, base + item.last]];
    }
    case 'proto':
      switch (item.proto) {
        case PROTO.tcp:
          return [[0, UDP - 1]];
        case PROTO.udp:
          return [[UDP, ECHO - 1]];
        case PROTO.icmp:
          return family === 4 ? [[ECHO, ECHO]] : [];
        case PROTO.icmp6:
          return family === 6 ? [[ECHO, ECHO]] : [];
        default:
          return [[OTHER + item.proto, OTHER + item.proto]];
      }
  }
}
