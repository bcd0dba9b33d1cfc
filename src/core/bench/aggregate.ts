/**
 * Several cables that work as one (IEEE 802.1AX): by LACP, which uses a link once both ends say that it is in their
 * group, or static, which uses every link that has light. Each flow keeps to one link.
 */
import type { Mac } from '#core/addr';
import { ETHERTYPE, SLOW_GROUP, decodeEthernet, decodeLacp, encodeEthernet, encodeLacp } from '#core/wire';
import type { LacpEnd } from '#core/wire';
import { Nic } from './link';
import type { Frame, Machine } from './link';
import type { Milliseconds, Scheduler } from './scheduler';

/** Between two data units, and how long one is believed (IEEE 802.1AX §6.4.4). */
const FAST: Milliseconds = 1_000;
const SLOW: Milliseconds = 30_000;
const BELIEVED = 3;
/** How long somebody on the other end is waited for before a link goes by itself (§6.4.12, the short timeout). */
const WAITED: Milliseconds = BELIEVED * FAST;

export interface AggregateSetup {
  readonly name: string;
  /** The names of its sockets, in order. */
  readonly sockets: readonly string[];
  readonly mode: 'lacp' | 'static';
  readonly fast: boolean;
  /** Who it is to the other end. */
  readonly system: Mac;
}

/** The socket that the many are to their machine. */
class AggregateNic extends Nic {
  constructor(
    owner: Machine,
    name: string,
    private readonly links: () => readonly Nic[],
  ) {
    super(owner, name);
  }

  override get carrier(): boolean {
    return this.on && this.links().length > 0;
  }

  override send(frame: Frame): void {
    const links = this.carrier ? this.links() : [];
    if (links.length) links[flowOf(frame.bytes) % links.length]!.send(frame);
  }
}

/** A number that is the same for all frames of a flow: of both MAC addresses, and of IPv4 addresses and ports. */
function flowOf(bytes: Uint8Array): number {
  let sum = 0;
  const add = (from: number, to: number) => {
    for (let i = from; i < to && i < bytes.length; i++) sum = (Math.imul(sum, 31) + bytes[i]!) >>> 0;
  };
  add(0, 12);
  const at = bytes[12] === 0x81 && bytes[13] === 0 ? 16 : 12;
  if (bytes[at] === 0x08 && bytes[at + 1] === 0) add(at + 14, at + 26);
  return sum;
}

interface Member {
  readonly nic: Nic;
  /** What the other end says of itself, while it is believed. */
  partner?: LacpEnd;
  /** Whether the other end says that it sees this link of ours. */
  seen: boolean;
  until: Milliseconds;
  /** Since when there is light. */
  lit?: Milliseconds;
}

export class Aggregate {
  readonly nic: Nic;
  /** The sockets of the cables. */
  readonly sockets: readonly Nic[];
  private readonly members: readonly Member[];
  private used: readonly Nic[] = [];

  constructor(
    private readonly owner: Machine,
    private readonly setup: AggregateSetup,
    private readonly scheduler: Scheduler,
  ) {
    this.nic = new AggregateNic(owner, setup.name, () => this.used);
    this.members = setup.sockets.map((name) => ({ nic: new Nic(owner, name), seen: false, until: 0 }));
    this.sockets = this.members.map((m) => m.nic);
  }

  /** The links that frames go by at this moment, in order. */
  get links(): readonly Nic[] {
    return this.used;
  }

  /** Light came or went on one of its sockets. */
  carrierChanged(socket: Nic): void {
    const member = this.members.find((m) => m.nic === socket);
    if (!member) return;
    member.partner = undefined;
    member.seen = false;
    member.lit = socket.carrier ? this.scheduler.now : undefined;
    if (socket.carrier && this.setup.mode === 'lacp') {
      this.speak(member);
      this.scheduler.after(WAITED, () => this.choose());
    }
    this.choose();
  }

  /** Begins, with the cables that are plugged in by now. */
  start(): void {
    for (const m of this.members) if (m.nic.carrier) this.carrierChanged(m.nic);
    if (this.setup.mode === 'lacp') this.beat();
  }

