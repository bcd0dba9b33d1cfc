/** A DHCP client with its states and timers. RFC 2131 §4.4, figure 5. */
import type { Ipv4, Mac } from '#core/addr';
import type { Dhcp } from '#core/wire';
import type { Seeded } from '#core/base';
import type { Milliseconds, Scheduler, Timer } from './scheduler';

export interface Lease {
  readonly address: Ipv4;
  readonly mask: Ipv4;
  readonly gateway?: Ipv4;
  readonly names: readonly Ipv4[];
  /** What the server said beside, by number, as octets. */
  readonly others: ReadonlyMap<number, Uint8Array>;
  readonly server: Ipv4;
  /** Seconds. */
  readonly seconds: number;
  readonly since: Milliseconds;
}

/** Waits before a message is repeated, milliseconds: shorter than RFC 2131 §4.1 asks, so that a bench settles. */
const REPEAT: readonly Milliseconds[] = [1000, 2000, 4000, 8000];

export class DhcpClient {
  state: 'off' | 'selecting' | 'requesting' | 'bound' | 'renewing' | 'rebinding' = 'off';
  lease?: Lease;
  /** Messages sent since the client was started, for saying what was tried. */
  tries = 0;
  /** The text of the last refusal. */
  refused?: string;
  private transaction = 0;
  private timer?: Timer;

  constructor(
    private readonly scheduler: Scheduler,
    private readonly chance: Seeded,
    private readonly mac: Mac,
    private readonly hostName: string,
    /** Sends a message: broadcast from 0.0.0.0, or straight to the server from the leased address. */
    private readonly send: (message: Dhcp, to: Ipv4 | 'broadcast') => void,
    private readonly changed: (lease: Lease | undefined) => void,
  ) {}

  /** Begins anew, as after power-up or when the cable is plugged in. */
  start(): void {
    this.stop();
    this.state = 'selecting';
    this.tries = 0;
    this.discover(0);
  }

  /** Drops the lease and falls silent. */
  stop(): void {
    this.scheduler.cancel(this.timer);
    this.state = 'off';
    this.setLease(undefined);
  }

  private setLease(lease: Lease | undefined): void {
    const had = this.lease;
    this.lease = lease;
    if (had !== lease) this.changed(lease);
  }

  private message(type: Dhcp['type'], fields: Partial<Dhcp> = {}): Dhcp {
    return {
      reply: false,
      type,
      transaction: this.transaction,
      clientIp: 0 as Ipv4,
      yourIp: 0 as Ipv4,
      clientMac: this.mac,
      broadcast: true,
      routers: [],
      names: [],
      others: new Map(),
      hostName: this.hostName,
      ...fields,
    };
  }

  private discover(round: number): void {
    this.state = 'selecting';
    this.transaction = this.chance.u32();
    this.tries++;
    this.send(this.message('discover'), 'broadcast');
    this.later(REPEAT[Math.min(round, REPEAT.length - 1)]!, () => this.discover(round + 1));
  }

  private later(delay: Milliseconds, run: () => void): void {
    this.scheduler.cancel(this.timer);
    this.timer = this.scheduler.after(delay, run);
  }

  private request(offer: Dhcp, round: number): void {
    this.state = 'requesting';
    if (round >= 3) {
      this.discover(0);
      return;
    }
    this.send(this.message('request', { requested: offer.yourIp, server: offer.server }), 'broadcast');
    this.later(REPEAT[round]!, () => this.request(offer, round + 1));
  }

  /** Takes a message that arrived for this client. */
  receive(message: Dhcp): void {
    if (!message.reply || message.transaction !== this.transaction || message.clientMac !== this.mac) return;
    if (message.type === 'offer' && this.state === 'selecting') this.request(message, 0);
    else if (message.type === 'ack' && this.state !== 'selecting' && this.state !== 'off') this.bind(message);
    else if (message.type === 'nak' && this.state !== 'selecting' && this.state !== 'off') {
      // RFC 2131 §4.4.5: a refused client forgets its address and begins anew.
      this.refused = message.message;
      this.setLease(undefined);
      this.discover(0);
    }
  }

  private bind(ack: Dhcp): void {
    const seconds = ack.leaseTime ?? 3600;
    this.state = 'bound';
    const now = this.scheduler.now;
    this.setLease({
      address: ack.yourIp,
      mask: ack.mask ?? (0xffffff00 as Ipv4),
      gateway: ack.routers[0],
      names: ack.names,
      others: ack.others,
      server: ack.server ?? (0 as Ipv4),
      seconds,
      since: now,
    });
    // RFC 2131 §4.4.5: T1 is half of the lease, T2 seven eighths.
    this.later((ack.renewal ?? seconds / 2) * 1000, () => this.renew(now, seconds));
  }

  /** Asks the server for more time now, as at T1 or when somebody asks the client to renew. */
  renew(since = this.lease?.since ?? 0, seconds = this.lease?.seconds ?? 0): void {
    const { lease } = this;
    if (!lease) return;
    this.state = 'renewing';
    this.transaction = this.chance.u32();
    this.send(this.message('request', { clientIp: lease.address, broadcast: false }), lease.server);
    const t2 = since + seconds * 875;
    this.later(Math.max(2000, t2 - this.scheduler.now), () => this.rebind(since, seconds));
  }

  private rebind(since: Milliseconds, seconds: number): void {
    const { lease } = this;
    if (!lease) return;
    this.state = 'rebinding';
    this.send(this.message('request', { clientIp: lease.address }), 'broadcast');
    this.later(Math.max(2000, since + seconds * 1000 - this.scheduler.now), () => {
      this.setLease(undefined);
      this.discover(0);
    });
  }
}
