/** A DHCPv6 client for an address, a delegated prefix, or both. RFC 8415 §18.2. */
import type { Ip, Ipv6, Mac, Prefix } from '#core/addr';
import type { Dhcpv6 } from '#core/wire';
import type { Seeded } from '#core/base';
import type { Milliseconds, Scheduler, Timer } from './scheduler';

export interface Lease6 {
  readonly address?: Ipv6;
  readonly delegated?: Prefix<Ipv6>;
  readonly names: readonly Ip[];
  readonly server: Mac;
  /** Seconds that it is valid. */
  readonly seconds: number;
  readonly since: Milliseconds;
}

/** Waits before a message is repeated: those of RFC 8415 §7.6 without their chance, cut short so that a bench settles. */
const REPEAT: readonly Milliseconds[] = [1000, 2000, 4000, 8000];
/** One interface has one association of each kind. */
const ASSOCIATION = 1;

export class Dhcpv6Client {
  state: 'off' | 'soliciting' | 'requesting' | 'bound' | 'renewing' | 'rebinding' = 'off';
  lease?: Lease6;
  /** Messages sent since the start. */
  tries = 0;
  private transaction = 0;
  private timer?: Timer;

  constructor(
    private readonly scheduler: Scheduler,
    private readonly chance: Seeded,
    private readonly mac: Mac,
    private readonly wants: { readonly address: boolean; readonly prefix: boolean },
    private readonly send: (message: Dhcpv6) => void,
    private readonly changed: () => void,
  ) {}

  start(): void {
    this.stop();
    this.tries = 0;
    this.solicit(0);
  }

  stop(): void {
    this.scheduler.cancel(this.timer);
    this.state = 'off';
    this.setLease(undefined);
  }

  /** Asks its server for more time now. */
  renew(): void {
    const { lease } = this;
    if (!lease) return;
    this.state = 'renewing';
    this.say('renew', lease.server);
    const t2 = lease.since + lease.seconds * 800;
    this.later(Math.max(2000, t2 - this.scheduler.now), () => this.rebind());
  }

  private rebind(): void {
    const { lease } = this;
    if (!lease) return;
    this.state = 'rebinding';
    this.say('rebind');
    this.later(Math.max(2000, lease.since + lease.seconds * 1000 - this.scheduler.now), () => {
      this.setLease(undefined);
      this.solicit(0);
    });
  }

  private setLease(lease: Lease6 | undefined): void {
    const had = this.lease;
    this.lease = lease;
    if (had !== lease) this.changed();
  }

  private later(delay: Milliseconds, run: () => void): void {
    this.scheduler.cancel(this.timer);
    this.timer = this.scheduler.after(delay, run);
  }

  private say(type: Dhcpv6['type'], server?: Mac): void {
    this.transaction = this.chance.u32() >>> 8;
    const { lease } = this;
    const about = <T>(wanted: boolean, value: T | undefined) =>
      wanted
        ? {
            id: ASSOCIATION,
            renewal: 0,
            rebinding: 0,
            items: value === undefined ? [] : [{ value, preferred: 0, valid: 0 }],
          }
        : undefined;
    this.send({
      type,
      transaction: this.transaction,
      client: this.mac,
      server,
      addresses: about(this.wants.address, lease?.address),
      delegation: about(this.wants.prefix, lease?.delegated),
      names: [],
    });
  }

  private solicit(round: number): void {
    this.state = 'soliciting';
    this.tries++;
    this.say('solicit');
    this.later(REPEAT[Math.min(round, REPEAT.length - 1)]!, () => this.solicit(round + 1));
  }

  private request(server: Mac, round: number): void {
    if (round >= 3) {
      this.solicit(0);
      return;
    }
    this.state = 'requesting';
    this.say('request', server);
    this.later(REPEAT[round]!, () => this.request(server, round + 1));
  }

  /** Takes a message that arrived for this client. */
  receive(message: Dhcpv6): void {
    if (message.transaction !== this.transaction || message.client !== this.mac) return;
    if (message.server === undefined) return;
    const address = message.addresses?.items[0];
    const delegated = message.delegation?.items[0];
    // §18.2.9: an advertisement of nothing that was asked for is passed over.
    if (!address && !delegated) return;
    if (message.type === 'advertise' && this.state === 'soliciting') this.request(message.server, 0);
    else if (message.type === 'reply' && this.state !== 'soliciting' && this.state !== 'off') {
      const seconds = Math.min(address?.valid ?? Infinity, delegated?.valid ?? Infinity);
      const { now } = this.scheduler;
      this.state = 'bound';
      this.setLease({
        address: address?.value,
        delegated: delegated?.value,
        names: message.names,
        server: message.server,
        seconds,
        since: now,
      });
      const t1 = message.addresses?.renewal || message.delegation?.renewal || seconds / 2;
      this.later(t1 * 1000, () => this.renew());
    }
  }
}