  /** Takes a frame from one of its sockets; gives it back where it came by a link that is in use. */
  receive(socket: Nic, frame: Frame): Frame | undefined {
    const member = this.members.find((m) => m.nic === socket);
    if (!member) return undefined;
    const ethernet = decodeEthernet(frame.bytes);
    if (ethernet.ok && ethernet.value.type === ETHERTYPE.slow) {
      if (this.setup.mode === 'lacp') this.heard(member, ethernet.value.payload);
      return undefined;
    }
    return this.used.includes(socket) ? frame : undefined;
  }

  private heard(member: Member, payload: Uint8Array): void {
    const read = decodeLacp(payload);
    if (!read.ok) return;
    const { actor, partner } = read.value;
    const seen = partner.system === this.setup.system && partner.port === this.portOf(member);
    // Who does not know of us yet, or of what we know by now, is told at once.
    const told = seen && partner.sync === this.isChosen(member, actor);
    member.partner = actor;
    member.seen = seen;
    member.until = this.scheduler.now + BELIEVED * (this.setup.fast ? FAST : SLOW);
    this.choose();
    if (!told) this.speak(member);
  }

  /** Says every so often that it is there, and forgets who has been silent for too long. */
  private beat(): void {
    const { now } = this.scheduler;
    for (const m of this.members) {
      if (m.partner && m.until <= now) {
        m.partner = undefined;
        m.seen = false;
      }
      if (m.nic.carrier) this.speak(m);
    }
    this.choose();
    // Until the other end is found, and where it asks for it, it is spoken to every second.
    const eager = this.members.some((m) => m.nic.carrier && (!m.partner || m.partner.short));
    this.scheduler.after(eager || this.setup.fast ? FAST : SLOW, () => this.beat());
  }

  private portOf = (member: Member): number => this.members.indexOf(member) + 1;

  /** The partner whose links are aggregated: that of the first link with any. */
  private get group(): LacpEnd | undefined {
    return this.members.find((m) => m.nic.carrier && m.partner)?.partner;
  }

  private isChosen(member: Member, partner = member.partner): boolean {
    const group = this.group ?? partner;
    return !!partner && !!group && partner.system === group.system && partner.key === group.key;
  }

  /** Reckons anew which links are used, and tells the machine where light comes or goes for the whole. */
  private choose(): void {
    const had = this.nic.carrier;
    const lit = this.members.filter((m) => m.nic.carrier);
    const agreed = lit.filter((m) => this.isChosen(m) && m.seen && m.partner!.sync);
    // Where nobody speaks LACP, one link goes by itself (§6.7.1: an individual link).
    const alone = lit.filter((m) => m.lit !== undefined && this.scheduler.now - m.lit >= WAITED);
    const now =
      this.setup.mode === 'static'
        ? lit
        : agreed.length || lit.some((m) => m.partner)
          ? agreed
          : alone.slice(0, 1);
    this.used = now.map((m) => m.nic);
    if (had !== this.nic.carrier) this.owner.carrierChanged?.(this.nic);
  }

  private speak(member: Member): void {
    const { system, fast } = this.setup;
    const known = member.partner;
    const active = this.used.includes(member.nic);
    const actor: LacpEnd = {
      system,
      key: 1,
      port: this.portOf(member),
      active: true,
      short: fast,
      aggregatable: true,
      sync: this.isChosen(member),
      collecting: active,
      distributing: active,
      defaulted: !known,
      expired: false,
    };
    const payload = encodeLacp({ actor, partner: known ?? NOBODY });
    member.nic.send({
      bytes: encodeEthernet({ destination: SLOW_GROUP, source: system, type: ETHERTYPE.slow, payload }),
    });
  }
}

const NOBODY: LacpEnd = {
  system: 0 as Mac,
  key: 0,
  port: 0,
  active: false,
  short: false,
  aggregatable: false,
  sync: false,
  collecting: false,
  distributing: false,
  defaulted: false,
  expired: false,
};
