/**
 * One end of a PPP link: the line is agreed on (LCP), the peer is known (PAP or CHAP), addresses are settled (IPCP,
 * IPV6CP), then packets pass. RFC 1661, 1334, 1994, 1332, 1877, 5072. Both ends of a session are made of this.
 */
import { md5 } from '@noble/hashes/legacy.js';
import type { Ipv4, Ipv6 } from '#core/addr';
import { linkLocal } from '#core/addr';
import {
  CHAP_CODE,
  CP_CODE,
  CP_OPTION,
  ETHERTYPE,
  PAP_CODE,
  PPP,
  decodeControl,
  decodePpp,
  encodeControl,
  encodePpp,
  readChap,
  readOptions,
  readPap,
  writeChap,
  writeOptions,
  writePap,
} from '#core/wire';
import type { Control, ControlOption } from '#core/wire';
import { ByteReader, ByteWriter, joined } from '#core/base';
import type { Seeded } from '#core/base';
import type { Milliseconds, Scheduler, Timer } from './scheduler';

/** The largest packet on a PPPoE session, octets (RFC 2516 §7). */
export const PPPOE_MTU = 1492;

/** Repeats of a request and the time between them (RFC 1661 §4.6). */
const REPEATS = 10;
const BETWEEN: Milliseconds = 3000;
/** How long an LCP echo is waited for. */
const ECHO_WAIT: Milliseconds = 1000;
/** The algorithm number of MD5 in CHAP (RFC 1994 §3). */
const MD5 = 5;

/** How the two ends know each other: one asks and judges, the other answers. */
export type PppLogin =
  | {
      readonly as: 'caller';
      readonly user: string;
      readonly secret: string;
      /** Whether it can answer a challenge; without, it proposes PAP. */
      readonly chap: boolean;
    }
  | {
      readonly as: 'judge';
      /** The secret of a user, or undefined where there is none such. `anyone` takes every login. */
      readonly secretOf: (user: string) => string | undefined;
      readonly anyone: boolean;
    };

/** What the ends settle about addresses. */
export interface PppTerms {
  /** Its own address; 0 while it is to be told one. */
  readonly address: Ipv4;
  /** Given to the peer, by the end that gives. */
  readonly gives?: Ipv4;
  readonly names: readonly Ipv4[];
  /** The IPv6 interface identifier, where IPv6 is spoken. */
  readonly identifier?: bigint;
}

/** What a link asks of the host that it ends on. */
export interface PppSide {
  /** Sends a PPP frame. */
  send(frame: Uint8Array, mark?: number): void;
  /** A packet arrived for the network layer. */
  packet(type: number, payload: Uint8Array, mark?: number): void;
  /** Something came up or went down. */
  changed(): void;
  /** The link is over. */
  down(why: PppFailure): void;
}

/** Why a link ended: its login was refused, nobody answered, or one end ended it. */
export type PppFailure = 'refused' | 'silence' | 'ended';

/** What one end says to a wish of the other. */
type Judgement =
  | { readonly say: 'ack' }
  | { readonly say: 'nak' | 'reject'; readonly options: readonly ControlOption[] };

/** A text as PPP and PPPoE carry it. */
export const octets = (text: string): Uint8Array => Uint8Array.from(text, (c) => c.charCodeAt(0) & 0xff);
const text = (bytes: Uint8Array): string => String.fromCharCode(...bytes);
const same = (a: Uint8Array, b: Uint8Array): boolean =>
  a.length === b.length && a.every((v, i) => v === b[i]);
const u32 = (value: number): Uint8Array => new ByteWriter(4).u32(value).bytes;
const u16 = (value: number): Uint8Array => new ByteWriter(2).u16(value).bytes;

/** The negotiation that all control protocols share (RFC 1661 §4, its automaton without the rare states). */
class Negotiation {
  private identifier = 0;
  private mine = false;
  private theirs = false;
  private timer?: Timer;
  private sent = 0;

  constructor(
    private readonly scheduler: Scheduler,
    private readonly emit: (control: Control) => void,
    private readonly wishes: () => ControlOption[],
    private readonly judge: (options: readonly ControlOption[]) => Judgement,
    /** The peer wants something else, or not at all. */
    private readonly corrected: (options: readonly ControlOption[], rejected: boolean) => void,
    private readonly agreed: () => void,
    private readonly gaveUp: () => void,
  ) {}

