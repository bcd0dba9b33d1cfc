/**
 * What the command that starts the server hands to its routes. They are bundled apart, so it lies where both find it; it
 * never goes into the environment, which every ssh that is started would inherit.
 */
import type { Hand } from '#core/box';
import type { BoxEntry } from './boxes';
import type { Guard } from './guard';

export interface Handoff {
  readonly guard: Guard;
  readonly boxes: readonly BoxEntry[];
  readonly noPractice?: string;
  /** Does something by hand in the practice field; why it cannot is returned. */
  readonly hand?: (hand: Hand) => string | undefined;
}

const KEY = Symbol.for('jolly-gate handoff');
const holder = globalThis as unknown as Record<symbol, Handoff | undefined>;

export const handOver = (handoff: Handoff): void => void (holder[KEY] = handoff);
/** Undefined where the server was not started with live boxes. */
export const handedOver = (): Handoff | undefined => holder[KEY];
