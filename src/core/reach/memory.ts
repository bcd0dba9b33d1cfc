/** What was reckoned of the reach of earlier texts, to be found again by what it was made from. */
import { Recent } from '#core/base';
import type { AtomRow, Cell, Part, Row } from './table';

/**
 * Nothing in it depends on whose text it came from: parts are kept under keys that say all they were made from, so any
 * number of sites may share one memory, and a key that is not found costs time and nothing else.
 */
export class ReachMemory {
  readonly parts = new Recent<Part>(100_000);
  /** Those of whole rows, by what arrives and by its goal. */
  readonly whole = new Recent<Part>(100_000);
  /** The last row of every atom and of every source, by its name. */
  readonly atomRows = new Map<string, AtomRow>();
  readonly rows = new Map<string, Row>();
  /** What pairs of ends were last joined from, by their names. */
  readonly joints = new Map<string, { readonly parts: readonly Part[]; readonly cell: Cell }>();
  private readonly numbers = new Recent<number>(100_000);
  private next = 1;

  /** A short name for a text: equal texts have equal ones for as long as they are remembered, others never. */
  id(text: string): number {
    return this.numbers.of(text, () => this.next++);
  }
}
