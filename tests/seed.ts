/**
 * Generated tests draw the same values in every run, so that a run tells of the change at hand; `SEED=N npm test` draws
 * others, and `SEED=any` new ones each time.
 */
import fc from 'fast-check';

const { SEED = '61' } = process.env;
if (SEED !== 'any') fc.configureGlobal({ seed: Number(SEED) });