  get open(): boolean {
    return this.mine && this.theirs;
  }

  start(): void {
    if (this.sent === 0) this.request();
  }

  stop(): void {
    this.scheduler.cancel(this.timer);
    this.mine = this.theirs = false;
    this.sent = 0;
  }

  private request(): void {
    if (this.sent++ >= REPEATS) {
      this.gaveUp();
      return;
    }
    this.identifier = (this.identifier + 1) & 0xff;
    this.emit({ code: CP_CODE.request, identifier: this.identifier, data: writeOptions(this.wishes()) });
    this.scheduler.cancel(this.timer);
    this.timer = this.scheduler.after(BETWEEN, () => this.request());
  }

  receive(control: Control): void {
    const options = readOptions(control.data);
    if (!options) return;
    const was = this.open;
    switch (control.code) {
      case CP_CODE.request: {
        const judgement = this.judge(options);
        const { identifier } = control;
        if (judgement.say === 'ack') {
          this.theirs = true;
          this.emit({ code: CP_CODE.ack, identifier, data: control.data });
        } else
          this.emit({
            code: judgement.say === 'nak' ? CP_CODE.nak : CP_CODE.reject,
            identifier,
            data: writeOptions(judgement.options),
          });
        break;
      }
      case CP_CODE.ack:
        if (control.identifier !== this.identifier) return;
        this.scheduler.cancel(this.timer);
        this.mine = true;
        break;
      case CP_CODE.nak:
      case CP_CODE.reject:
        if (control.identifier !== this.identifier) return;
        this.corrected(options, control.code === CP_CODE.reject);
        this.request();
        break;
    }
    if (this.open && !was) this.agreed();
  }
}

export class PppLink {
  /** The settled address of this end and of the peer, once there are. */
  address?: Ipv4;
  peer?: Ipv4;
  names: readonly Ipv4[] = [];
  peerLinkLocal?: Ipv6;
  /** Why it did not come up. */
  failure?: PppFailure;
  private readonly lcp: Negotiation;
  private readonly ipcp: Negotiation;
  private readonly ipv6cp?: Negotiation;
  private readonly magic: number;
  private asksFor: 'chap' | 'pap' = 'chap';
  private peerAsksFor?: 'chap' | 'pap';
  private known = false;
  private challenge = new Uint8Array(0);
  private identifier = 0;
  private wanted: { address: Ipv4; names: Ipv4[] };
  private rejected = new Set<number>();
  private readonly echoes = new Map<number, (answered: boolean) => void>();
  private timer?: Timer;

  constructor(
    private readonly scheduler: Scheduler,
    private readonly chance: Seeded,
    private readonly login: PppLogin,
    private readonly terms: PppTerms,
    private readonly side: PppSide,
  ) {
    this.magic = chance.u32();
    this.wanted = { address: terms.address, names: [0 as Ipv4, 0 as Ipv4] };
    const negotiation = (
      protocol: number,
      wishes: () => ControlOption[],
      judge: (options: readonly ControlOption[]) => Judgement,
      corrected: (options: readonly ControlOption[], rejected: boolean) => void,
      agreed: () => void,
    ) =>
      new Negotiation(
        scheduler,
        (control) => this.emit(protocol, encodeControl(control)),
        wishes,
        judge,
        corrected,
        agreed,
        () => this.fail('silence'),
      );
    this.lcp = negotiation(
      PPP.lcp,
      () => this.lineWishes(),
      (o) => this.judgeLine(o),
      (o, rejected) => this.lineCorrected(o, rejected),
      () => this.lineAgreed(),
    );
    this.ipcp = negotiation(
      PPP.ipcp,
      () => this.addressWishes(),
      (o) => this.judgeAddress(o),
      (o, rejected) => this.addressCorrected(o, rejected),
      () => {
        if (terms.gives === undefined) {
          this.address = this.wanted.address;
          this.names = this.wanted.names.filter((n) => n !== 0);
        } else this.address = terms.address;
        side.changed();
      },
    );
    if (terms.identifier !== undefined)
      this.ipv6cp = negotiation(
        PPP.ipv6cp,
        () => [
          {
            type: CP_OPTION.ipv6cp.identifier,
            value: new ByteWriter(16).u128(terms.identifier!).bytes.slice(8),
          },
        ],
        (o) => {
          const value = o.find((x) => x.type === CP_OPTION.ipv6cp.identifier)?.value;
          if (value?.length !== 8) return { say: 'nak', options: [] };
          const r = new ByteReader(value);
          this.peerLinkLocal = linkLocal((BigInt(r.u32()) << 32n) | BigInt(r.u32()));
          return { say: 'ack' };
        },
        () => {},
        () => side.changed(),
      );
  }

