/**
 * Who has which MAC address on one segment: questions, answers and a cache, the same for ARP (RFC 826, RFC 1122
 * §2.3.2) and neighbour discovery (RFC 4861 §7.2).
 */
import type { Ip, Mac } from '#core/addr';
import type { Milliseconds, Scheduler } from './scheduler';

/** Tries and the time between them, as RFC 1122 §2.3.2.1 suggests a second, and RFC 4861 §10 the same. */
const TRIES = 3;
const BETWEEN: Milliseconds = 1000;
/** How long an answer is believed. */
const FRESH: Milliseconds = 60_000;

type Waiting = (mac: Mac | undefined) => void;

export class Neighbours {
  private readonly cache = new Map<Ip, { mac: Mac; until: Milliseconds }>();
  private readonly asked = new Map<Ip, { tries: number; waiting: Waiting[] }>();

  constructor(
    private readonly scheduler: Scheduler,
    /** Asks everybody for an address. */
    private readonly ask: (target: Ip, mark?: number) => void,
  ) {}

  /** Calls back with the MAC address, at once where it is known, or undefined when nobody answers. */
  resolve(address: Ip, then: Waiting, mark?: number): void {
    const known = this.cache.get(address);
    if (known && known.until > this.scheduler.now) {
      then(known.mac);
      return;
    }
    this.probe(address, then, mark);
  }

  /** Asks although an answer may be known. */
  probe(address: Ip, then: Waiting, mark?: number): void {
    const open = this.asked.get(address);
    if (open) {
      open.waiting.push(then);
      return;
    }
    this.asked.set(address, { tries: 0, waiting: [then] });
    this.tryAgain(address, mark);
  }

  private tryAgain(address: Ip, mark?: number): void {
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

  /** Learns from any message seen: who asks is as known as who answers. */
  learn(address: Ip, mac: Mac): void {
    const open = this.asked.get(address);
    this.cache.set(address, { mac, until: this.scheduler.now + FRESH });
    if (!open) return;
    this.asked.delete(address);
    for (const then of open.waiting) then(mac);
  }

  /** Forgets everything, as when the cable was out. */
  clear(): void {
    this.cache.clear();
  }
}
