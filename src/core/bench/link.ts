/** Cables and the sockets they are plugged into. */
import type { Seeded } from '#core/base';
import type { Milliseconds, Scheduler } from './scheduler';

/**
 * What travels: the octets, and for a packet that is being followed the number of its trace. The mark is the
 * bench's pencil, not part of the frame.
 */
export interface Frame {
  readonly bytes: Uint8Array;
  readonly mark?: number;
}

/** A machine on the bench, as a cable sees it. */
export interface Machine {
  readonly name: string;
  receive(nic: Nic, frame: Frame): void;
  /** Called when the carrier of one of its sockets comes or goes. */
  carrierChanged?(nic: Nic): void;
}

/** Sees every frame at the moment it is sent. */
export type Tap = (time: Milliseconds, from: Nic, to: Nic, frame: Frame) => void;

/** A socket for a cable. */
export class Nic {
  link?: Link;
  /** Turned on by its own machine. */
  on = true;

  constructor(
    readonly owner: Machine,
    readonly name: string,
  ) {}

  /** Whether there is light on the cable: both ends on, the cable whole. */
  get carrier(): boolean {
    return !!this.link && this.link.whole && this.on && this.link.other(this).on;
  }

  send(frame: Frame): void {
    if (this.carrier) this.link!.carry(this, frame);
  }
}

/** Delay of a cable in a building; small, but not nothing, so that order is order. */
const CABLE_DELAY: Milliseconds = 0.02;

/** A cable between two sockets. */
export class Link {
  private intact = true;

  constructor(
    private readonly scheduler: Scheduler,
    private readonly chance: Seeded,
    readonly a: Nic,
    readonly b: Nic,
    /** One way. */
    public delay: Milliseconds = CABLE_DELAY,
    /** Percent of frames lost, 0–100. */
    public loss = 0,
    private readonly tap?: Tap,
  ) {
    a.link = this;
    b.link = this;
  }

  get whole(): boolean {
    return this.intact;
  }

  /** Cuts or mends the cable; both ends are told. */
  set whole(value: boolean) {
    if (this.intact === value) return;
    this.intact = value;
    this.a.owner.carrierChanged?.(this.a);
    this.b.owner.carrierChanged?.(this.b);
  }

  other(nic: Nic): Nic {
    return nic === this.a ? this.b : this.a;
  }

  carry(from: Nic, frame: Frame): void {
    const to = this.other(from);
    this.tap?.(this.scheduler.now, from, to, frame);
    if (this.loss > 0 && this.chance.below(10000) < this.loss * 100) return;
    this.scheduler.after(this.delay, () => {
      if (this.intact && to.on) to.owner.receive(to, frame);
    });
  }
}