  /** Whether IPv4, or IPv6, may pass. */
  get open(): boolean {
    return this.ipcp.open;
  }

  get open6(): boolean {
    return !!this.ipv6cp?.open;
  }

  start(): void {
    this.lcp.start();
  }

  /** Ends the link, with a word to the peer where it stands. */
  stop(): void {
    if (this.lcp.open)
      this.emit(PPP.lcp, encodeControl({ code: CP_CODE.terminate, identifier: 1, data: new Uint8Array(0) }));
    this.fall();
  }

  private fall(): void {
    this.scheduler.cancel(this.timer);
    for (const n of [this.lcp, this.ipcp, this.ipv6cp]) n?.stop();
    this.known = false;
    this.address = this.peer = this.peerLinkLocal = undefined;
    this.names = [];
    for (const then of this.echoes.values()) then(false);
    this.echoes.clear();
  }

  private fail(why: PppFailure): void {
    this.failure = why;
    this.fall();
    this.side.down(why);
  }

  private emit(protocol: number, payload: Uint8Array, mark?: number): void {
    this.side.send(encodePpp({ protocol, payload }), mark);
  }

  /** Sends a packet of the network layer; nothing happens before the link is open for its family. */
  send(type: number, payload: Uint8Array, mark?: number): void {
    if (type === ETHERTYPE.ipv4 && this.open) this.emit(PPP.ipv4, payload, mark);
    else if (type === ETHERTYPE.ipv6 && this.open6) this.emit(PPP.ipv6, payload, mark);
  }

  /** Asks the peer for a sign of life (RFC 1661 §5.8). */
  echo(then: (answered: boolean) => void): void {
    if (!this.lcp.open) {
      then(false);
      return;
    }
    const identifier = (this.identifier = (this.identifier + 1) & 0xff);
    this.echoes.set(identifier, then);
    this.emit(PPP.lcp, encodeControl({ code: CP_CODE.echo, identifier, data: u32(this.magic) }));
    this.scheduler.after(ECHO_WAIT, () => {
      if (!this.echoes.delete(identifier)) return;
      then(false);
    });
  }

  receive(bytes: Uint8Array, mark?: number): void {
    const frame = decodePpp(bytes);
    if (!frame.ok) return;
    const { protocol, payload } = frame.value;
    if (protocol === PPP.ipv4 && this.open) {
      this.side.packet(ETHERTYPE.ipv4, payload, mark);
      return;
    }
    if (protocol === PPP.ipv6 && this.open6) {
      this.side.packet(ETHERTYPE.ipv6, payload, mark);
      return;
    }
    const control = decodeControl(payload);
    if (!control.ok) return;
    switch (protocol) {
      case PPP.lcp:
        this.receiveLcp(control.value);
        return;
      case PPP.pap:
        this.receivePap(control.value);
        return;
      case PPP.chap:
        this.receiveChap(control.value);
        return;
      case PPP.ipcp:
        if (this.known) this.ipcp.receive(control.value);
        return;
      case PPP.ipv6cp:
        if (this.known && this.ipv6cp) this.ipv6cp.receive(control.value);
        // RFC 1661 §5.7: what is not spoken is said so, or the peer would ask ten times.
        else if (this.known)
          this.emit(
            PPP.lcp,
            encodeControl({
              code: CP_CODE.protocolReject,
              identifier: control.value.identifier,
              data: joined([u16(protocol), payload]),
            }),
          );
    }
  }

  // ---- LCP

