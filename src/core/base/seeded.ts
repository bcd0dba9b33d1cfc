/** Chance that can be replayed: the 32-bit mulberry generator, one stream for each seed. */
export class Seeded {
  private state: number;

  /** `seed` is any integer; its low 32 bits count. */
  constructor(seed: number) {
    this.state = seed >>> 0;
  }

  /** The next value, 0 to 2^32 − 1. */
  u32(): number {
    this.state = (this.state + 0x6d2b79f5) >>> 0;
    let t = this.state;
    t = Math.imul(t ^ (t >>> 15), t | 1);
    t ^= t + Math.imul(t ^ (t >>> 7), t | 61);
    return (t ^ (t >>> 14)) >>> 0;
  }

  /** A whole number from 0 to `end` − 1. `end` must be 1 to 2^32. */
  below(end: number): number {
    return Math.floor((this.u32() / 2 ** 32) * end);
  }
}
