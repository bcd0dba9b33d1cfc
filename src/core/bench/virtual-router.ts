/**
 * One virtual router of a box: who of two boxes has the shared addresses of a segment. RFC 9568 §6, with its words:
 * the active one advertises, the backup waits until it hears nothing any more.
 */
import type { Ipv4 } from '#core/addr';
import type { Vrrp } from '#core/wire';
import type { Milliseconds, Scheduler, Timer } from './scheduler';

/** Between two advertisements, hundredths of a second (§5.2.7). */
const INTERVAL = 100;

export interface VirtualSide {
  readonly id: number;
  readonly addresses: readonly Ipv4[];
  /** At the moment, 1 to 254: what is tracked may have lowered it. */
  priority(): number;
  /** The box's own address, which decides between two of one priority (§6.4.3). */
  readonly own: Ipv4;
  send(message: Vrrp): void;
  /** Tells everybody on the segment who has the addresses now (§8.1.2). */
  announce(): void;
  changed(): void;
}

export class VirtualRouter {
  state: 'initialize' | 'backup' | 'active' = 'initialize';
  private timer?: Timer;
  /** The interval of whoever is active, hundredths of a second. */
  private heardInterval = INTERVAL;

  constructor(
    private readonly scheduler: Scheduler,
    private readonly side: VirtualSide,
  ) {}

  get isActive(): boolean {
    return this.state === 'active';
  }

  /** Begins as a backup: what is active already is not disturbed. */
  start(): void {
    if (this.state !== 'initialize') return;
    this.state = 'backup';
    this.heardInterval = INTERVAL;
    this.waitFor(this.downInterval);
  }

  /** Leaves, and says so where anybody can hear it. */
  stop(): void {
    if (this.isActive) this.side.send(this.message(0));
    this.scheduler.cancel(this.timer);
    this.become('initialize');
  }

  heard(message: Vrrp, from: Ipv4): void {
    if (message.id !== this.side.id || this.state === 'initialize') return;
    const { priority } = message;
    const own = this.side.priority();
    if (this.state === 'backup') {
      if (priority === 0) this.waitFor(this.skew);
      else if (priority >= own) {
        this.heardInterval = message.interval;
        this.waitFor(this.downInterval);
      }
      return;
    }
    if (priority === 0) this.advertise();
    else if (priority > own || (priority === own && from > this.side.own)) {
      this.heardInterval = message.interval;
      this.become('backup');
      this.waitFor(this.downInterval);
    }
  }

  /** §6.1: a lower priority waits a little longer, so that the best backup comes first. */
  private get skew(): Milliseconds {
    return ((256 - this.side.priority()) * this.heardInterval * 10) / 256;
  }

  private get downInterval(): Milliseconds {
    return 3 * this.heardInterval * 10 + this.skew;
  }

  private waitFor(span: Milliseconds): void {
    this.scheduler.cancel(this.timer);
    this.timer = this.scheduler.after(span, () => this.missed());
  }

  private missed(): void {
    this.become('active');
    this.side.announce();
    this.advertise();
  }

  private advertise(): void {
    this.side.send(this.message(this.side.priority()));
    this.scheduler.cancel(this.timer);
    this.timer = this.scheduler.after(INTERVAL * 10, () => this.advertise());
  }

  private message(priority: number): Vrrp {
    return { id: this.side.id, priority, interval: INTERVAL, addresses: this.side.addresses };
  }

  private become(state: VirtualRouter['state']): void {
    const was = this.isActive;
    this.state = state;
    if (was !== this.isActive) this.side.changed();
  }
}