  private receiveLcp(control: Control): void {
    const { code, identifier, data } = control;
    switch (code) {
      case CP_CODE.echo:
        if (this.lcp.open)
          this.emit(
            PPP.lcp,
            encodeControl({
              code: CP_CODE.echoed,
              identifier,
              data: joined([u32(this.magic), data.slice(4)]),
            }),
          );
        return;
      case CP_CODE.echoed: {
        const then = this.echoes.get(identifier);
        this.echoes.delete(identifier);
        then?.(true);
        return;
      }
      case CP_CODE.terminate:
        this.emit(PPP.lcp, encodeControl({ code: CP_CODE.terminated, identifier, data: new Uint8Array(0) }));
        this.fail(this.failure ?? 'ended');
        return;
      case CP_CODE.protocolReject:
        if (data.length >= 2 && new ByteReader(data).u16() === PPP.ipv6cp) this.ipv6cp?.stop();
        return;
      default:
        this.lcp.receive(control);
    }
  }

  private lineWishes(): ControlOption[] {
    const { lcp } = CP_OPTION;
    const wishes: ControlOption[] = [
      { type: lcp.mru, value: u16(PPPOE_MTU) },
      { type: lcp.magic, value: u32(this.magic) },
    ];
    if (this.login.as === 'judge')
      wishes.splice(1, 0, { type: lcp.authentication, value: protocolOf(this.asksFor) });
    return wishes.filter((w) => !this.rejected.has(w.type));
  }

  private judgeLine(options: readonly ControlOption[]): Judgement {
    const { lcp } = CP_OPTION;
    const strange = options.filter((o) => !Object.values<number>(lcp).includes(o.type));
    if (strange.length) return { say: 'reject', options: strange };
    const asked = options.find((o) => o.type === lcp.authentication);
    if (!asked) return { say: 'ack' };
    if (this.login.as === 'judge') return { say: 'reject', options: [asked] };
    const protocol = asked.value.length >= 2 ? new ByteReader(asked.value).u16() : 0;
    if (protocol === PPP.chap && asked.value[2] === MD5 && this.login.chap) this.peerAsksFor = 'chap';
    else if (protocol === PPP.pap) this.peerAsksFor = 'pap';
    else
      return {
        say: 'nak',
        options: [{ type: lcp.authentication, value: protocolOf(this.login.chap ? 'chap' : 'pap') }],
      };
    return { say: 'ack' };
  }

  private lineCorrected(options: readonly ControlOption[], rejected: boolean): void {
    for (const o of options) {
      if (rejected) this.rejected.add(o.type);
      // The peer would rather be asked otherwise.
      else if (o.type === CP_OPTION.lcp.authentication)
        this.asksFor = same(o.value, protocolOf('pap')) ? 'pap' : 'chap';
    }
  }

  private lineAgreed(): void {
    if (this.login.as === 'judge') {
      if (this.asksFor === 'chap') this.sendChallenge();
    } else if (this.peerAsksFor === 'pap') {
      const data = writePap(octets(this.login.user), octets(this.login.secret));
      this.emit(PPP.pap, encodeControl({ code: PAP_CODE.request, identifier: 1, data }));
    } else if (this.peerAsksFor === undefined) this.peerKnown();
  }

  // ---- who is there

  private sendChallenge(): void {
    this.challenge = joined([0, 0, 0, 0].map(() => u32(this.chance.u32())));
    const data = writeChap(this.challenge, octets('line'));
    this.emit(PPP.chap, encodeControl({ code: CHAP_CODE.challenge, identifier: 1, data }));
  }

  private peerKnown(): void {
    this.known = true;
    this.ipcp.start();
    this.ipv6cp?.start();
  }

  /** Says yes or no to a caller; after a no the line is ended (RFC 1661 §3.5). */
  private judged(
    good: boolean,
    protocol: number,
    codes: readonly [number, number],
    identifier: number,
  ): void {
    const message = octets(good ? 'welcome' : 'login incorrect');
    const data = protocol === PPP.pap ? joined([Uint8Array.of(message.length), message]) : message;
    this.emit(protocol, encodeControl({ code: good ? codes[0] : codes[1], identifier, data }));
    if (good) this.peerKnown();
    else this.stop();
  }

  private receivePap(control: Control): void {
    if (this.login.as === 'judge') {
      const said = control.code === PAP_CODE.request ? readPap(control.data) : undefined;
      if (!said || this.known) return;
      const secret = this.login.secretOf(text(said.user));
      const good = this.login.anyone || (secret !== undefined && secret === text(said.secret));
      this.judged(good, PPP.pap, [PAP_CODE.ack, PAP_CODE.nak], control.identifier);
    } else if (control.code === PAP_CODE.ack) this.peerKnown();
    else if (control.code === PAP_CODE.nak) this.failure = 'refused';
  }

