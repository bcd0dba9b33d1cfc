/** What was reckoned of the reach of earlier texts, to be found again by what it was made from. */
import { Recent } from '#core/base';
import type { DoorRule, LeaveRule, PassageRule } from '#core/semantics';
import type { AtomRow, Part, Row } from './parts';

/** How many names there can be, so that two of them fit into one whole number. */
const NAMES = 2 ** 26;

/**
 * Nothing in it depends on whose text it came from: parts are kept under keys that say all they were made from, so any
 * number of sites may share one memory, and a key that is not found costs time and nothing else.
 */
export class ReachMemory {
  readonly parts = new Recent<Part>(100_000);
  /** Those of whole rows, by what arrives and by its goal; see `pair`. */
  readonly whole = new Recent<Part, number>(100_000);
  /** Names of rules that were seen before. */
  readonly rules = new WeakMap<PassageRule | LeaveRule | DoorRule, number>();
  /** Of the statements from one zone to another, those that take something, by their places; see `shadowed`. */
  readonly taking = new Recent<readonly number[], number>(20_000);
  /** The earlier ones that take something of what one of them names. */
  readonly takers = new Recent<readonly number[], number>(20_000);
  /** The last row of every atom and of every source, by its name. */
  readonly atomRows = new Map<string, AtomRow>();
  readonly rows = new Map<string, Row>();
  private readonly numbers = new Recent<number>(100_000);
  private next = 1;

  /** A name for two names in their order. Numbers are found faster than text, and every pair of ends has one. */
  pair(a: number, b: number): number {
    return a * NAMES + b;
  }

  /** Whether it has no names left: then a new one is to be begun. */
  get isWorn(): boolean {
    return this.next >= NAMES - 1e6;
  }

  /** A short name for a text: equal texts have equal ones for as long as they are remembered, others never. */
  id(text: string): number {
    return this.numbers.of(text, () => this.next++);
  }
}
