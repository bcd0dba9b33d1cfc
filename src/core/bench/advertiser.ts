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

/** Of prefixes that a provider delegates, seconds (RFC 9096 §3.4): they may be gone tomorrow. */
export const DELEGATED_VALID = 5400;
export const DELEGATED_PREFERRED = 2700;
/** How long a prefix that is gone is told to be deprecated, seconds (RFC 9096 §3.5, L-14; RFC 4862 §5.5.3 e). */
const GONE = 7200;

export class Advertiser {
  private said = '';
  private last?: Advertisement;
  /** Prefixes that were told and are no more, each until when that is told. */
  private gone: {
    readonly prefix: Advertisement['prefixes'][number]['prefix'];
    readonly until: Milliseconds;
  }[] = [];

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
    this.say(this.message());
  }

  /** Says it where it differs from what was said last. */
  refresh(): void {
    const message = this.message();
    if (message && gist(message) !== this.said) this.say(message);
  }

  private say(message: Advertisement | undefined): void {
    if (!message) return;
    this.said = gist(message);
    this.send(message);
  }

  /** What there is to say, with what is gone: hosts are to begin nothing from there (RFC 9096 §3.5). */
  private message(): Advertisement | undefined {
    const now = this.content();
    const { last } = this;
    if (!now && !last) return undefined;
    const is = (p: { readonly prefix: { readonly address: bigint } }) =>
      now?.prefixes.some((n) => n.prefix.address === p.prefix.address);
    const until = this.scheduler.now + GONE * 1000;
    const before = (last?.prefixes ?? []).filter((p) => !is(p)).map(({ prefix }) => ({ prefix, until }));
    this.gone = [...this.gone, ...before].filter((g) => !is(g) && g.until > this.scheduler.now);
    // Who has nothing to say any more is no way out either.
    this.last = now;
    const base = now ?? (last && { ...last, lifetime: 0 });
    if (!base) return undefined;
    const deprecated = this.gone.map(({ prefix, until: end }) => ({
      prefix,
      onLink: true,
      autonomous: true,
      valid: Math.ceil((end - this.scheduler.now) / 1000),
      preferred: 0,
    }));
    return { ...base, prefixes: [...(now?.prefixes ?? []), ...deprecated] };
  }
}

const gist = (m: Advertisement): string =>
  [
    m.lifetime,
    m.managed,
    ...m.prefixes.map((p) => `${p.prefix.address}/${p.prefix.length} ${p.preferred > 0}`),
    ...m.names,
  ].join();