  private receiveChap(control: Control): void {
    const { login } = this;
    if (login.as === 'judge') {
      const said = control.code === CHAP_CODE.response ? readChap(control.data) : undefined;
      if (!said || this.known) return;
      const secret = login.secretOf(text(said.name));
      const good =
        login.anyone ||
        (secret !== undefined && same(said.value, chapAnswer(control.identifier, secret, this.challenge)));
      this.judged(good, PPP.chap, [CHAP_CODE.success, CHAP_CODE.failure], control.identifier);
      return;
    }
    switch (control.code) {
      case CHAP_CODE.challenge: {
        const asked = readChap(control.data);
        if (!asked) return;
        const data = writeChap(chapAnswer(control.identifier, login.secret, asked.value), octets(login.user));
        this.emit(
          PPP.chap,
          encodeControl({ code: CHAP_CODE.response, identifier: control.identifier, data }),
        );
        return;
      }
      case CHAP_CODE.success:
        this.peerKnown();
        return;
      case CHAP_CODE.failure:
        this.failure = 'refused';
    }
  }

  // ---- IPCP

  private addressWishes(): ControlOption[] {
    const { ipcp } = CP_OPTION;
    const wishes: ControlOption[] = [{ type: ipcp.address, value: u32(this.wanted.address) }];
    // The end that gives an address needs no resolvers from its customer.
    if (this.terms.gives === undefined)
      wishes.push(
        { type: ipcp.firstNames, value: u32(this.wanted.names[0] ?? 0) },
        { type: ipcp.secondNames, value: u32(this.wanted.names[1] ?? 0) },
      );
    return wishes.filter((w) => !this.rejected.has(w.type));
  }

  private judgeAddress(options: readonly ControlOption[]): Judgement {
    const { ipcp } = CP_OPTION;
    const { gives, names } = this.terms;
    const read = (o: ControlOption) => (o.value.length === 4 ? new ByteReader(o.value).u32() : -1);
    if (gives === undefined) {
      const theirs = options.find((o) => o.type === ipcp.address);
      if (theirs) this.peer = read(theirs) as Ipv4;
      return { say: 'ack' };
    }
    const nak: ControlOption[] = [];
    const reject: ControlOption[] = [];
    for (const o of options) {
      const right =
        o.type === ipcp.address
          ? gives
          : o.type === ipcp.firstNames
            ? names[0]
            : o.type === ipcp.secondNames
              ? names[1]
              : undefined;
      if (right === undefined) reject.push(o);
      else if (read(o) !== right) nak.push({ type: o.type, value: u32(right) });
    }
    if (reject.length) return { say: 'reject', options: reject };
    if (nak.length) return { say: 'nak', options: nak };
    this.peer = gives;
    return { say: 'ack' };
  }

  private addressCorrected(options: readonly ControlOption[], rejected: boolean): void {
    const { ipcp } = CP_OPTION;
    for (const o of options) {
      if (rejected) {
        this.rejected.add(o.type);
        if (o.type === ipcp.firstNames) this.wanted.names[0] = 0 as Ipv4;
        if (o.type === ipcp.secondNames) this.wanted.names[1] = 0 as Ipv4;
        continue;
      }
      if (o.value.length !== 4) continue;
      const value = new ByteReader(o.value).u32() as Ipv4;
      if (o.type === ipcp.address) this.wanted.address = value;
      if (o.type === ipcp.firstNames) this.wanted.names[0] = value;
      if (o.type === ipcp.secondNames) this.wanted.names[1] = value;
    }
  }
}

/** The value of LCP's authentication option (RFC 1661 §6.2, for CHAP with its algorithm). */
const protocolOf = (name: 'chap' | 'pap'): Uint8Array =>
  name === 'chap' ? joined([u16(PPP.chap), Uint8Array.of(MD5)]) : u16(PPP.pap);

/** What a challenge is answered with (RFC 1994 §4.1). */
const chapAnswer = (identifier: number, secret: string, challenge: Uint8Array): Uint8Array =>
  md5(joined([Uint8Array.of(identifier), octets(secret), challenge]));
