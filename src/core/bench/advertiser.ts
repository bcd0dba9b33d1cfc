/** A router that says which networks there are: on being asked, now and then, and when that changes. RFC 4861 §6.2. */
import type { Nd } from '#core/wire';
import type { Milliseconds, Scheduler } from './scheduler';

type Advertisement = Extract<Nd, { type: 'router' }>;

/** Time between unasked advertisements; §6.2.1 allows 4 to 1800 seconds. */
const EVERY: Milliseconds = 200_000;
/** Lifetimes, seconds: of the router as default three times the longest pause, of prefixes §6.2.1's defaults. */
export const ROUTER_LIFETIME = 1800;
export const PREFIX_VALID = 2_592_000;
export const PREFIX_PREFERRED = 604_800;

export class Advertiser {
  private said = '';

  constructor(
    private readonly scheduler: Scheduler,
    /** What there is to say, or undefined for nothing at the moment. */
    private readonly content: () => Advertisement | undefined,
    private readonly send: (message: Advertisement) => void,
  ) {}

  start(): void {
    this.speak();
    this.scheduler.after(EVERY, () => this.start());
  }

  /** Says it now, as when asked. */
  speak(): void {
    const message = this.content();
    if (!message) return;
    this.said = gist(message);
    this.send(message);
  }

  /** Says it where it differs from what was said last. */
  refresh(): void {
    const message = this.content();
    if (message && gist(message) !== this.said) this.speak();
  }
}

const gist = (m: Advertisement): string =>
  [
    m.lifetime,
    m.managed,
    ...m.prefixes.map((p) => `${p.prefix.address}/${p.prefix.length}`),
    ...m.names,
  ].join();
