/** Who has which MAC address on one segment: ARP questions, answers and a cache (RFC 826, RFC 1122 §2.3.2). */
import type { Ipv4, Mac } from '#core/addr';
import type { Arp } from '#core/wire';
import type { Milliseconds, Scheduler } from './scheduler';

/** Tries and the time between them, as RFC 1122 §2.3.2.1 suggests a second. */
const TRIES = 3;
const BETWEEN: Milliseconds = 1000;
/** How long an answer is believed. */
const FRESH: Milliseconds = 60_000;

type Waiting = (mac: Mac | undefined) => void;

export class Neighbours {
  private readonly cache = new Map<Ipv4, { mac: Mac; until: Milliseconds }>();
  private readonly asked = new Map<Ipv4, { tries: number; waiting: Waiting[] }>();

  constructor(
    private readonly scheduler: Scheduler,
    /** Broadcasts a request for an address. */
    private readonly ask: (target: Ipv4, mark?: number) => void,
  ) {}

  /** Calls back with the MAC address, at once where it is known, or undefined when nobody answers. */
  resolve(address: Ipv4, then: Waiting, mark?: number): void {
    const known = this.cache.get(address);
    if (known && known.until > this.scheduler.now) {
      then(known.mac);
      return;
    }
    this.probe(address, then, mark);
  }

  /** Asks although an answer may be known. */
  probe(address: Ipv4, then: Waiting, mark?: number): void {
    const open = this.asked.get(address);
    if (open) {
      open.waiting.push(then);
      return;
    }
    this.asked.set(address, { tries: 0, waiting: [then] });
    this.tryAgain(address, mark);
  }

  private tryAgain(address: Ipv4, mark?: number): void {
    const open = this.asked.get(address);
    if (!open) return;
    if (open.tries++ >= TRIES) {
      this.asked.delete(address);
      this.cache.delete(address);
      for (const then of open.waiting) then(undefined);
      return;
    }
    this.ask(address, mark);
    this.scheduler.after(BETWEEN, () => this.tryAgain(address, mark));
  }

  /** Learns from any ARP message seen: who asks is as known as who answers. */
  learn(arp: Arp): void {
    if (arp.senderIp === 0) return;
    const open = this.asked.get(arp.senderIp);
    this.cache.set(arp.senderIp, { mac: arp.senderMac, until: this.scheduler.now + FRESH });
    if (!open) return;
    this.asked.delete(arp.senderIp);
    for (const then of open.waiting) then(arp.senderMac);
  }

  /** Forgets everything, as when the cable was out. */
  clear(): void {
    this.cache.clear();
  }
}
