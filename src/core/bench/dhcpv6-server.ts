/** A DHCPv6 server at a provider: the lowest free address, and one prefix delegated whole. RFC 8415 §18.3. */
import { contains, offsetIp } from '#core/addr';
import type { Ipv6, Mac, Prefix } from '#core/addr';
import { DHCPV6_STATUS } from '#core/wire';
import type { Association, Dhcpv6 } from '#core/wire';
import type { Milliseconds } from './scheduler';

export interface Dhcpv6ServerSetup {
  readonly mac: Mac;
  /** Addresses are given out of this network, from its third address on. */
  readonly lends?: Prefix<Ipv6>;
  /** Delegated to the first client that asks. */
  readonly delegates?: Prefix<Ipv6>;
  readonly names: readonly Ipv6[];
  /** Seconds that what is given is valid. */
  readonly seconds: number;
}

interface Given<T> {
  readonly value: T;
  until: Milliseconds;
}

export class Dhcpv6Server {
  private readonly addresses = new Map<Mac, Given<Ipv6>>();
  private readonly prefixes = new Map<Mac, Given<Prefix<Ipv6>>>();
  private delegates?: Prefix<Ipv6>;

  constructor(private readonly setup: Dhcpv6ServerSetup) {
    this.delegates = setup.delegates;
  }

  /**
   * Delegates the next prefix of the same length from now on, and knows nothing of whom it gave the other: as after a
   * fault at the provider (RFC 8978 §2). The new one; undefined where nothing is delegated.
   */
  renumber(): Prefix<Ipv6> | undefined {
    const was = this.delegates;
    if (!was) return undefined;
    const address = (was.address ^ (1n << BigInt(128 - was.length))) as Ipv6;
    this.delegates = { address, length: was.length };
    this.prefixes.clear();
    return this.delegates;
  }

  /** Who has which delegated prefix at a moment. */
  delegated(now: Milliseconds): { readonly prefix: Prefix<Ipv6>; readonly mac: Mac }[] {
    return [...this.prefixes].flatMap(([mac, g]) => (g.until > now ? [{ prefix: g.value, mac }] : []));
  }

  /** The answer to a client's message, or undefined for none. */
  answer(message: Dhcpv6, now: Milliseconds): Dhcpv6 | undefined {
    const { client } = message;
    if (client === undefined) return undefined;
    if (message.server !== undefined && message.server !== this.setup.mac) return undefined;
    const type = message.type === 'solicit' ? 'advertise' : 'reply';
    switch (message.type) {
      case 'solicit':
      case 'request':
      case 'renew':
      case 'rebind': {
        const keep = message.type !== 'solicit';
        return {
          type,
          transaction: message.transaction,
          client,
          server: this.setup.mac,
          addresses: this.about(
            message.addresses,
            this.addressFor(client, now),
            DHCPV6_STATUS.noAddresses,
            (value) => keep && this.addresses.set(client, { value, until: now + this.setup.seconds * 1000 }),
          ),
          delegation: this.about(
            message.delegation,
            this.prefixFor(client, now),
            DHCPV6_STATUS.noPrefix,
            (value) => keep && this.prefixes.set(client, { value, until: now + this.setup.seconds * 1000 }),
          ),
          names: this.setup.names,
        };
      }
      case 'release':
        this.addresses.delete(client);
        this.prefixes.delete(client);
        return undefined;
      case 'advertise':
      case 'confirm':
      case 'reply':
        return undefined;
    }
  }

  private about<T>(
    asked: Association<unknown> | undefined,
    value: T | undefined,
    lacking: number,
    given: (value: T) => void,
  ): Association<T> | undefined {
    if (!asked) return undefined;
    const { seconds } = this.setup;
    const times = { id: asked.id, renewal: seconds / 2, rebinding: seconds * 0.8 };
    if (value === undefined) return { ...times, items: [], status: lacking };
    given(value);
    return { ...times, items: [{ value, preferred: seconds, valid: seconds }] };
  }

  private addressFor(mac: Mac, now: Milliseconds): Ipv6 | undefined {
    const { lends } = this.setup;
    if (!lends) return undefined;
    const has = this.addresses.get(mac);
    if (has) return has.value;
    const used = new Set([...this.addresses.values()].filter((g) => g.until > now).map((g) => g.value));
    for (let a = offsetIp(lends.address, 2); a !== undefined && contains(lends, a); a = offsetIp(a, 1))
      if (!used.has(a)) return a;
    return undefined;
  }

  private prefixFor(mac: Mac, now: Milliseconds): Prefix<Ipv6> | undefined {
    const { delegates } = this;
    const other = [...this.prefixes].some(([owner, g]) => owner !== mac && g.until > now);
    return other ? undefined : delegates;
  }
}
