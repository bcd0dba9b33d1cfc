/**
 * Generated tests draw the same values in every run, so that a run tells of the change at hand; `SEED=N npm test` draws
 * others, and `SEED=any` new ones each time.
 */
import fc from 'fast-check';

const { SEED } = process.env;
if (SEED !== 'any') fc.configureGlobal({ seed: Number(SEED ?? 61) });

/** The seed of a law with a generator of its own: the one that is said, else the one that every run has. */
export const seedOr = (own: number): number => (SEED === undefined || SEED === 'any' ? own : Number(SEED));

/** Whether this is `verify:deep`, which asks whole what `verify` samples. */
export const isDeep = process.env.DEEP !== undefined;

/** How many generated things a law is asked of: a sample in `verify`, enough for what is rare in `verify:deep`. */
export const howMany = (sample: number, whole: number): number => (isDeep ? whole : sample);
