/** Stateless autoconfiguration: addresses, a default router and resolvers from what routers say. RFC 4862, RFC 8106. */
import { contains, identifierOf } from '#core/addr';
import type { Ipv6, Mac, Prefix } from '#core/addr';
import type { Nd } from '#core/wire';
import type { Milliseconds, Scheduler, Timer } from './scheduler';

/** What it needs of the link it is on. */
export interface AutoconfLink {
  /** Asks routers to speak. */
  solicit(): void;
  /** Asks whether anybody has the address already. */
  probeFree(address: Ipv6, then: (free: boolean) => void): void;
}

interface Made {
  readonly prefix: Prefix<Ipv6>;
  until: Milliseconds;
  /** Up to then flows may begin from it (RFC 4862 §5.5.4). */
  preferred: Milliseconds;
  /** In use: tried, and nobody else has it. */
  ready: boolean;
}

/** Questions for a router and the time between them (RFC 4861 §10). */
const TRIES = 3;
const BETWEEN: Milliseconds = 4000;
const TWO_HOURS: Milliseconds = 7_200_000;
/** RFC 4861 §4.6.2: all ones is for ever. */
const FOREVER = 0xffffffff;

export class Autoconf {
  names: readonly Ipv6[] = [];
  /** Whether a router says that addresses are to be had by DHCPv6. */
  managed = false;
  /** Router solicitations sent since the start. */
  tries = 0;
  /** An address that could not be taken because another has it. */
  duplicate?: Ipv6;
  private made: Made[] = [];
  private onLink: { readonly prefix: Prefix<Ipv6>; readonly until: Milliseconds }[] = [];
  private routerFound?: { readonly address: Ipv6; readonly until: Milliseconds };
  private asking?: Timer;
  private expiry?: Timer;

  constructor(
    private readonly scheduler: Scheduler,
    mac: Mac,
    /** Whether it makes addresses; without, it only learns router, resolvers and networks. */
    private readonly makes: boolean,
    private readonly link: AutoconfLink,
    private readonly changed: () => void,
    /** The last 64 bits of what it makes; those of its MAC where absent. */
    private readonly suffix: bigint = identifierOf(mac),
  ) {}

  /** Addresses in use at the moment, those first from which flows may begin (RFC 6724 §5, rule 3). */
  get addresses(): Prefix<Ipv6>[] {
    const { now } = this.scheduler;
    const all = this.made.filter((m) => m.ready && m.until > now);
    return [...all.filter((m) => m.preferred > now), ...all.filter((m) => m.preferred <= now)].map(
      (m) => m.prefix,
    );
  }

  /** The default router at the moment. */
  get router(): Ipv6 | undefined {
    return this.routerFound && this.routerFound.until > this.scheduler.now
      ? this.routerFound.address
      : undefined;
  }

  /** Length of the on-link network that holds the address, or 128 where none does. */
  lengthOf(address: Ipv6): number {
    const { now } = this.scheduler;
    return this.onLink.find((o) => o.until > now && contains(o.prefix, address))?.prefix.length ?? 128;
  }

  /** Begins anew, as when the cable is plugged in. */
  start(): void {
    this.stop();
    this.tries = 0;
    this.ask();
  }

  /** Forgets all it learned. */
  stop(): void {
    this.scheduler.cancel(this.asking);
    this.scheduler.cancel(this.expiry);
    const had = this.made.length > 0 || !!this.routerFound;
    this.made = [];
    this.onLink = [];
    this.routerFound = undefined;
    this.names = [];
    if (had) this.changed();
  }

  private ask(): void {
    if (this.tries >= TRIES || this.routerFound) return;
    this.tries++;
    this.link.solicit();
    this.asking = this.scheduler.after(BETWEEN, () => this.ask());
  }

  /** Takes a router's advertisement. */
  heard(ra: Extract<Nd, { type: 'router' }>, from: Ipv6): void {
    const { now } = this.scheduler;
    const until = (seconds: number) => (seconds === FOREVER ? Infinity : now + seconds * 1000);
    this.scheduler.cancel(this.asking);
    this.managed = ra.managed;
    if (ra.lifetime > 0) this.routerFound = { address: from, until: until(ra.lifetime) };
    else if (this.routerFound?.address === from) this.routerFound = undefined;
    if (ra.names.length) this.names = ra.names;
    for (const p of ra.prefixes) {
      if (p.onLink)
        this.onLink = [
          ...this.onLink.filter((o) => o.prefix.address !== p.prefix.address),
          { prefix: p.prefix, until: until(p.valid) },
        ];
      // RFC 4862 §5.5.3 d: a prefix whose length and the identifier's do not make 128 is ignored.
      if (p.autonomous && this.makes && p.prefix.length === 64)
        this.make(p.prefix, until(p.valid), until(p.preferred));
    }
    this.await();
    this.changed();
  }

  private make(network: Prefix<Ipv6>, until: Milliseconds, preferred: Milliseconds): void {
    const address = (network.address | this.suffix) as Ipv6;
    const known = this.made.find((m) => m.prefix.address === address);
    if (known) {
      // RFC 4862 §5.5.3 e: nobody shortens what is left to less than two hours.
      const { now } = this.scheduler;
      if (until > now + TWO_HOURS || until > known.until) known.until = until;
      else if (known.until > now + TWO_HOURS) known.until = now + TWO_HOURS;
      known.preferred = preferred;
      return;
    }
    // What is deprecated already is no reason to make one.
    if (preferred <= this.scheduler.now) return;
    const made: Made = { prefix: { address, length: 64 }, until, preferred, ready: false };
    this.made.push(made);
    this.link.probeFree(address, (free) => {
      if (!this.made.includes(made)) return;
      if (free) made.ready = true;
      else {
        this.duplicate = address;
        this.made = this.made.filter((m) => m !== made);
      }
      this.changed();
    });
  }

  /** Tells when the first of what it learned runs out. */
  private await(): void {
    this.scheduler.cancel(this.expiry);
    const { now } = this.scheduler;
    const ends = [
      ...this.made.flatMap((m) => [m.until, ...(m.preferred > now ? [m.preferred] : [])]),
      this.routerFound?.until ?? Infinity,
    ].filter(Number.isFinite);
    if (!ends.length) return;
    this.expiry = this.scheduler.after(Math.min(...ends) - this.scheduler.now, () => {
      const { now } = this.scheduler;
      this.made = this.made.filter((m) => m.until > now);
      if (this.routerFound && this.routerFound.until <= now) this.routerFound = undefined;
      this.changed();
      this.await();
    });
  }
}
