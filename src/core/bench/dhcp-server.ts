/** A DHCP server: pools, reservations and leases with their ends. RFC 2131 §4.3. Gives the lowest free address. */
import { isIpv4, maskOfLength } from '#core/addr';
import type { DhcpOption, Ipv4, Mac, Range } from '#core/addr';
import { optionsFor, poolOf } from '#core/site';
import type { Interface } from '#core/site';
import { RELAY_OPTION, encodeOption } from '#core/wire';
import type { Dhcp } from '#core/wire';
import type { Milliseconds, Scheduler, Timer } from './scheduler';

/** A pool with what goes with an address from it. */
export interface Pool {
  readonly ranges: readonly Range[];
  /** Lease time, seconds. */
  readonly seconds: number;
}

/** What the client is told beside its address. */
export interface LeaseTerms {
  readonly length: number;
  readonly gateway?: Ipv4;
  readonly names: readonly Ipv4[];
  /** What it says beside, by number. */
  readonly others?: ReadonlyMap<number, Uint8Array>;
}

export interface ServerSetup {
  /** Its own address on this segment. */
  readonly address: Ipv4;
  readonly pools: readonly Pool[];
  readonly keeps: readonly { readonly address: Ipv4; readonly mac: Mac }[];
  /** Addresses never given: the server's own and others known to be in use. */
  readonly taken: ReadonlySet<Ipv4>;
  /** The terms for an address, or undefined where no network of the server holds it. */
  readonly terms: (address: Ipv4) => LeaseTerms | undefined;
}

interface Given {
  readonly address: Ipv4;
  readonly mac: Mac;
  until: Milliseconds;
  readonly offered: boolean;
}

const NONE: ReadonlyMap<number, Uint8Array> = new Map();

/** What the relay said of itself goes back to it as it came (RFC 3046 §2.2). */
function relaySaid({ others }: Dhcp): ReadonlyMap<number, Uint8Array> {
  const said = others.get(RELAY_OPTION);
  return said ? new Map([[RELAY_OPTION, said]]) : NONE;
}

/** What a DHCP server tells a client beside, by number, as octets. */
export const toldBeside = (
  server: Pick<Interface, 'options'>,
  address: Ipv4,
  first: readonly DhcpOption[] = [],
): ReadonlyMap<number, Uint8Array> =>
  new Map([...first, ...optionsFor(server, address)].map((o) => [o.code, encodeOption(o.value)]));

/** By how much later what a relay asks for is offered. */
const RELAYED: Milliseconds = 500;
/** How long an offer is held back for its client. */
const OFFER: Milliseconds = 10_000;

export class DhcpServer {
  private readonly given = new Map<Mac, Given>();

  constructor(readonly setup: ServerSetup) {}

  /** Leases that stand at a moment. */
  leases(now: Milliseconds): { readonly address: Ipv4; readonly mac: Mac; readonly until: Milliseconds }[] {
    return [...this.given.values()].filter((g) => !g.offered && g.until > now);
  }

  /** Whether every pool address that is not reserved is given out at a moment. */
  full(now: Milliseconds): boolean {
    return this.lowestFree(0 as Mac, now) === undefined;
  }

  /** The answer to a client's message, or undefined for none. */
  answer(message: Dhcp, now: Milliseconds): Dhcp | undefined {
    const mac = message.clientMac;
    switch (message.type) {
      case 'discover': {
        const address = this.addressFor(mac, now);
        if (address === undefined) return undefined;
        this.given.set(mac, { address, mac, until: now + OFFER, offered: true });
        return this.reply(message, 'offer', address);
      }
      case 'request': {
        if (message.server !== undefined && message.server !== this.setup.address) {
          this.given.delete(mac);
          return undefined;
        }
        const wanted = message.requested ?? message.clientIp;
        if (this.addressFor(mac, now, wanted) !== wanted) return this.refuse(message);
        const seconds = this.secondsFor(wanted);
        this.given.set(mac, { address: wanted, mac, until: now + seconds * 1000, offered: false });
        return this.reply(message, 'ack', wanted);
      }
      case 'release':
      case 'decline':
        this.given.delete(mac);
        return undefined;
      case 'offer':
      case 'ack':
      case 'nak':
      case 'inform':
        return undefined;
    }
  }

