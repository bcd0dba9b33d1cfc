/** Whether an uplink counts as working: its carrier, its address, its gateway's neighbour answer, its watches. */
import type { Ip } from '#core/addr';
import type { Attempt } from './endpoints';
import type { Milliseconds, Scheduler } from './scheduler';

/** What the monitor needs of the interface it watches. */
export interface Watched {
  readonly name: string;
  /** Seconds between checks. */
  readonly every: number;
  /** Failures in a row that make it dead. */
  readonly lost: number;
  /** Seconds of good answers before it is used again. */
  readonly settle: number;
  readonly watches: readonly Ip[];
  /** It is on demand, and nobody has called it. */
  rests(): boolean;
  carrier(): boolean;
  /** Whether it has an IPv4 address at the moment. */
  addressed(): boolean;
  gateway(): Ip | undefined;
  probeNeighbour(address: Ip, then: (answered: boolean) => void): void;
  ping(address: Ip): Attempt;
}

/** Why an uplink counts as dead. */
export type DeadBecause = 'resting' | 'carrier' | 'address' | 'neighbour' | 'watch';

/** How long an uplink may be without an address before another that stands by is called, milliseconds. */
export const ADDRESS_PATIENCE: Milliseconds = 20_000;

/**
 * Checks one uplink every few seconds. Its probes are bound to the interface and sent whether or not it counts as
 * live, or a dead one could never return.
 */
export class UplinkMonitor {
  dead?: DeadBecause;
  private neighbourLost = 0;
  private watchLost = 0;
  private goodSince?: Milliseconds;
  /** Set while the uplink was dead after it had been live: then `settle` of good answers is asked for. */
  private failed = false;
  /** Since when it is dead. */
  private deadSince?: Milliseconds;

  constructor(
    private readonly scheduler: Scheduler,
    private readonly watched: Watched,
    private readonly changed: () => void,
  ) {}

  get alive(): boolean {
    return this.dead === undefined;
  }

  /** Whether it is dead for good as far as those that stand by are concerned: who may still get an address is waited for. */
  get isGone(): boolean {
    if (this.dead === undefined) return false;
    return this.dead !== 'address' || this.scheduler.now - this.deadSince! >= ADDRESS_PATIENCE;
  }

  start(): void {
    this.refresh();
    this.round();
  }

  /** Looks at carrier and address at once, as when one of them changed. */
  refresh(): void {
    this.judge();
  }

  private round(): void {
    const { watched } = this;
    const gateway = watched.gateway();
    if (watched.carrier() && watched.addressed()) {
      if (gateway !== undefined)
        watched.probeNeighbour(gateway, (answered) => {
          this.neighbourLost = answered ? 0 : this.neighbourLost + 1;
          this.judge();
        });
      if (watched.watches.length) {
        const attempts = watched.watches.map((address) => watched.ping(address));
        this.scheduler.after(1100, () => {
          this.watchLost = attempts.some((a) => a.result === 'answered') ? 0 : this.watchLost + 1;
          this.judge();
        });
      }
    }
    this.scheduler.after(watched.every * 1000, () => this.round());
  }

  private judge(): void {
    const { watched } = this;
    const bad: DeadBecause | undefined = watched.rests()
      ? 'resting'
      : !watched.carrier()
        ? 'carrier'
        : !watched.addressed()
          ? 'address'
          : this.neighbourLost >= watched.lost
            ? 'neighbour'
            : this.watchLost >= watched.lost
              ? 'watch'
              : undefined;
    if (bad) {
      this.goodSince = undefined;
      // Who is called begins anew.
      if (bad === 'resting') [this.failed, this.neighbourLost, this.watchLost] = [false, 0, 0];
      else if (this.dead === undefined && bad !== 'address') this.failed = true;
      this.set(bad);
      return;
    }
    if (this.dead === undefined) return;
    const { now } = this.scheduler;
    const clean = this.neighbourLost === 0 && this.watchLost === 0;
    if (!clean) {
      this.goodSince = undefined;
      return;
    }
    this.goodSince ??= now;
    if (!this.failed || now - this.goodSince >= watched.settle * 1000) this.set(undefined);
  }

  private set(dead: DeadBecause | undefined): void {
    if (this.dead === dead) return;
    this.deadSince = dead === undefined ? undefined : (this.deadSince ?? this.scheduler.now);
    this.dead = dead;
    this.changed();
  }
}
