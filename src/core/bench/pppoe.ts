/** PPPoE at both ends: finding each other on the segment, then a PPP link in a session. RFC 2516 §5. */
import type { Mac } from '#core/addr';
import { BROADCAST, ETHERTYPE, PPPOE_CODE, PPPOE_TAG, decodePppoe, encodePppoe } from '#core/wire';
import type { Pppoe } from '#core/wire';
import { ByteWriter } from '#core/base';
import type { Seeded } from '#core/base';
import { PppLink, octets } from './ppp';
import type { PppFailure, PppLogin, PppSide, PppTerms } from './ppp';
import type { Milliseconds, Scheduler, Timer } from './scheduler';

type Emit = (destination: Mac, type: number, payload: Uint8Array, mark?: number) => void;
type Arrived = (type: number, payload: Uint8Array, mark?: number) => void;

/** Waits before a question is repeated; RFC 2516 §8 asks for a doubling. */
const REPEAT: readonly Milliseconds[] = [1000, 2000, 4000, 8000];
/** How long after a failure the caller tries again. */
const AGAIN: Milliseconds = 10_000;

const discovery = (code: number, session: number, tags: Pppoe['tags']): Uint8Array =>
  encodePppoe({ code, session, tags, payload: new Uint8Array(0) });
const inSession = (session: number, payload: Uint8Array): Uint8Array =>
  encodePppoe({ code: PPPOE_CODE.session, session, tags: [], payload });

/** The customer's end. */
export class PppoeClient {
  link?: PppLink;
  /** Questions for a concentrator since the start. */
  tries = 0;
  /** Why the last session did not come up or ended; `nobody` while no concentrator answers. */
  failure?: PppFailure | 'nobody';
  private session = 0;
  private concentrator?: Mac;
  private timer?: Timer;
  private unique = 0;

  constructor(
    private readonly scheduler: Scheduler,
    private readonly chance: Seeded,
    private readonly login: PppLogin,
    private readonly terms: PppTerms,
    private readonly emit: Emit,
    private readonly arrived: Arrived,
    private readonly changed: () => void,
  ) {}

  start(): void {
    this.stop();
    this.tries = 0;
    this.ask(0);
  }

  stop(): void {
    this.scheduler.cancel(this.timer);
    const had = !!this.link;
    this.link?.stop();
    if (this.session && this.concentrator !== undefined)
      this.emit(this.concentrator, ETHERTYPE.pppoeDiscovery, discovery(PPPOE_CODE.padt, this.session, []));
    this.forget();
    if (had) this.changed();
  }

  /** The cable is out: nobody can be told, and what was settled is void. */
  lose(): void {
    this.scheduler.cancel(this.timer);
    this.forget();
    this.changed();
  }

  private forget(): void {
    this.link = undefined;
    this.session = 0;
    this.concentrator = undefined;
  }

  private tags(): Pppoe['tags'] {
    return [
      { type: PPPOE_TAG.service, value: new Uint8Array(0) },
      { type: PPPOE_TAG.hostUnique, value: new ByteWriter(4).u32(this.unique).bytes },
    ];
  }

  private ask(round: number): void {
    this.tries++;
    this.failure ??= 'nobody';
    this.unique = this.chance.u32();
    this.emit(BROADCAST, ETHERTYPE.pppoeDiscovery, discovery(PPPOE_CODE.padi, 0, this.tags()));
    this.later(REPEAT[Math.min(round, REPEAT.length - 1)]!, () => this.ask(round + 1));
  }

  private later(delay: Milliseconds, run: () => void): void {
    this.scheduler.cancel(this.timer);
    this.timer = this.scheduler.after(delay, run);
  }