  private secondsFor(address: Ipv4): number {
    return poolOf(this.setup.pools, address)?.seconds ?? this.setup.pools[0]?.seconds ?? 43200;
  }

  /** The keep, the address the client has, the one it wants, or the lowest free one. */
  private addressFor(mac: Mac, now: Milliseconds, wanted?: Ipv4): Ipv4 | undefined {
    const kept = this.setup.keeps.find((k) => k.mac === mac);
    // One outside every network of the server is no address for anybody.
    if (kept && this.setup.terms(kept.address)) return kept.address;
    const has = this.given.get(mac);
    if (has && has.until > now && this.setup.terms(has.address) && this.inPools(has.address))
      return has.address;
    if (wanted !== undefined && wanted !== 0 && this.isFree(wanted, mac, now) && this.inPools(wanted))
      return wanted;
    return this.lowestFree(mac, now);
  }

  private inPools(address: Ipv4): boolean {
    return poolOf(this.setup.pools, address) !== undefined;
  }

  private isFree(address: Ipv4, mac: Mac, now: Milliseconds): boolean {
    if (this.setup.taken.has(address) || this.setup.keeps.some((k) => k.address === address)) return false;
    if (!this.setup.terms(address)) return false;
    for (const g of this.given.values())
      if (g.address === address && g.mac !== mac && g.until > now) return false;
    return true;
  }

  private lowestFree(mac: Mac, now: Milliseconds): Ipv4 | undefined {
    const used = new Set<Ipv4>(this.setup.taken);
    for (const k of this.setup.keeps) used.add(k.address);
    for (const g of this.given.values()) if (g.mac !== mac && g.until > now) used.add(g.address);
    for (const pool of this.setup.pools)
      for (const { first, last } of pool.ranges) {
        if (!isIpv4(first) || !isIpv4(last)) continue;
        for (let a = first as number; a <= last; a++)
          if (!used.has(a as Ipv4) && this.setup.terms(a as Ipv4)) return a as Ipv4;
      }
    return undefined;
  }

  private reply(message: Dhcp, type: 'offer' | 'ack', address: Ipv4): Dhcp {
    const terms = this.setup.terms(address)!;
    const seconds = this.secondsFor(address);
    return {
      reply: true,
      type,
      transaction: message.transaction,
      clientIp: message.clientIp,
      yourIp: address,
      clientMac: message.clientMac,
      relay: message.relay,
      broadcast: message.broadcast,
      mask: maskOfLength(terms.length),
      routers: terms.gateway === undefined ? [] : [terms.gateway],
      names: terms.names,
      others: new Map([...(terms.others ?? NONE), ...relaySaid(message)]),
      server: this.setup.address,
      leaseTime: seconds,
      renewal: Math.floor(seconds / 2),
      rebinding: Math.floor(seconds * 0.875),
    };
  }

  /** RFC 2131 §4.3.2: a request for an address that is not to be had is refused, and the client begins anew. */
  private refuse(message: Dhcp): Dhcp {
    return {
      reply: true,
      type: 'nak',
      transaction: message.transaction,
      clientIp: 0 as Ipv4,
      yourIp: 0 as Ipv4,
      clientMac: message.clientMac,
      relay: message.relay,
      broadcast: true,
      routers: [],
      names: [],
      others: relaySaid(message),
      server: this.setup.address,
      message: 'address not available here',
    };
  }
}

/**
 * A server that looks whether anybody has an address before it offers that (RFC 2131 §2.2), and offers nothing to who
 * took another's offer meanwhile.
 */
export class Patient {
  private readonly waiting = new Map<Mac, Timer>();

  constructor(
    private readonly scheduler: Scheduler,
    private readonly probing: Milliseconds,
  ) {}

  /** Has a message answered at once, or a discovery after a while. */
  take(message: Dhcp, answer: () => void): void {
    const mac = message.clientMac;
    this.scheduler.cancel(this.waiting.get(mac));
    this.waiting.delete(mac);
    if (message.type !== 'discover') answer();
    else {
      const later = this.probing + (message.relay === undefined ? 0 : RELAYED);
      this.waiting.set(mac, this.scheduler.after(later, answer));
    }
  }
}