  /** Takes a PPPoE frame. */
  receive(from: Mac, type: number, payload: Uint8Array, mark?: number): void {
    const read = decodePppoe(payload);
    if (!read.ok) return;
    const frame = read.value;
    if (type === ETHERTYPE.pppoeSession) {
      if (frame.session === this.session && from === this.concentrator)
        this.link?.receive(frame.payload, mark);
      return;
    }
    const mine = frame.tags.some(
      (t) =>
        t.type === PPPOE_TAG.hostUnique && new DataView(t.value.slice().buffer).getUint32(0) === this.unique,
    );
    if (frame.code === PPPOE_CODE.pado && mine && !this.session && this.concentrator === undefined) {
      this.concentrator = from;
      const cookie = frame.tags.filter((t) => t.type === PPPOE_TAG.cookie);
      this.emit(from, ETHERTYPE.pppoeDiscovery, discovery(PPPOE_CODE.padr, 0, [...this.tags(), ...cookie]));
      // Without an answer the search begins anew (§8).
      this.later(REPEAT[1]!, () => this.start());
    } else if (frame.code === PPPOE_CODE.pads && mine && from === this.concentrator && frame.session) {
      this.scheduler.cancel(this.timer);
      this.begin(frame.session, from);
    } else if (frame.code === PPPOE_CODE.padt && from === this.concentrator && frame.session === this.session)
      this.over(this.failure ?? 'ended');
  }

  private begin(session: number, concentrator: Mac): void {
    this.session = session;
    const side: PppSide = {
      send: (frame, mark) => this.emit(concentrator, ETHERTYPE.pppoeSession, inSession(session, frame), mark),
      packet: (type, payload, mark) => this.arrived(type, payload, mark),
      changed: () => {
        if (this.link?.open) this.failure = undefined;
        this.changed();
      },
      down: (why) => this.over(why),
    };
    this.link = new PppLink(this.scheduler, this.chance, this.login, this.terms, side);
    this.link.start();
  }

  /** The session is over: what it gave is void, and after a while it is tried anew. */
  private over(why: PppFailure | 'nobody'): void {
    this.failure = this.link?.failure ?? why;
    this.forget();
    this.changed();
    this.later(AGAIN, () => this.ask(0));
  }
}

/** What a concentrator has for whoever calls. */
export interface Concentrator {
  readonly name: string;
  readonly login: PppLogin;
  readonly terms: PppTerms;
}

/** The provider's end: one session at a time, as one line has one customer. */
export class PppoeServer {
  link?: PppLink;
  private customer?: Mac;
  private session = 0;
  private made = 0;

  constructor(
    private readonly scheduler: Scheduler,
    private readonly chance: Seeded,
    private readonly setup: Concentrator,
    private readonly emit: Emit,
    private readonly arrived: Arrived,
    private readonly changed: () => void,
  ) {}

  receive(from: Mac, type: number, payload: Uint8Array, mark?: number): void {
    const read = decodePppoe(payload);
    if (!read.ok) return;
    const frame = read.value;
    if (type === ETHERTYPE.pppoeSession) {
      if (frame.session === this.session && from === this.customer) this.link?.receive(frame.payload, mark);
      return;
    }
    const back = frame.tags.filter(
      (t) => t.type === PPPOE_TAG.hostUnique || t.type === PPPOE_TAG.service || t.type === PPPOE_TAG.cookie,
    );
    switch (frame.code) {
      case PPPOE_CODE.padi:
        this.say(from, PPPOE_CODE.pado, 0, [
          { type: PPPOE_TAG.concentrator, value: octets(this.setup.name) },
          { type: PPPOE_TAG.cookie, value: new ByteWriter(4).u32(this.chance.u32()).bytes },
          ...back,
        ]);
        return;
      case PPPOE_CODE.padr:
        this.customer = from;
        this.session = (++this.made % 0xfffe) + 1;
        this.say(from, PPPOE_CODE.pads, this.session, back);
        this.begin(from, this.session);
        return;
      case PPPOE_CODE.padt:
        if (from === this.customer && frame.session === this.session) this.end();
    }
  }

  private say(to: Mac, code: number, session: number, tags: Pppoe['tags']): void {
    this.emit(to, ETHERTYPE.pppoeDiscovery, discovery(code, session, tags));
  }

  private begin(customer: Mac, session: number): void {
    const side: PppSide = {
      send: (frame, mark) => this.emit(customer, ETHERTYPE.pppoeSession, inSession(session, frame), mark),
      packet: (type, payload, mark) => this.arrived(type, payload, mark),
      changed: () => this.changed(),
      down: () => {
        if (this.session !== session) return;
        this.say(customer, PPPOE_CODE.padt, session, []);
        this.end();
      },
    };
    this.link = new PppLink(this.scheduler, this.chance, this.setup.login, this.setup.terms, side);
    this.link.start();
  }

  private end(): void {
    this.link = undefined;
    this.customer = undefined;
    this.session = 0;
    this.changed();
  }
}
